"""The agenda of a meeting: its points with their time boxes, and how they run."""

from __future__ import annotations

from typing import Any

from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.agenda.models import AgendaTemplate, Point, Preparation
from server.meetings.models import Meeting, Usual
from server.notify import Part
from server.problems import Refused
from server.sharing.policy import Can

_TELLS = (Part.AGENDA,)


def set_agenda(membership: Membership, meeting: Meeting, points: list[tuple[str, int]]) -> None:
    """Replace the points. What became of a point that stays, by its words, is kept."""
    wanted = [(one_line(text)[:200], minutes) for text, minutes in points if one_line(text)]
    with acting(membership, Can.CHANGE, "set agenda", meeting, tells=_TELLS, points=len(wanted)):
        before = {point.text: point for point in meeting.points.all()}
        meeting.points.all().delete()
        for position, (text, minutes) in enumerate(wanted):
            old = before.get(text)
            Point.objects.create(
                meeting=meeting,
                position=position,
                text=text,
                minutes=minutes,
                begun_at=old.begun_at if old else None,
                spent=old.spent if old else 0.0,
            )


def prepare(membership: Membership, uid: str, instance: str, points: list[tuple[str, int]]) -> Preparation:
    """Set the agenda of a meeting that is planned; it becomes the meeting's when that is held."""
    wanted = [[one_line(text)[:200], minutes] for text, minutes in points if one_line(text)]
    with acting(membership, Can.ADD, "prepare agenda", points=len(wanted)):
        return Preparation.objects.update_or_create(
            workspace=membership.workspace, uid=uid, instance=instance, defaults={"points": wanted}
        )[0]


def take_prepared(membership: Membership, meeting: Meeting, uid: str, instance: str) -> None:
    """What was prepared is the meeting's agenda, unless it has one."""
    prepared = Preparation.objects.filter(workspace=membership.workspace, uid=uid, instance=instance).first()
    if prepared and prepared.points and not meeting.points.exists():
        set_agenda(membership, meeting, [(text, minutes) for text, minutes in prepared.points])


def take_standing(membership: Membership, meeting: Meeting, usual: Usual, **given: Any) -> None:
    """The standing agenda of its series is the meeting's, unless it has one."""
    if usual.points and not meeting.points.exists():
        set_agenda(membership, meeting, [(text, minutes) for text, minutes in usual.points])


def turn_to(membership: Membership, meeting: Meeting, position: int | None, at: float) -> None:
    """The talk turns to a point at a second of the record (None: past the last one); what the point before took is kept."""
    with acting(membership, Can.CHANGE, "turn to point", meeting, tells=_TELLS, point=position):
        points = list(meeting.points.select_for_update())
        if position is not None and not any(point.position == position for point in points):
            raise Refused(404, "There is no such point on the agenda.")
        running = next((point for point in points if point.begun_at is not None and point.running), None)
        if running:
            running.spent += max(0.0, at - (running.begun_at or 0.0))
            running.running = False
            running.save()
        for point in points:
            if point.position == position:
                point.begun_at, point.running = at, True
                point.save()


def keep_template(membership: Membership, name: str, points: list[tuple[str, int]]) -> AgendaTemplate:
    """Keep an agenda for a kind of meeting; one of the same name is replaced."""
    name = one_line(name)[:120]
    wanted = [[one_line(text)[:200], minutes] for text, minutes in points if one_line(text)]
    with acting(membership, Can.ARRANGE, "keep agenda template", points=len(wanted)):
        if not name or not wanted:
            raise Refused(422, "A template needs a name and at least one point.")
        return AgendaTemplate.objects.update_or_create(workspace=membership.workspace, name=name, defaults={"points": wanted})[0]


def drop_template(membership: Membership, name: str) -> None:
    """Take a template away; agendas made from it stay."""
    with acting(membership, Can.ARRANGE, "drop agenda template"):
        AgendaTemplate.objects.filter(workspace=membership.workspace, name=name).delete()

"""The agenda of a meeting: its points with their time boxes, and how they run."""

from __future__ import annotations

from django.db import transaction

from server.accounts.models import Membership
from server.agenda.models import AgendaTemplate, Point
from server.audit.log import log
from server.events import tell
from server.meetings.models import Meeting
from server.problems import Refused, not_allowed
from server.sharing.visibility import may_change


def set_agenda(membership: Membership, meeting: Meeting, points: list[tuple[str, int]]) -> None:
    """Replace the points. What became of a point that stays, by its words, is kept."""
    if not may_change(membership, meeting):
        raise not_allowed("Guests set no agenda. Ask a member to.")
    wanted = [(text.strip(), minutes) for text, minutes in points if text.strip()]
    with transaction.atomic():
        before = {point.text: point for point in meeting.points.all()}
        meeting.points.all().delete()
        for position, (text, minutes) in enumerate(wanted):
            old = before.get(text)
            Point.objects.create(
                meeting=meeting,
                position=position,
                text=text[:200],
                minutes=minutes,
                begun_at=old.begun_at if old else None,
                spent=old.spent if old else 0.0,
            )
        log(membership.workspace, membership.user, "set agenda", meeting, points=len(wanted))
        tell(meeting.pk, "agenda")


def turn_to(membership: Membership, meeting: Meeting, position: int | None, at: float) -> None:
    """The talk turns to a point at a second of the record (None: past the last one); what the point before took is kept."""
    if not may_change(membership, meeting):
        raise not_allowed("Guests do not run the agenda.")
    with transaction.atomic():
        points = list(meeting.points.select_for_update())
        if position is not None and not any(point.position == position for point in points):
            raise Refused(404, "There is no such point on the agenda.")
        running = next((point for point in points if point.begun_at is not None and point.running), None)
        if running:
            running.spent += max(0.0, at - running.begun_at)
            running.running = False
            running.save()
        for point in points:
            if point.position == position:
                point.begun_at, point.running = at, True
                point.save()
        tell(meeting.pk, "agenda")


def keep_template(membership: Membership, name: str, points: list[tuple[str, int]]) -> AgendaTemplate:
    """Keep an agenda for a kind of meeting; one of the same name is replaced."""
    if not membership.writes:
        raise not_allowed("Guests keep no templates.")
    wanted = [[text.strip()[:200], minutes] for text, minutes in points if text.strip()]
    if not name.strip() or not wanted:
        raise Refused(422, "A template needs a name and at least one point.")
    with transaction.atomic():
        template, _ = AgendaTemplate.objects.update_or_create(
            workspace=membership.workspace, name=name.strip()[:120], defaults={"points": wanted}
        )
        log(membership.workspace, membership.user, "keep agenda template", name=template.name)
    return template


def drop_template(membership: Membership, name: str) -> None:
    """Take a template away; agendas made from it stay."""
    if not membership.writes:
        raise not_allowed("Guests drop no templates.")
    with transaction.atomic():
        AgendaTemplate.objects.filter(workspace=membership.workspace, name=name).delete()
        log(membership.workspace, membership.user, "drop agenda template", name=name)

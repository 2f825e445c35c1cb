"""Who gets the minutes of a meeting, and when: as it was said of it, else as is usual."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass
from datetime import datetime, timedelta

from django.db.models import Max, Q, QuerySet
from django.utils import timezone

from server.accounts.models import Membership, Workspace
from server.mail.models import Letter, LetterState
from server.mail.wording import Kind
from server.meetings.models import GoesTo, Going, Meeting, Person, Series, Usual, Visibility
from server.minutes.actions.send_mail import address_of
from server.sending.models import Plan
from server.sharing.usual import customs_of
from server.sharing.visibility import listed_meetings, seen_by

OUTWARD = frozenset({Kind.MINUTES, Kind.FOLLOW_UP, Kind.EXCERPT, Kind.MEMO, Kind.AGENDA})
"""Mail that carries something of a meeting to whom somebody chose."""
_LATELY = timedelta(days=14)
"""Of meetings that were ready longer ago nobody is asked any more to look their minutes over."""


@dataclass(frozen=True)
class Receiver:
    """One of those who get the minutes. address: "" where none is known. outside: they have no place in the workspace. sees: they may read the
    meeting itself. sent_at: when the minutes last went to them, by this road."""

    person: Person
    address: str
    outside: bool
    sees: bool
    sent_at: datetime | None = None


@dataclass(frozen=True)
class Way:
    """receivers: in the order of their names. by_hand: somebody has said it of this meeting."""

    receivers: tuple[Receiver, ...]
    going: str
    by_hand: bool = False

    @property
    def waiting(self) -> tuple[Receiver, ...]:
        """Those to whom they have not gone, though they could."""
        return tuple(one for one in self.receivers if one.address and one.sent_at is None)


def way_of(meeting: Meeting) -> Way:
    """Of a meeting that is there."""
    plan = Plan.objects.filter(meeting=meeting).first()
    seers = seen_by(meeting.workspace_id, meeting.created_by_id, meeting.visibility, meeting.readers.values_list("user", flat=True), meeting)
    sent = dict(_letters(meeting).values_list("to").annotate(last=Max("queued_at")))
    if plan:
        return Way(_receivers(meeting.workspace_id, plan.people.all(), seers, sent), plan.going, by_hand=True)
    return _usual_way(meeting.workspace, meeting.created_by_id, meeting.visibility, meeting.series, meeting.people.all(), seers, sent)


def way_of_one_to_come(membership: Membership, visibility: str, series: str, people: Collection[Person], readers: Iterable[int]) -> Way:
    """Of a meeting that a member would make. people: named as present; readers: keys of users who would be let in."""
    known = Series.objects.filter(workspace=membership.workspace_id, name=series).first() if series else None
    seers = seen_by(membership.workspace_id, membership.user_id, visibility, readers)
    return _usual_way(membership.workspace, membership.user_id, visibility, known, people, seers, {})


def _usual_way(
    workspace: Workspace,
    maker: int | None,
    visibility: str,
    series: Series | None,
    present: Iterable[Person],
    seers: list[Membership],
    sent: dict[str, datetime],
) -> Way:
    customs = customs_of(workspace, maker, series)
    tied = Person.objects.filter(workspace=workspace)
    chosen: dict[int, Person] = {}
    if customs.goes_to == GoesTo.PRESENT:
        chosen = {one.pk: one for one in present}
    elif customs.goes_to == GoesTo.SEERS:
        chosen = {one.pk: one for one in tied.filter(user__in=[one.user_id for one in seers])}
    elif customs.goes_to == GoesTo.MAKER:
        chosen = {one.pk: one for one in tied.filter(user=maker)} if maker else {}
    usual = Usual.objects.filter(series=series).first() if series else None
    if usual:
        chosen |= {one.pk: one for one in usual.receivers.all()}
    receivers = _receivers(workspace.pk, chosen.values(), seers, sent)
    everybody_sees = all(one.sees for one in receivers)
    going = customs.going or (Going.AT_ONCE if receivers and everybody_sees else Going.LOOKED_OVER)
    # What is its maker's alone goes to nobody else by itself, whatever is usual.
    if visibility == Visibility.MINE and not everybody_sees:
        going = Going.LOOKED_OVER
    return Way(receivers, going)


def _receivers(workspace: int, people: Iterable[Person], seers: list[Membership], sent: dict[str, datetime]) -> tuple[Receiver, ...]:
    keys = [one.pk for one in people]
    members = set(Membership.objects.filter(workspace=workspace).values_list("user", flat=True))
    seeing = {one.user_id for one in seers}
    found = []
    for person in Person.objects.filter(pk__in=keys).select_related("user").order_by("name"):
        address = address_of(person)
        found.append(Receiver(person, address, person.user_id not in members, person.user_id in seeing, sent.get(address)))
    return tuple(found)


def _letters(meeting: Meeting) -> QuerySet[Letter]:
    return Letter.objects.filter(meeting=meeting, kind=Kind.MINUTES).exclude(state=LetterState.FAILED)


def sent_from(meeting: Meeting) -> QuerySet[Letter]:
    """What of a meeting went to whom by mail, the latest first."""
    return Letter.objects.filter(meeting=meeting, kind__in=OUTWARD).select_related("by").order_by("-queued_at", "-pk")


def sent_from_workspace(workspace: Workspace) -> QuerySet[Letter]:
    """The same of all its meetings."""
    return Letter.objects.filter(workspace=workspace, meeting__isnull=False, kind__in=OUTWARD).select_related("by", "meeting").order_by("-queued_at", "-pk")


def to_look_over(membership: Membership) -> list[tuple[Meeting, Way]]:
    """One's own meetings of late whose minutes wait to be looked over and sent."""
    mine = listed_meetings(membership).filter(created_by=membership.user_id, ready_at__gt=timezone.now() - _LATELY)
    if customs_of(membership.workspace, membership.user_id, None).goes_to == GoesTo.NOBODY:
        of_series = Q(series__usual__receivers__isnull=False) | ~Q(series__usual__goes_to="") & Q(series__usual__isnull=False)
        mine = mine.filter(Q(plan__isnull=False) | of_series).distinct()
    ways = [(meeting, way_of(meeting)) for meeting in mine.select_related("workspace", "series").order_by("-ready_at")[:20]]
    return [(meeting, way) for meeting, way in ways if way.waiting]

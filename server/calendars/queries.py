"""A day as it was planned and as it went."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from core.planning.events import Answer, Status
from server.accounts.models import Membership
from server.calendars.models import Occasion, Planned
from server.meetings.models import Meeting, Person
from server.problems import Refused
from server.sharing.visibility import listed_meetings


@dataclass
class Entry:
    """A meeting of the day: planned, held, or both. answer: what the member said to the invitation. names: of people, as they are called here,
    by address. overlaps: it takes place while another one does that the member goes to."""

    start: datetime
    end: datetime
    planned: Planned | None = None
    meeting: Meeting | None = None
    answer: str = Answer.NONE
    overlaps: bool = False

    @property
    def counts(self) -> bool:
        """Does one go there?"""
        called_off = self.planned is not None and (self.planned.status == Status.CANCELLED or self.planned.all_day)
        return not called_off and self.answer != Answer.DECLINED


def day_of_sheet(membership: Membership, day: date, zone: ZoneInfo) -> list[Entry]:
    """What falls into a day of a zone, in order: from the member's own calendars, and the meetings that they see."""
    first = datetime.combine(day, time(), zone).astimezone(UTC)
    end = datetime.combine(day + timedelta(days=1), time(), zone).astimezone(UTC)
    rows = Planned.objects.filter(calendar__membership=membership, start__lt=end).exclude(end__lt=first).select_related("calendar")
    planned: dict[tuple[str, str], Planned] = {}
    for row in rows:
        # What ends as the day begins was yesterday's; what has no length is where it begins.
        if row.end > first or row.start >= first:
            planned.setdefault((row.uid, row.instance), row)
    held = {(one.uid, one.instance): one.meeting_id for one in Occasion.objects.filter(uid__in={uid for uid, _ in planned}, meeting__in=listed_meetings(membership))}
    around = listed_meetings(membership).filter(started_at__gte=first, started_at__lt=end) | listed_meetings(membership).filter(pk__in=held.values())
    meetings = {one.pk: one for one in around.select_related("recording", "capture").prefetch_related("stage_runs", "people").distinct()}
    entries = []
    for key, row in planned.items():
        meeting = meetings.pop(held[key], None) if key in held else None
        entries.append(Entry(row.start, row.end, row, meeting, _answer(membership, row)))
    entries += [Entry(one.started_at, one.started_at + timedelta(seconds=one.duration), meeting=one) for one in meetings.values()]
    entries.sort(key=lambda one: (not (one.planned and one.planned.all_day), one.start, one.end))
    _overlaps(entries)
    return entries


def planned_of(membership: Membership, planned_id: int) -> Planned:
    """An instance in a calendar of this member. Raises Refused."""
    row = Planned.objects.filter(pk=planned_id, calendar__membership=membership).select_related("calendar").first()
    if row is None:
        raise Refused(404, "That is planned in no calendar of yours (any more).")
    return row


def names_by_address(membership: Membership, rows: Sequence[Planned]) -> dict[str, str]:
    """How people are called here, by the address that they are invited by."""
    addresses = {one["address"] for row in rows for one in row.people if one["address"]}
    people = Person.objects.filter(workspace=membership.workspace, email__in=addresses)
    return {person.email.lower(): person.name for person in people}


def _answer(membership: Membership, row: Planned) -> str:
    address = membership.user.email.lower()
    own = next((one for one in row.people if one["address"] == address), None)
    return own["answer"] if own else Answer.NONE


def _overlaps(entries: Sequence[Entry]) -> None:
    going = [one for one in entries if one.counts and one.planned]
    for number, one in enumerate(going):
        for other in going[number + 1 :]:
            if one.start < other.end and other.start < one.end:
                one.overlaps = other.overlaps = True

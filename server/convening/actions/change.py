"""Change what is known of a meeting: title, time, series, people, who sees it."""

from __future__ import annotations

from collections.abc import Collection
from datetime import datetime

from core.text import one_line
from server.accounts.models import Membership, Workspace
from server.acting import acting
from server.meetings.models import Attendee, Meeting, Series
from server.meetings.people import find_people
from server.notify import Part
from server.pipeline.work import Change
from server.problems import Refused
from server.sharing.policy import Can, may, require
from server.sharing.usual import let_in, take_usual


def change_meeting(
    membership: Membership,
    meeting: Meeting,
    *,
    title: str | None = None,
    started_at: datetime | None = None,
    series: str | None = None,
    people: list[str] | None = None,
    visibility: str | None = None,
    readers: Collection[int] | None = None,
) -> Meeting:
    """Apply what is given and leave the rest. readers: keys of the members who may see it by name. Raises Refused.

    Who was there is one thing and who may see it another: only who governs the meeting sets the latter. Another date moves the dates
    drawn from "by Friday", so the record is then read anew.
    """
    with acting(membership, Can.CHANGE, "change meeting", meeting, tells=(Part.MEETING,)) as act:
        meeting.refresh_from_db()
        if visibility not in (None, meeting.visibility) or readers is not None:
            require(membership, Can.GOVERN, meeting)
        if title is not None:
            if not one_line(title):
                raise Refused(422, "A meeting needs a title.")
            meeting.title = one_line(title)[:200]
            act.note(title=True)
        if started_at is not None and started_at != meeting.started_at:
            meeting.started_at = started_at
            act.note(started_at=True)
            if meeting.ready_at:
                act.changed(Change.RECORD)
        if visibility not in (None, meeting.visibility):
            meeting.visibility = visibility
            act.note(visibility=visibility)
        if series is not None:
            meeting.series = series_named(membership.workspace, series)
            act.note(series=True)
            if meeting.ready_at:
                act.changed(Change.SERIES)
        meeting.save(update_fields=["title", "started_at", "visibility", "series"])
        if series is not None and may(membership, Can.GOVERN, meeting):
            take_usual(membership, meeting)
        if people is not None:
            act.note(people=_set_people(meeting, people))
        if readers is not None:
            act.note(readers=_set_readers(membership, meeting, readers))
    return meeting


def series_named(workspace: Workspace, name: str) -> Series | None:
    """The series of this name, made where there is none; None for no name."""
    name = one_line(name)[:200]
    return Series.objects.get_or_create(workspace=workspace, name=name)[0] if name else None


def _set_people(meeting: Meeting, names: list[str]) -> int:
    wanted = find_people(meeting.workspace, names)
    # Whoever was named in the record was there.
    spoke = set(meeting.voices.exclude(person=None).values_list("person_id", flat=True))
    Attendee.objects.filter(meeting=meeting).exclude(person__in=wanted).exclude(person__in=spoke).delete()
    for person in wanted:
        Attendee.objects.get_or_create(meeting=meeting, person=person)
    return len(wanted)


def _set_readers(membership: Membership, meeting: Meeting, members: Collection[int]) -> int:
    wanted = Membership.objects.filter(workspace=membership.workspace, pk__in=members)
    users = set(wanted.values_list("user", flat=True)) - {meeting.created_by_id}
    if wanted.count() != len(set(members)):
        raise Refused(422, "One of those is not in this workspace (any more). Look at the list again.")
    meeting.readers.exclude(user__in=users).delete()
    let_in(membership, meeting, users)
    return len(users)

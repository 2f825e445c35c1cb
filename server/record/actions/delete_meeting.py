"""Delete a meeting for good: its record and files, and what elsewhere was drawn from it or quotes it."""

from __future__ import annotations

from datetime import timedelta
from uuid import UUID

from django.core.files.storage import default_storage
from django.db.models import DurationField, ExpressionWrapper, F
from django.utils import timezone
from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from core.record.strike import Quotes, Unstrikable, cut, within_span
from core.record.timeline import Span
from server.accounts.models import Membership, name_of
from server.acting import acting
from server.meetings.models import Hold, Meeting
from server.notify import Part
from server.pipeline.files import sweep
from server.pipeline.work import Queue, fresh_connections
from server.problems import AWAY, Refused
from server.purging import Struck, purge, rests_on
from server.record.models import KnownVoice, Line
from server.record.steps import of_row
from server.removals.ledger import note_removal, replays
from server.sharing.policy import Can


def delete_meeting(membership: Membership, meeting: Meeting, name: str) -> None:
    """Nobody sees it from now on, and a durable job deletes it. name: one's own, typed as a signature. It cannot be undone. Raises Refused."""
    own = membership.user.called
    if name.strip().casefold() != own.casefold():
        raise Refused(422, f"Type your own name, {own}, to delete it. It cannot be undone.")
    with acting(membership, Can.GOVERN, "delete meeting", meeting, tells=(Part.MEETING,)):
        if meeting.removed_at is None:
            raise Refused(409, "Take it out of the library first. What was taken out can be deleted.")
        check_hold(meeting)
        let_go_of(meeting)


def delete_overdue() -> int:
    """Those that were taken out longer ago than their workspace keeps them. Returns how many."""
    overdue = Meeting.objects.filter(going_at=None, hold=None, removed_at__lt=timezone.now() - ExpressionWrapper(F("workspace__keep_removed") * timedelta(days=1), DurationField()))
    meetings = list(overdue[:1000])
    for meeting in meetings:
        with acting(None, None, "delete meeting", meeting):
            let_go_of(meeting)
    return len(meetings)


def check_hold(meeting: Meeting) -> None:
    """Raises Refused where a meeting is held: nothing of it goes then."""
    if hold := Hold.objects.filter(meeting=meeting).select_related("by").first():
        raise Refused(409, f"This meeting is held ({name_of(hold.by)}: {hold.why}). Nothing of it goes until that is lifted.")


def let_go_of(meeting: Meeting) -> None:
    """Nobody sees it any more, and a durable job deletes it; in the transaction that is open."""
    note_removal("meeting", meeting=str(meeting.pk))
    Meeting.objects.filter(pk=meeting.pk).update(going_at=timezone.now())
    erase.configure(queueing_lock=f"erase-{meeting.pk}").defer(meeting_id=str(meeting.pk))


@app.task(name="erase meeting", queue=Queue.INTAKE, retry=RetryStrategy(max_attempts=20, exponential_wait=3, retry_exceptions={*AWAY, OSError}))
def erase(meeting_id: str) -> None:
    """Delete what was let go of."""
    with fresh_connections():
        erase_now(UUID(meeting_id))


def erase_now(key: UUID) -> None:
    """The rows first, with what quotes them elsewhere; then the files. It may be cut off anywhere, and is done again."""
    meeting = Meeting.objects.filter(pk=key).first()
    if meeting and meeting.going_at is None:
        return  # not let go of
    if meeting:
        with acting(None, None, "meeting deleted", meeting):
            _purge_elsewhere(meeting)
            KnownVoice.objects.filter(meeting=meeting).delete()
        Meeting.objects.filter(pk=key).delete()
    sweep(default_storage, key, set())


@replays("meeting")
def _delete_again(facts: dict) -> None:
    Meeting.objects.filter(pk=facts["meeting"], going_at=None).update(going_at=timezone.now())
    erase_now(UUID(facts["meeting"]))


def _purge_elsewhere(meeting: Meeting) -> None:
    """As if all of it were struck, with people's own words that rest on it."""
    rows = list(Line.objects.filter(meeting=meeting).order_by("number"))
    lines = [of_row(row) for row in rows]
    span = Span(0.0, max([meeting.duration, *(line.end for line in lines)]) + 1.0)
    try:
        found = cut(lines, within_span(lines, span), [span], whole=True)
    except Unstrikable:
        return  # nothing was said in it
    struck = Struck(meeting, found, Quotes(found), frozenset(row.pk for row in rows), tuple(row.number for row in rows), take_own=True)
    purge(struck, rests_on(struck))

"""Notes, marks and jotted actions: what people write while a meeting goes on."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from django.db.models import Max
from django.utils import timezone

from core.minutes.action_line import Agreed
from core.text import prose
from server.accounts.models import Membership
from server.acting import acting
from server.meetings.models import Meeting
from server.minutes.actions.keep_action import new_action
from server.minutes.models import Finding, MinutesLine
from server.notes.models import Mark, Note
from server.notify import Part
from server.problems import Refused, not_allowed
from server.sharing.policy import Can

_TELLS = (Part.NOTES,)


def _worded(text: str, refusal: str) -> str:
    text = prose(text).strip()
    if not text:
        raise Refused(422, refusal)
    return text


def write_note(membership: Membership, meeting: Meeting, text: str, at: float | None, shared: bool) -> Note:
    """A line of one's own; a guest who sees the meeting may write too, for themselves."""
    # What a private note says is nobody's business, the audit's included.
    with acting(membership, Can.CHANGE if shared else None, "write note", meeting, tells=_TELLS, shared=shared):
        text = _worded(text, "A note needs words.")
        return Note.objects.create(meeting=meeting, user=membership.user, text=text, at=at, shared=shared)


def change_note(
    membership: Membership, note: Note, text: str | None = None, shared: bool | None = None, removed: bool | None = None
) -> Note:
    """Reword, share or take back, remove or put back: only one's own."""
    if note.user_id != membership.user_id:
        raise not_allowed("A note is changed by whoever wrote it.")
    shows = shared or note.shared and text is not None
    with acting(membership, Can.CHANGE if shows else None, "change note", note.meeting, tells=_TELLS) as act:
        if text is not None:
            note.text = _worded(text, "A note needs words. To take it out, remove it.")
        if shared is not None:
            note.shared = shared
        if removed is not None:
            note.removed_at = timezone.now() if removed else None
        note.save()
        act.note(shared=note.shared, removed=bool(note.removed_at))
    return note


def set_mark(membership: Membership, meeting: Meeting, kind: str, start: float, end: float) -> Mark:
    """Flag a passage with one of the workspace's kinds."""
    with acting(membership, Can.CHANGE, "set mark", meeting, tells=_TELLS, kind=kind):
        if kind not in membership.workspace.mark_kinds:
            raise Refused(422, f"There is no kind of mark {kind!r}. Kinds: {', '.join(membership.workspace.mark_kinds)}.")
        if not 0 <= start <= end:
            raise Refused(422, "A mark has a passage: its start is not after its end.")
        return Mark.objects.create(meeting=meeting, user=membership.user, kind=kind, start=start, end=end)


def remove_mark(membership: Membership, mark: Mark, removed: bool) -> None:
    """Take a mark off, or put it back."""
    verb = "remove mark" if removed else "restore mark"
    with acting(membership, Can.CHANGE, verb, mark.meeting, tells=_TELLS, kind=mark.kind):
        mark.removed_at = timezone.now() if removed else None
        mark.save(update_fields=["removed_at"])


def jot_action(
    membership: Membership, meeting: Meeting, text: str, owner: str, due: date | None, at: float, lines: Sequence[int] = ()
) -> Finding:
    """An action in a person's words, which stands in the minutes. It rests on the lines of these numbers; jotted down while people still
    speak, on what was being said then, once there is a record. Whoever is to do it is not let in by that, and was not there by that."""
    with acting(membership, Can.CHANGE, "jot down action", meeting, tells=(Part.NOTES, Part.MINUTES)):
        text = _worded(text, "Say what is to be done.")
        finding = new_action(membership, meeting, text, Agreed(owner or None, due), at, lines)
        last = MinutesLine.objects.filter(meeting=meeting, section="actions").aggregate(last=Max("position"))["last"]
        row = MinutesLine.objects.create(
            meeting=meeting,
            section="actions",
            position=0 if last is None else last + 1,
            text=f"{finding.owner_name}: {finding.text}" if finding.owner_name else finding.text,
            hand=membership.user,
            hand_initials=membership.user.initials,
            drawn=False,
            finding=finding,
        )
        row.lines.set(finding.lines.all())
    return finding

"""Notes, marks and jotted actions: what people write while a meeting goes on."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from django.db import transaction
from django.db.models import Max
from django.utils import timezone

from server.accounts.models import Membership
from server.audit.log import log
from server.events import tell
from server.meetings.actions.people import find_people
from server.meetings.models import Attendee, Meeting
from server.minutes.models import Finding, MinutesLine
from server.notes.models import Mark, Note
from server.problems import Refused, not_allowed
from server.record.models import Line
from server.sharing.visibility import may_change


def write_note(membership: Membership, meeting: Meeting, text: str, at: float | None, shared: bool) -> Note:
    """A line of one's own; a guest who was there may write too, for themselves."""
    if shared and not may_change(membership, meeting):
        raise not_allowed("Guests write for themselves only.")
    if not text.strip():
        raise Refused(422, "A note needs words.")
    with transaction.atomic():
        note = Note.objects.create(meeting=meeting, user=membership.user, text=text.strip(), at=at, shared=shared)
        # What a private note says is nobody's business, the audit's included.
        log(membership.workspace, membership.user, "write note", meeting, shared=shared)
        tell(meeting.pk, "notes")
    return note


def change_note(
    membership: Membership, note: Note, text: str | None = None, shared: bool | None = None, removed: bool | None = None
) -> Note:
    """Reword, share or take back, remove or put back: only one's own."""
    if note.user_id != membership.user_id:
        raise not_allowed("A note is changed by whoever wrote it.")
    if shared and not may_change(membership, note.meeting):
        raise not_allowed("Guests write for themselves only.")
    with transaction.atomic():
        if text is not None:
            if not text.strip():
                raise Refused(422, "A note needs words. To take it out, remove it.")
            note.text = text.strip()
        if shared is not None:
            note.shared = shared
        if removed is not None:
            note.removed_at = timezone.now() if removed else None
        note.save()
        log(membership.workspace, membership.user, "change note", note.meeting, shared=note.shared, removed=bool(note.removed_at))
        tell(note.meeting_id, "notes")
    return note


def set_mark(membership: Membership, meeting: Meeting, kind: str, start: float, end: float) -> Mark:
    """Flag a passage with one of the workspace's kinds."""
    if not may_change(membership, meeting):
        raise not_allowed("Guests set no marks. Write a note for yourself.")
    if kind not in membership.workspace.mark_kinds:
        raise Refused(422, f"There is no kind of mark {kind!r}. Kinds: {', '.join(membership.workspace.mark_kinds)}.")
    if not 0 <= start <= end:
        raise Refused(422, "A mark has a passage: its start is not after its end.")
    with transaction.atomic():
        mark = Mark.objects.create(meeting=meeting, user=membership.user, kind=kind, start=start, end=end)
        log(membership.workspace, membership.user, "set mark", meeting, kind=kind)
        tell(meeting.pk, "notes")
    return mark


def remove_mark(membership: Membership, mark: Mark, removed: bool) -> None:
    """Take a mark off, or put it back."""
    if not may_change(membership, mark.meeting):
        raise not_allowed("Guests change no marks.")
    with transaction.atomic():
        mark.removed_at = timezone.now() if removed else None
        mark.save(update_fields=["removed_at"])
        log(membership.workspace, membership.user, "remove mark" if removed else "restore mark", mark.meeting, kind=mark.kind)
        tell(mark.meeting_id, "notes")


def jot_action(
    membership: Membership, meeting: Meeting, text: str, owner: str, due: date | None, at: float, lines: Sequence[int] = ()
) -> Finding:
    """An action in a person's words, which stands in the minutes. It rests on the lines of these numbers; jotted down while people still
    speak, on what was being said then, once there is a record."""
    if not may_change(membership, meeting):
        raise not_allowed("Guests jot down no actions. Tell a member.")
    if not text.strip():
        raise Refused(422, "Say what is to be done.")
    with transaction.atomic():
        person = find_people(membership.workspace, [owner])[0] if owner.strip() else None
        if person:
            Attendee.objects.get_or_create(meeting=meeting, person=person)
        finding = Finding.objects.create(
            meeting=meeting,
            kind="action",
            text=text.strip(),
            status="standing",
            confidence=1.0,
            owner=person,
            owner_name=person.name if person else "",
            due=due,
            start=at,
            end=at,
            jotted_by=membership.user,
        )
        evidence = Line.objects.filter(meeting=meeting, number__in=lines)
        finding.lines.set(evidence)
        last = MinutesLine.objects.filter(meeting=meeting, section="actions").aggregate(last=Max("position"))["last"]
        row = MinutesLine.objects.create(
            meeting=meeting,
            section="actions",
            position=0 if last is None else last + 1,
            text=f"{person.name}: {finding.text}" if person else finding.text,
            hand=membership.user,
            hand_initials=membership.user.initials,
            drawn=False,
            finding=finding,
        )
        row.lines.set(evidence)
        log(membership.workspace, membership.user, "jot down action", meeting)
        tell(meeting.pk, "notes", "minutes")
    return finding

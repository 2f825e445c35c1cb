"""How a record is changed by hand, whatever the change: alone, kept with its way back, and with what rested on it drawn anew."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from difflib import SequenceMatcher

from django.db.models import Max

from core.record.edit import Misplaced
from core.record.model import Word
from core.record.spacing import words_in, written
from server.accounts.models import Membership
from server.acting import Act, acting
from server.meetings.models import Meeting
from server.notify import Part
from server.pipeline.work import Change
from server.problems import Refused
from server.record.models import Edit
from server.record.steps import take
from server.sharing.policy import Can
from server.words.models import WordFix

_FIXED = 4  # words that are put in the place of others, up to which it is a misheard name and not another wording


@contextmanager
def changing(membership: Membership, meeting: Meeting, verb: str = "edit record") -> Iterator[Act]:
    """A verb that changes a record; what rested on it is then drawn anew."""
    tells = (Part.RECORD, Part.REVIEW, Part.MEETING)
    try:
        with acting(membership, Can.CHANGE, verb, meeting, tells=tells, after=Change.RECORD) as act:
            yield act
    except Misplaced as problem:
        raise Refused(422, str(problem)) from problem


def make(membership: Membership, meeting: Meeting, kind: str, steps: Sequence[dict]) -> Edit:
    """Take steps, and keep them as an edit. What was taken back before cannot be made again after it."""
    return _keep(membership, meeting, kind, [_taken(meeting, step) for step in steps])


def _taken(meeting: Meeting, step: dict) -> dict:
    """Take a step; it is kept together with its way back."""
    return {**step, "back": take(meeting, step)}


def _keep(membership: Membership, meeting: Meeting, kind: str, steps: list[dict]) -> Edit:
    meeting.edits.filter(undone_at__isnull=False).update(dropped=True)
    number = (meeting.edits.aggregate(last=Max("number"))["last"] or 0) + 1
    edit = Edit.objects.create(meeting=meeting, number=number, user=membership.user, kind=kind, steps=steps)
    note_fixes(membership, edit)
    return edit


def note_fixes(membership: Membership, edit: Edit) -> None:
    """What was heard and what was meant: three times the same is offered for the word list. An edit that is taken back takes it along."""
    for step in edit.steps:
        if step["step"] == "line":
            _note_fixes(membership, edit, step)


def _note_fixes(membership: Membership, edit: Edit, step: dict) -> None:
    text, words = step["from"]
    before = [word.heard or word.text for word in map(Word.unpacked, words)] or words_in(text)
    after = words_in(step["to"][0])
    for tag, first, last, begin_, end in SequenceMatcher(None, [_bare(w) for w in before], [_bare(w) for w in after], False).get_opcodes():
        if tag == "replace" and last - first <= _FIXED and end - begin_ <= _FIXED:
            heard, meant = _bare(written(before[first:last])), written(after[begin_:end]).strip(_SIGNS)
            if not heard or not meant:
                continue
            WordFix.objects.create(
                workspace=membership.workspace,
                meeting=edit.meeting,
                edit=edit.number,
                line=step["line"],
                heard=heard,
                meant=meant,
                user=membership.user,
            )


_SIGNS = " .,;:!?…\"'“”‘’()"


def _bare(text: str) -> str:
    return text.strip(_SIGNS).lower()

"""Words of a record put right by hand, and corrections of the program's taken back."""

from __future__ import annotations

from django.db import transaction

from core.record.edit import Misplaced, replace_words
from core.record.model import Word
from core.speech.word_list import uncorrected
from server.accounts.models import Membership
from server.audit.log import log
from server.events import tell
from server.meetings.models import Meeting
from server.pipeline.stages import AFTER_CHANGES
from server.pipeline.tasks import begin
from server.problems import Refused, not_allowed
from server.record.models import Line
from server.sharing.visibility import may_change
from server.words.models import WordFix


def fix_words(membership: Membership, meeting: Meeting, number: int, first: int, last: int, text: str, before: str) -> Line:
    """Put words `first` … `last` of a line right. `before`: what the caller saw there, so that nobody's change is overwritten unseen.

    Raises Refused when the line says something else by now, or nothing would be left of it.
    """
    with transaction.atomic():
        line, words = _locked(membership, meeting, number)
        seen = " ".join(word.text for word in words[first : last + 1])
        if seen != before:
            raise Refused(409, f"Somebody has changed this line: it now says “{line.text}”. Look at it again.", text=line.text)
        heard = " ".join(word.heard or word.text for word in words[first : last + 1])
        try:
            words = replace_words(words, first, last, text)
        except Misplaced as problem:
            raise Refused(422, str(problem)) from problem
        _keep(line, words)
        bare, meant = _bare(heard), _bare(text)
        if meant and bare != meant:  # words taken out are nothing for the list
            WordFix.objects.create(
                workspace=membership.workspace, meeting=meeting, line=number, heard=bare.lower(), meant=meant, user=membership.user
            )
        log(membership.workspace, membership.user, "put words right", meeting, line=number)
        begin(meeting, AFTER_CHANGES)
        tell(meeting.pk, "record", "review")
    return line


def take_back(membership: Membership, meeting: Meeting, number: int, index: int) -> Line:
    """Put back what was heard where the word list put a term in its place."""
    with transaction.atomic():
        line, words = _locked(membership, meeting, number)
        if not 0 <= index < len(words) or not words[index].heard:
            raise Refused(409, "The word list put nothing in the place of this word.")
        words[index] = uncorrected(words[index])
        _keep(line, words)
        log(membership.workspace, membership.user, "take a correction back", meeting, line=number)
        begin(meeting, AFTER_CHANGES)
        tell(meeting.pk, "record", "review")
    return line


def confirm_words(membership: Membership, meeting: Meeting, number: int) -> None:
    """Somebody has heard a line and found it right: nothing of it is in doubt any more."""
    with transaction.atomic():
        line, _ = _locked(membership, meeting, number)
        line.checked = True
        line.save(update_fields=["checked"])
        log(membership.workspace, membership.user, "find a line right", meeting, line=number)
        tell(meeting.pk, "review")


def _locked(membership: Membership, meeting: Meeting, number: int) -> tuple[Line, list[Word]]:
    """The line, for this transaction to change, and its words."""
    if not may_change(membership, meeting):
        raise not_allowed("Guests read records; they do not change them.")
    line = Line.objects.select_for_update().filter(meeting=meeting, number=number).first()
    if line is None:
        raise Refused(404, "There is no such line in this record.")
    return line, [Word.unpacked(word) for word in line.words]


def _keep(line: Line, words: list[Word]) -> None:
    line.words = [word.packed() for word in words]
    line.text = " ".join(word.text for word in words)
    line.save(update_fields=["words", "text"])


def _bare(text: str) -> str:
    return text.strip(" .,;:!?…\"'“”‘’()")

"""Words of a record put right by hand, and corrections of the program's taken back."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from core.record.edit import replace_words
from core.record.model import Word
from core.record.spacing import written
from core.speech.word_list import uncorrected
from server.accounts.models import Membership
from server.acting import acting
from server.meetings.models import Meeting
from server.notify import Part
from server.problems import Refused
from server.record.changing import changing, make
from server.record.models import Line
from server.record.steps import changed, line_of, of_row, text_step
from server.sharing.policy import Can


def fix_words(membership: Membership, meeting: Meeting, number: int, first: int, last: int, text: str, before: str) -> None:
    """Put words `first` … `last` of a line right. `before`: what the caller saw there, so that nobody's change is overwritten unseen.

    Raises Refused when the line says something else by now, or nothing would be left of it.
    """
    with changing(membership, meeting):
        line = line_of(meeting, number)
        words = of_row(line).words
        seen = written(word.text for word in words[first : last + 1])
        if seen != before:
            raise changed(line)
        make(membership, meeting, "words", [_with_words(line, replace_words(words, first, last, text))])


def take_back(membership: Membership, meeting: Meeting, number: int, index: int) -> None:
    """Put back what was heard where the word list put a term in its place."""
    with changing(membership, meeting):
        line = line_of(meeting, number)
        words = list(of_row(line).words)
        if not 0 <= index < len(words) or not words[index].heard:
            raise Refused(409, "The word list put nothing in the place of this word.")
        words[index] = uncorrected(words[index])
        make(membership, meeting, "as heard", [_with_words(line, words)])


def confirm_words(membership: Membership, meeting: Meeting, number: int) -> None:
    """Somebody has heard a line and found it right: nothing of it is in doubt any more."""
    with acting(membership, Can.CHANGE, "find a line right", meeting, tells=(Part.REVIEW,), line=number):
        line = line_of(meeting, number)
        line.checked = True
        line.save(update_fields=["checked"])


def _with_words(line: Line, words: Sequence[Word]) -> dict:
    """The step to other words of a line."""
    return text_step(line, replace(of_row(line), text=written(word.text for word in words), words=tuple(words)))

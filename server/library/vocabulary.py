"""The words that records, minutes and titles hold: the forms of a word, and what a slip of the pen was
meant to be, are found in them, without a look at every line."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from datetime import timedelta
from functools import reduce
from operator import and_, or_

from django.contrib.postgres.search import CombinedSearchQuery, SearchQuery
from django.db.models import Exists, OuterRef, Q, QuerySet
from django.utils import timezone

from core.search.forms import BEGINNING, STEMMED, other_forms
from core.search.slips import meant, spelled
from server.library.models import HeldWord
from server.meetings.models import Meeting
from server.minutes.models import MinutesLine
from server.record.models import Line
from server.searched import asked_for, by_signs

_MOST_WORDS = 8
"""Words of a search that are looked at for slips."""
_ENDING = 4
"""Letters by which two forms of a word differ in length at the most."""
_LATELY = timedelta(minutes=10)
_AT_A_TIME = 500


def keep_words(texts: Iterable[str]) -> None:
    """Those that are not known yet. In one statement and in order, at the end of what is kept: two that do so at once wait, and end."""
    words = sorted(set().union(*map(spelled, texts)))
    HeldWord.objects.bulk_create([HeldWord(word=word) for word in words], ignore_conflicts=True)


def keep_words_of(meeting: Meeting) -> None:
    """All that its record says, and its title."""
    keep_words([meeting.title, *Line.objects.filter(meeting=meeting).values_list("text", flat=True)])


def keep_written_words() -> None:
    """What was written into minutes within the last minutes."""
    keep_words(MinutesLine.objects.filter(changed_at__gt=timezone.now() - _LATELY).values_list("text", flat=True))


def forget_words(texts: Iterable[str], lines: Iterable[int]) -> None:
    """Words of what goes from these lines (keys), as far as no other line or minutes hold them. What is left of the lines is kept again when
    their meeting is indexed anew."""
    words = set().union(*map(spelled, texts))
    _unheld(HeldWord.objects.filter(word__in=words), Q(pk__in=lines)).delete()


def sweep_words() -> int:
    """Let go of what nothing holds any more, such as words that were put right. Returns how many. What meetings are called now is kept."""
    keep_words(Meeting.objects.values_list("title", flat=True))
    gone, last = 0, ""
    while words := list(HeldWord.objects.filter(word__gt=last).order_by("word").values_list("word", flat=True)[:_AT_A_TIME]):
        last = words[-1]
        gone += _unheld(HeldWord.objects.filter(word__in=words)).delete()[0]
    return gone


def _unheld(words: QuerySet[HeldWord], but: Q | None = None) -> QuerySet[HeldWord]:
    said = SearchQuery(OuterRef("word"), config="simple")
    lines = Line.objects.filter(search=said)
    others = (~Exists(model.objects.filter(search=said)) for model in (MinutesLine, Meeting))
    return words.filter(~Exists(lines.exclude(but) if but else lines), *others)


def meant_by(words: str) -> SearchQuery | CombinedSearchQuery | None:
    """What to search for in place of words of which some are nowhere: for each of these those it may have been meant to be. None where there is
    nothing of the kind."""
    typed = _typed(words)
    known = set(HeldWord.objects.filter(word__in=spelled(words)).values_list("word", flat=True))
    instead = {text: [one for word in spelled(text) - known for one in meant(word, _like(word))] for text in typed}
    return _all_of(instead) if any(instead.values()) else None


def asked_in_forms(words: str, languages: Collection[str]) -> SearchQuery | CombinedSearchQuery:
    """What somebody types, each word in all the forms that it has in these languages; where they ask by signs, as they stand."""
    typed = _typed(words)
    if not languages or by_signs(words) or len(typed) == _MOST_WORDS:
        return asked_for(words)
    return _all_of({text: _forms(text, languages) for text in typed})


def _typed(words: str) -> list[str]:
    return list(dict.fromkeys(words.lower().split()))[:_MOST_WORDS]


def _all_of(words: Mapping[str, Sequence[str]]) -> SearchQuery | CombinedSearchQuery:
    """Each of the words, or what may stand in its place."""
    return reduce(and_, (reduce(or_, map(asked_for, [word, *others])) for word, others in words.items()))


def _forms(text: str, languages: Collection[str]) -> list[str]:
    found = []
    for word in spelled(text):
        known = HeldWord.objects.filter(word__startswith=word[:BEGINNING]).values_list("word", flat=True)
        found += other_forms(word, known, languages)
    return found


def languages_of(workspace_id: int) -> list[str]:
    """Those that its meetings are held in, of which the forms of words are to be looked for."""
    held = Meeting.objects.filter(workspace=workspace_id).exclude(language__in=("", "en")).order_by().values_list("language", flat=True).distinct()
    return sorted({one for language in held for one in language.split("+")} & STEMMED.keys())


def _like(word: str) -> QuerySet[HeldWord, str]:
    """Known words that begin with the same letter or share much of it."""
    alike = Q(word__startswith=word[0]) | Q(word__trigram_similar=word)
    return HeldWord.objects.filter(alike, word__regex=rf"^.{{{max(1, len(word) - _ENDING)},{len(word) + _ENDING}}}$").values_list("word", flat=True)

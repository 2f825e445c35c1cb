"""What the program says, in the language of whoever asks.

A sentence is written in English where it is meant, also in `core`, which knows nothing of languages. What it is in another one stands in
`texts/LANGUAGE.json` under the sentence itself, with {0}, {1} … for what is put into it: so a sentence that was said to a worker, and kept,
is read in any language, too. To add a language: a file there, and a line in `LANGUAGES` of the settings and in `Language`.
"""

from __future__ import annotations

import json
import re
from datetime import date, datetime
from functools import cache
from pathlib import Path
from typing import Annotated
from zoneinfo import ZoneInfo

from django.conf import settings
from django.db.models import TextChoices
from django.utils import dateformat
from django.utils.translation import get_language, override
from pydantic import PlainSerializer

_TEXTS = Path(__file__).parent / "texts"
_PLACE = re.compile(r"\{(\d)\}")
_FEWEST = 8
"""Letters that a sentence has beside what is put into it; in fewer, one would find people's words."""
_MOST = 2000
"""Letters of the longest text that is looked up: more is a list of faults in what a program sent, and would be searched for long."""
_NAMED = re.compile(r"(?P<of>.+?): (?P<words>.+)", re.DOTALL)


class Book:
    """Sentences in one language, and parts: what the program puts into sentences of its own, such as what a stage of the work does."""

    def __init__(self, sentences: dict[str, str], parts: dict[str, str]) -> None:
        self.sentences = sentences | parts
        # People's words are put into sentences as well, and are left as they are: only a part, or a whole sentence, is the program's.
        self._inside = {*parts, *(one for one in sentences if one.endswith("."))}
        # The one that has most of a text in it says it best, so it is tried first.
        with_places = sorted(filter(_PLACE.search, self.sentences), key=_words_of, reverse=True)
        self._patterns = [(_pattern(one), one) for one in with_places if _words_of(one) >= _FEWEST]

    def put(self, text: str, *, inside: bool = False) -> str:
        """A text in this language; as it is where nobody has said how it is put. inside: it was put into a sentence."""
        if len(text) > _MOST:
            return text
        if text in self.sentences and (not inside or text in self._inside):
            return self.sentences[text]
        for pattern, sentence in self._patterns:
            if (not inside or sentence in self._inside) and (found := pattern.fullmatch(text)):
                return _filled(self.sentences[sentence], [self.put(part, inside=True) for part in found.groups()])
        # Of a file, or a field: “notes.vtt: no passages with times were found in it.”
        if not inside and (named := _NAMED.fullmatch(text)) and (words := self.put(named["words"], inside=True)) != named["words"]:
            return f"{named['of']}: {words}"
        return text


def _words_of(sentence: str) -> int:
    return len(_PLACE.sub("", sentence))


def _pattern(sentence: str) -> re.Pattern[str]:
    parts = _PLACE.split(sentence)
    return re.compile("".join("(.+?)" if place % 2 else re.escape(part) for place, part in enumerate(parts)), re.DOTALL)


def _filled(sentence: str, parts: list[str]) -> str:
    return _PLACE.sub(lambda place: parts[int(place[1])], sentence)


@cache
def book(language: str) -> Book:
    """What there is in a language of `LANGUAGES`; nothing in English, in which it is written."""
    if language == settings.LANGUAGE_CODE:
        return Book({}, {})
    return Book(**json.loads((_TEXTS / f"{language}.json").read_text(encoding="utf-8")))


def _spoken() -> Book:
    return book(get_language() or settings.LANGUAGE_CODE)


def translated(text: str) -> str:
    """A sentence of the program's in the language of whoever asks, or is written to; as it is, where nobody does."""
    return _spoken().put(text) if get_language() != settings.LANGUAGE_CODE else text


def said(sentence: str, *parts: object) -> str:
    """The same of one with {0}, {1} … in it, and what is put there, which is left as it is."""
    return _spoken().sentences.get(sentence, sentence).format(*parts)


HOUR, LONG_HOUR, DAY, LONG_DAY, MOMENT = "l j F, H:i", "l j F Y, H:i", "l j F", "j F Y", "j F Y, H:i"
"""How a moment is written, in the letters of Django's `date` filter. In other languages it is put otherwise, as sentences are."""


def at(moment: date, form: str, zone: str = "") -> str:
    """A moment, on the clocks of a zone where one is named; or a day."""
    there = moment.astimezone(ZoneInfo(zone)) if zone and isinstance(moment, datetime) else moment
    return dateformat.format(there, translated(form))


def alongside(spoken: str | None) -> override:
    """A context in which our words stand beside those in a language, such as headings over lines of minutes: they are in the same, where we have it.
    spoken: ISO 639-1, several joined by "+", the first of them the one that most is said in; "" or None where that is not known."""
    first = (spoken or "").split("+")[0]
    return override(first if first in Language else settings.LANGUAGE_CODE)


class Language(TextChoices):
    """Those of `LANGUAGES` in the settings, which are read before this is."""

    EN = "en"
    ES = "es"


OurWords = Annotated[str, PlainSerializer(translated)]
"""In what the API answers: a sentence of the program's own, and nobody's words."""

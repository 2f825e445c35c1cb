"""A person's name taken out of words: whoever said them, and whatever is kept of them."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable, Sequence
from dataclasses import replace
from typing import Any

from core.record.model import Line

NAMELESS = "[name]"
"""What stands in its place."""


class Names:
    """The ways in which somebody is called."""

    def __init__(self, full: str, others: Iterable[str] = (), addresses: Iterable[str] = ()):
        """full: the name. others: the names of all others who are known, so that a first or last name that somebody else has as well is not
        taken for this one's. addresses: e-mail addresses."""
        words = full.split()
        shared = {_plain(word) for other in others for word in other.split()}
        own = [word for word in words if len(word) > 2 and _plain(word) not in shared]
        self.words = tuple(word.casefold() for word in own)
        """Single words of it by which somebody is meant, in small letters."""
        ways = [full, *own, *addresses]
        pieces = [re.escape(_plain(way)) for way in sorted({way for way in ways if way}, key=len, reverse=True)]
        self._found = re.compile(rf"(?<!\w)(?:{'|'.join(pieces)})(?!\w)") if pieces else None

    def among(self, text: str) -> bool:
        """Is the name in a text?"""
        return bool(self._found and self._found.search(_plain(text)))

    def without(self, value: Any) -> Any:
        """A text with NAMELESS for the name, or texts in lists and dicts; the same value where it is not there."""
        if isinstance(value, str):
            return self._blanked(value)
        if isinstance(value, dict):
            return {key: self.without(one) for key, one in value.items()}
        if isinstance(value, Sequence):
            return [self.without(one) for one in value]
        return value

    def line_without(self, line: Line) -> Line:
        """A line of a record without the name, in its text and its words: of a name of several words each is blanked."""
        if not self.among(line.text):
            return line
        words, at = [], 0
        spans = list(self._found.finditer(_plain(line.text))) if self._found else []
        for word in line.words:
            start = line.text.find(word.text, at)
            end = start + len(word.text)
            at = max(at, end)
            hit = any(span.start() < end and start < span.end() for span in spans) if start >= 0 else self.among(word.text)
            words.append(replace(word, text=NAMELESS, heard="") if hit else word)
        return replace(line, text=self._blanked(line.text), words=tuple(words))

    def _blanked(self, text: str) -> str:
        if self._found is None:
            return text
        pieces, until = [], 0
        for match in self._found.finditer(_plain(text)):
            pieces += [text[until : match.start()], NAMELESS]
            until = match.end()
        return "".join([*pieces, text[until:]])


def _plain(text: str) -> str:
    """As it is compared: small letters without marks, sign for sign as long as the text."""
    return "".join(_sign(sign) for sign in text)


def _sign(sign: str) -> str:
    small = unicodedata.normalize("NFD", sign)[0].casefold()
    return small if len(small) == 1 else sign

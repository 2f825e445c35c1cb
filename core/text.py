"""Texts as they are kept and compared."""

from __future__ import annotations

import unicodedata
from collections.abc import Callable

_JOINERS = "\u200c\u200d"
"""Signs that cannot be seen and without which words of some scripts, and some emoji, are others."""


Put = Callable[[str], str]
"""How what the program says itself is put in another language; it is written in English."""


def as_written(text: str) -> str:
    """In no other language."""
    return text


def one_line(text: str) -> str:
    """A name or a title as it is kept: on one line, without signs that cannot be seen (Unicode category C), no space at its ends."""
    kept = (" " if sign.isspace() else sign for sign in text if sign.isspace() or sign in _JOINERS or unicodedata.category(sign)[0] != "C")
    return " ".join("".join(kept).split())


def prose(text: str) -> str:
    """A text of several lines as it is kept: without signs that steer a terminal or end a string (category Cc, but for tab and line feed)."""
    return "".join(sign for sign in text.replace("\r\n", "\n").replace("\r", "\n") if sign in "\t\n" or unicodedata.category(sign) not in ("Cc", "Cs"))


def folded(name: str) -> str:
    """What two names have in common that are the same to a reader: case, width and composition do not count.

    By Unicode's definition of a compatibility caseless match (The Unicode Standard, section 3.13, D146), and kept in a column where names
    have to differ: PostgreSQL's `lower` knows other rules ("İ", a final "Σ").
    """
    decomposed = unicodedata.normalize("NFKD", unicodedata.normalize("NFD", one_line(name)).casefold())
    return unicodedata.normalize("NFKD", decomposed.casefold())

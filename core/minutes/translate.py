"""Minutes in another language, by rules; names and listed words stay as they are."""

from __future__ import annotations

import re
from collections.abc import Sequence

from core.reading.due import MONTHS, WEEKDAYS
from core.speech.translate import translate

_PLACE = "X{}Q"
"""What stands for a kept word while the rest is translated: an unknown word, which the rules leave alone."""
_KEPT = re.compile(r"X(\d+)Q", re.IGNORECASE)

_CALENDAR = "|".join(word.capitalize() for word in (*WEEKDAYS, *MONTHS))
_TO_DO = re.compile(r"^([A-Z][\w'’-]+) to (?=[a-z])")


def in_language(texts: Sequence[str], language: str, keep: Sequence[str] = ()) -> list[str]:
    """English texts in another language, "en" as they are. keep: words and names that stay untouched.

    Raises InputProblem for a language there is no way to.
    """
    if language == "en":
        return list(texts)
    known = sorted({word for word in keep if word.strip()}, key=len, reverse=True)
    # Names are kept also where they are not listed: a capital within a sentence.
    capital = rf"(?<=[a-z,;] )(?!(?:{_CALENDAR})s?\b|I\b)[A-Z][\w'’-]+"
    pattern = re.compile("|".join([*(rf"\b{re.escape(word)}\b" for word in known), capital, r"(?<!\w)[A-Z]{2,}\b"]))
    kept: list[str] = []

    def hide(found: re.Match[str]) -> str:
        kept.append(found[0])
        return _PLACE.format(len(kept) - 1)

    # "Gwen to send" is no sentence that the rules know.
    hidden = [pattern.sub(hide, _TO_DO.sub(r"\1 has to ", text)) for text in texts]
    return [
        _KEPT.sub(lambda found: kept[int(found[1])] if int(found[1]) < len(kept) else found[0], text)
        for text in translate(hidden, language)
    ]

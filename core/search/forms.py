"""Other forms of a word, in the languages that meetings are held in: known words of the same stem (Snowball, as of snowballstemmer)."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from functools import cache
from typing import Any

import snowballstemmer

STEMMED = {
    "ar": "arabic", "ca": "catalan", "da": "danish", "de": "german", "el": "greek", "es": "spanish", "et": "estonian", "eu": "basque", "fi": "finnish",
    "fr": "french", "ga": "irish", "hi": "hindi", "hu": "hungarian", "hy": "armenian", "id": "indonesian", "it": "italian", "lt": "lithuanian",
    "ne": "nepali", "nl": "dutch", "no": "norwegian", "pt": "portuguese", "ro": "romanian", "ru": "russian", "sr": "serbian", "sv": "swedish",
    "ta": "tamil", "tr": "turkish", "yi": "yiddish",
}  # fmt: skip
"""Languages, by their code, whose words are found in all their forms; English is among what the database knows by itself."""
BEGINNING, _MOST = 3, 12
"""Letters at its beginning by which a word is looked for among the known ones; and so many forms at the most."""


@cache
def _stemmer(language: str) -> Any:
    return snowballstemmer.stemmer(STEMMED[language])


def other_forms(word: str, known: Iterable[str], languages: Collection[str]) -> list[str]:
    """Those of the known words that have the same stem as a word, in any of the languages (codes of STEMMED; others are passed over)."""
    found: set[str] = set()
    words = [one for one in known if one != word]
    for language in languages:
        if language in STEMMED:
            stemmer = _stemmer(language)
            stem = stemmer.stemWord(word)
            found |= {one for one in words if stemmer.stemWord(one) == stem}
    return sorted(found, key=lambda one: (abs(len(one) - len(word)), one))[:_MOST]

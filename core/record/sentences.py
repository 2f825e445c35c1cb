"""Where a sentence ends: for cutting turns into lines."""

from __future__ import annotations

import re

from core.record.spacing import words_in, written

# After these a full stop does not end a sentence.
ABBREVIATIONS = {"mr.", "mrs.", "ms.", "dr.", "st.", "no.", "vs.", "e.g.", "i.e.", "etc.", "approx.", "sr.", "sra."}

_END = re.compile(r"[.!?…。！？][\"'”’)\]]*$")
_INITIAL = re.compile(r"^[A-HJ-Z]\.$")  # "I." ends a sentence far more often than it abbreviates a name


def ends_sentence(word: str) -> bool:
    """Does this word, with its punctuation, end a sentence?"""
    return bool(_END.search(word)) and word.lower() not in ABBREVIATIONS and not _INITIAL.match(word)


def split_sentences(text: str) -> list[str]:
    """The sentences of a text, white space folded. A text without punctuation is one sentence."""
    sentences: list[list[str]] = [[]]
    for word in words_in(text):
        sentences[-1].append(word)
        if ends_sentence(word):
            sentences.append([])
    return [written(words) for words in sentences if words]

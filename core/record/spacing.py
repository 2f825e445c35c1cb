"""How words stand beside each other: with a space, or, in the scripts that have none, without. There a letter counts as a word.

The scripts are those for which Whisper takes letters apart as well: Han, Kana, Thai, Lao, Burmese; and Khmer. `web/src/parts/spacing.ts` does
the same.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterable

_BLOCKS = (
    (0x0E01, 0x0E7F), (0x0E81, 0x0EFF), (0x1000, 0x109F), (0x1780, 0x17FF),  # Thai, Lao, Burmese, Khmer
    (0x3005, 0x3007), (0x3041, 0x30FF), (0x31F0, 0x31FF), (0xFF66, 0xFF9D),  # iteration marks, Kana
    (0x3400, 0x4DBF), (0x4E00, 0x9FFF), (0xF900, 0xFAFF), (0x20000, 0x2FA1F),  # Han
)  # fmt: skip


def _class(kinds: str) -> str:
    """The characters of the blocks of some general categories (Unicode), as the ranges of a character class."""
    codes = [code for first, last in _BLOCKS for code in range(first, last + 1) if unicodedata.category(chr(code))[0] in kinds]
    ranges: list[list[int]] = []
    for code in codes:
        if ranges and code == ranges[-1][1] + 1:
            ranges[-1][1] = code
        else:
            ranges.append([code, code])
    return "".join(f"{chr(first)}-{chr(last)}" for first, last in ranges)


_LETTER, _MARK = f"[{_class('LN')}]", f"[{_class('M')}]"
_SIGNS = rf"(?:(?!{_MARK})[^\w\s])*"
UNSPACED = f"{_LETTER}{_MARK}*"
"""Pattern of what counts as a word in these scripts."""
_WORD = re.compile(rf"{_SIGNS}{UNSPACED}{_SIGNS}|(?:(?!{_LETTER})\S)+")
_BEGINS, _ENDS, _ALONE = re.compile(_LETTER), re.compile(rf"{UNSPACED}{_SIGNS}$"), re.compile(_SIGNS)


def words_in(text: str) -> list[str]:
    """The words of a text, each with its signs. `written(words_in(text))` is the text with its spaces put in order."""
    return text.split() if text.isascii() else _WORD.findall(text)


def written(words: Iterable[str]) -> str:
    """Words as they stand in a line of text."""
    words = list(words)
    text = " ".join(words)
    if text.isascii():
        return text
    text, before = "", ""
    for word in words:
        unspaced = _BEGINS.match(word) or _ENDS.search(before) and word[0].isalnum()
        # Signs before a word would go to the one before it, and a sign that stands alone to its neighbours.
        text += word if not text or unspaced and not _ALONE.fullmatch(before) else f" {word}"
        before = word
    return text

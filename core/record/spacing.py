"""How words stand beside each other: with a space, or, in the scripts that have none, without. There a letter counts as a word.

The scripts are those for which Whisper takes letters apart as well: Han, Kana, Thai, Lao, Burmese; and Khmer. `web/src/parts/spacing.ts` does
the same, by a table of characters that is made here: `python -m core.record.spacing > web/src/parts/spacing.table.ts`.
"""

from __future__ import annotations

import re
import sys
import unicodedata
from collections.abc import Iterable

_BLOCKS = (
    (0x0E01, 0x0E7F), (0x0E81, 0x0EFF), (0x1000, 0x109F), (0x1780, 0x17FF),  # Thai, Lao, Burmese, Khmer
    (0x3005, 0x3007), (0x3041, 0x30FF), (0x31F0, 0x31FF), (0xFF66, 0xFF9D),  # iteration marks, Kana
    (0x3400, 0x4DBF), (0x4E00, 0x9FFF), (0xF900, 0xFAFF), (0x20000, 0x2FA1F),  # Han
)  # fmt: skip


def _ranges(codes: Iterable[int]) -> list[tuple[int, int]]:
    """Numbers in order as first and last of each run."""
    ranges: list[tuple[int, int]] = []
    for code in codes:
        if ranges and code == ranges[-1][1] + 1:
            ranges[-1] = (ranges[-1][0], code)
        else:
            ranges.append((code, code))
    return ranges


def _of_blocks(kinds: str) -> list[tuple[int, int]]:
    """The characters of the blocks of some general categories (Unicode)."""
    return _ranges(code for first, last in _BLOCKS for code in range(first, last + 1) if unicodedata.category(chr(code))[0] in kinds)


def _class(ranges: Iterable[tuple[int, int]]) -> str:
    return "".join(f"{chr(first)}-{chr(last)}" for first, last in ranges)


_LETTERS, _MARKS = _of_blocks("LN"), _of_blocks("M")
_LETTER, _MARK = f"[{_class(_LETTERS)}]", f"[{_class(_MARKS)}]"
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


def table() -> str:
    """The characters by which words are told apart, as character classes for JavaScript: whose own ideas of letters and spaces differ."""
    codes = [code for code in range(sys.maxunicode + 1) if not 0xD800 <= code <= 0xDFFF]
    classes = {
        "LETTER": _LETTERS,
        "MARK": _MARKS,
        "WORDLY": _ranges(code for code in codes if re.match(r"\w", chr(code))),
        "SPACE": _ranges(code for code in codes if re.match(r"\s", chr(code))),
    }
    lines = [f'export const {name} =\n  "{_escaped(ranges)}";' for name, ranges in classes.items()]
    return "\n".join(["/** Made by `python -m core.record.spacing`: see there. */", *lines, ""])


def _escaped(ranges: Iterable[tuple[int, int]]) -> str:
    return "".join(f"\\\\u{{{first:x}}}" if first == last else f"\\\\u{{{first:x}}}-\\\\u{{{last:x}}}" for first, last in ranges)


if __name__ == "__main__":
    sys.stdout.write(table())

"""What stands on a picture of a screen, read by Tesseract where that is installed."""

from __future__ import annotations

import csv
import io
import statistics
import subprocess
from collections import defaultdict
from dataclasses import dataclass

_PATIENCE = 60.0  # seconds
_SURE = 60.0  # of 100: words that are read less surely are drawings more often than words (measured on slides made for the tests)
_TALLER = 1.25
"""How many times taller than the middle of all lines a title is."""
_TITLE_WITHIN = 0.35  # of the height of what stands there: a title is above the rest
_LONGEST_TITLE = 100


@dataclass(frozen=True, slots=True)
class Legible:
    """Of a picture: its lines, from the top down, and the one that is its title, "" where none stands out."""

    lines: tuple[str, ...] = ()
    title: str = ""

    @property
    def text(self) -> str:
        """All its lines."""
        return "\n".join(self.lines)


def read_picture(image: bytes, languages: str = "eng") -> Legible:
    """Read a JPEG. languages: as Tesseract calls them, with "+" between. Nothing where it, or on this machine any, cannot be read."""
    command = ["tesseract", "stdin", "stdout", "-l", languages, "--psm", "11", "tsv"]
    try:
        done = subprocess.run(command, input=image, capture_output=True, timeout=_PATIENCE, check=True)
    except (subprocess.SubprocessError, OSError):
        return Legible()
    return _laid_out(done.stdout.decode("utf-8", "replace"))


def _laid_out(table: str) -> Legible:
    """Tesseract's table of words as lines. A line's height is that of its tallest word, since a short one may have neither ascender nor capital."""
    words: dict[tuple[str, ...], list[dict]] = defaultdict(list)
    for row in csv.DictReader(io.StringIO(table), delimiter="\t", quoting=csv.QUOTE_NONE):
        if row["level"] == "5" and float(row["conf"]) >= _SURE and (row["text"] or "").strip():
            words[row["page_num"], row["block_num"], row["par_num"], row["line_num"]].append(row)
    lines = []
    for found in words.values():
        text = " ".join(one["text"].strip() for one in found)
        if sum(letter.isalnum() for letter in text) >= 2:
            lines.append((min(int(one["top"]) for one in found), max(int(one["height"]) for one in found), text))
    lines.sort()
    if not lines:
        return Legible()
    middle, span = statistics.median(height for _, height, _ in lines), lines[-1][0] - lines[0][0]
    tall = [one for one in lines if one[0] - lines[0][0] <= _TITLE_WITHIN * span and one[1] >= _TALLER * middle]
    title = max(tall, key=lambda one: one[1])[2] if tall and len(lines) > 1 else ""
    return Legible(tuple(text for _, _, text in lines), title if len(title) <= _LONGEST_TITLE else "")

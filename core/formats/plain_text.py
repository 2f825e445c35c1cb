"""A transcript as plain text or in a word processor's file: "Name: what they said", with times where there are any."""

from __future__ import annotations

import re
from itertools import pairwise
from pathlib import Path
from zipfile import BadZipFile, ZipFile

import docx
from docx.opc.exceptions import PackageNotFoundError
from lxml.etree import LxmlError

from core.formats.cues import split_speaker
from core.problems import InputProblem
from core.record.assemble import turns_from_cues
from core.record.model import Record

_CLOCK = r"[\[(]?(?:(\d{1,2}):)?(\d{1,2}):(\d{2})(?:[.,](\d{1,3}))?[\])]?"
_TIME_FIRST = re.compile(rf"^{_CLOCK}\s*[-–:]?\s*")
# A head of its own: "Name 00:01:02" or "Name (1:02)", with what they said below it.
_HEAD = re.compile(rf"^([^\W\d_][\w.'’ -]{{0,60}}?)[\s,]+{_CLOCK}:?$")
# "Name (1:02): what they said"
_TIME_IN_HEAD = re.compile(r"^([^\W\d_][\w.'’ -]{0,60}?)\s*[\[(](?:(\d{1,2}):)?(\d{1,2}):(\d{2})(?:[.,](\d{1,3}))?[\])]:\s*")
_NO_DOCX = "not a DOCX file that can be opened. If it has a password, take that off; else save it again."
_MOST_XML, _MOST_MEMBERS = 12_000_000, 2000
"""Unpacked bytes of a DOCX file's texts, and parts of it: a day of talk has some six million. What unpacks to more is no transcript."""
_WORDS_A_SECOND = 2.5  # 150 words a minute: the pace of English talk (common practice)


def load(text: str, name: str) -> Record:
    """Read a transcript. A paragraph without a name goes on with the last one's, "A" where there is none.

    Where the text has no times they are estimated from its length, and the record says so. Raises InputProblem.
    """
    said: list[tuple[str, float | None, str]] = []
    speaker, at = "A", None
    for paragraph in (" ".join(line.split()) for line in text.splitlines()):
        if not paragraph:
            continue
        if head := _HEAD.match(paragraph):
            speaker, at = head[1].strip(), _seconds(head.groups()[1:])
            continue
        if time := _TIME_FIRST.match(paragraph):
            at, paragraph = _seconds(time.groups()), paragraph[time.end() :]
        if head := _TIME_IN_HEAD.match(paragraph):
            speaker, at, paragraph = head[1].strip(), _seconds(head.groups()[1:]), paragraph[head.end() :]
        speaker, paragraph = split_speaker(paragraph, speaker)
        if paragraph:
            said.append((speaker, at, paragraph))
            at = None
    if not said:
        raise InputProblem("there is no text in it. Write a paragraph a turn, as “Name: what they said”.")
    cues = _timed(said)
    turns = turns_from_cues(cues)
    return Record(id=name, turns=turns, duration=turns[-1].end, timed=any(start is not None for _, start, _ in said))


def _seconds(parts: tuple[str | None, ...]) -> float:
    hours, minutes, seconds, fraction = parts
    return int(hours or 0) * 3600 + int(minutes or 0) * 60 + int(seconds or 0) + float(f"0.{fraction or 0}")


def _timed(said: list[tuple[str, float | None, str]]) -> list[tuple[str, float, float, str]]:
    """Each paragraph with a start and an end: stated, or estimated behind the one before; never past the start of the next."""
    cues: list[tuple[str, float, float, str]] = []
    clock = 0.0
    for speaker, stated, text in said:
        start = max(clock, stated) if stated is not None else clock
        end = start + max(0.5, len(text.split()) / _WORDS_A_SECOND)
        cues.append((speaker, round(start, 3), round(end, 3), text))
        clock = end if stated is None else max(start, stated)
    ends = [min(cue[2], following[1]) if following[1] > cue[1] else cue[2] for cue, following in pairwise(cues)] + [cues[-1][2]]
    return [(speaker, start, end, text) for (speaker, start, _, text), end in zip(cues, ends, strict=True)]


def text_of_docx(path: Path) -> str:
    """The paragraphs of a DOCX file (ECMA-376), and the rows of its tables with their cells joined by a colon. Raises InputProblem."""
    _check_archive(path)
    try:
        document = docx.Document(str(path))
    except (PackageNotFoundError, BadZipFile, KeyError, ValueError, LxmlError) as error:
        raise InputProblem(_NO_DOCX) from error
    lines = [paragraph.text for paragraph in document.paragraphs]
    for table in document.tables:
        for row in table.rows:
            cells = [" ".join(cell.text.split()) for cell in row.cells]
            lines.append(f"{cells[0]}: {' '.join(cells[1:])}" if len(cells) > 1 else cells[0])
    return "\n".join(lines)


def _check_archive(path: Path) -> None:
    """A few kilobytes can unpack to gigabytes: what the archive says of itself is looked at first, and it cannot unpack to more than that."""
    try:
        with ZipFile(path) as archive:
            members = archive.infolist()
    except (BadZipFile, ValueError) as error:
        raise InputProblem(_NO_DOCX) from error
    texts = [member for member in members if member.filename.lower().endswith((".xml", ".rels"))]
    if len(members) > _MOST_MEMBERS or sum(member.file_size for member in texts) > _MOST_XML:
        raise InputProblem("unpacked, its text is larger than a transcript can be. Save the text alone, and give that.")
    if sum(member.file_size for member in members) > 20 * _MOST_XML:
        raise InputProblem("unpacked, it is larger than a transcript can be. Take its pictures out, and give it again.")

"""A record on its way out: what of it is shown, and as text, Markdown, a printed document, CSV, RTTM or captions."""

from __future__ import annotations

import csv
import io
import textwrap
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import timedelta

import srt

from core.formats.minute_book import Document, Entry, Part
from core.formats.webvtt_record import clock as exact_clock
from core.minutes.markdown import clock
from core.reading.base import first_name
from core.record.model import Line, Record, Turn, Word, timed_words
from core.record.spacing import written
from core.record.timeline import Span
from core.text import Put, as_written


@dataclass(frozen=True, slots=True)
class Mark:
    """A passage that somebody flagged."""

    kind: str
    start: float
    end: float


@dataclass(frozen=True, slots=True)
class Shown:
    """What of a record is shown. joined: turns of one speaker in a row as one. part: only what is said in it. link: where it can be heard."""

    speakers: bool = True
    times: bool = True
    joined: bool = True
    marks: tuple[Mark, ...] = ()
    part: Span | None = None
    link: str = ""


def shown_turns(record: Record, shown: Shown) -> tuple[Turn, ...]:
    """The turns that are shown, cut to the part and joined as wished; their numbers stay those of the record."""
    turns = record.turns
    if shown.part:
        kept = [(turn, tuple(line for line in turn.lines if line.span.overlaps(shown.part))) for turn in turns]
        turns = tuple(replace(turn, lines=lines) for turn, lines in kept if lines)
    if not shown.joined:
        return turns
    joined: list[Turn] = []
    for turn in turns:
        if joined and joined[-1].speaker == turn.speaker and joined[-1].language == turn.language:
            before = joined.pop()
            joined.append(replace(before, lines=before.lines + turn.lines, english=f"{before.english} {turn.english}".strip()))
        else:
            joined.append(turn)
    return tuple(joined)


_TO_HEAR = "To hear it"


def _marks_in(turn: Turn, shown: Shown) -> str:
    kinds = dict.fromkeys(mark.kind for mark in shown.marks if mark.start < turn.end and mark.end > turn.start)
    return f" [{', '.join(kinds)}]" if kinds else ""


def to_text(record: Record, title: str, shown: Shown, put: Put = as_written) -> str:
    """Paragraphs a turn: "1:02  Name: what they said". put: what is nobody's words."""
    lines = [title, ""]
    for turn in shown_turns(record, shown):
        time = f"{clock(turn.start)}  " if shown.times else ""
        speaker = f"{turn.speaker}: " if shown.speakers else ""
        lines += [f"{time}{speaker}{turn.text}{_marks_in(turn, shown)}", *([f"({turn.english})"] if turn.english else []), ""]
    return "\n".join([*lines, *([f"{put(_TO_HEAR)}: {shown.link}", ""] if shown.link else [])])


def to_markdown(record: Record, title: str, shown: Shown, put: Put = as_written) -> str:
    """The same with the names in bold."""
    parts = [f"# {_escaped(title)}"]
    for turn in shown_turns(record, shown):
        speaker = f"**{_escaped(turn.speaker)}** " if shown.speakers else ""
        time = f"`{clock(turn.start)}` " if shown.times else ""
        parts.append(
            f"{time}{speaker}{_escaped(turn.text + _marks_in(turn, shown))}" + (f"\n\n*{_escaped(turn.english)}*" if turn.english else "")
        )
    return "\n\n".join([*parts, *([f"[{put(_TO_HEAR)}]({shown.link})"] if shown.link else [])]) + "\n"


def _escaped(text: str) -> str:
    return "".join(f"\\{sign}" if sign in "\\`*_[]<>#" else sign for sign in text)


def to_document(record: Record, title: str, about: Sequence[str], shown: Shown, put: Put = as_written) -> Document:
    """As a document of the minute book: an entry a turn, its time in the margin."""
    entries = [
        Entry(
            f"{turn.speaker + ': ' if shown.speakers else ''}{turn.text}{_marks_in(turn, shown)}{f' ({turn.english})' if turn.english else ''}",
            clock(turn.start) if shown.times else "",
        )
        for turn in shown_turns(record, shown)
    ]
    head = (*about, *([f"{put(_TO_HEAR)}: {shown.link}"] if shown.link else []))
    return Document(title, head, (Part(put("Record"), tuple(entries)),), record.language or "en")


def to_csv(record: Record, shown: Shown) -> str:
    """A row a line (RFC 4180): turn, start, end in seconds, speaker, text, marks."""
    sink = io.StringIO()
    rows = csv.writer(sink)
    columns = ["turn", *(["start", "end"] if shown.times else []), *(["speaker"] if shown.speakers else []), "text", "marks"]
    rows.writerow(columns)
    for turn in shown_turns(record, shown):
        for line in turn.lines:
            kinds = dict.fromkeys(mark.kind for mark in shown.marks if mark.start < line.end and mark.end > line.start)
            rows.writerow(
                [
                    turn.id,
                    *([f"{line.start:.3f}", f"{line.end:.3f}"] if shown.times else []),
                    *([_no_formula(turn.speaker)] if shown.speakers else []),
                    _no_formula(line.text),
                    "; ".join(kinds),
                ]
            )
    return sink.getvalue()


def _no_formula(text: str) -> str:
    """A text that a spreadsheet does not take for a formula (OWASP, CSV injection)."""
    return f"'{text}" if text[:1] in "=+-@\t\r" else text


def to_rttm(record: Record, shown: Shown) -> str:
    """Who spoke when (NIST RTTM, SPEAKER lines): a stretch a turn, as it was said and not joined."""
    file = "".join(sign if sign.isalnum() or sign in "-_." else "_" for sign in record.id) or "record"
    return "".join(
        f"SPEAKER {file} 1 {turn.start:.3f} {turn.end - turn.start:.3f} <NA> <NA> {'_'.join(turn.speaker.split()) or 'A'} <NA> <NA>\n"
        for turn in shown_turns(record, replace(shown, joined=False))
    )


# captions: at most two lines of 42 signs, 17 signs a second (common practice)
WIDTH, ROWS, PACE = 42, 2, 17.0
_LEAST = 0.8  # seconds that a caption stays
_GAP = 0.04  # seconds between two captions
_LAG = 1.5  # seconds by which a caption may come after the word, where the one before it needs them to be read


@dataclass(frozen=True, slots=True)
class Caption:
    """What is shown at once: rows of text from a second to another."""

    start: float
    end: float
    rows: tuple[str, ...]

    @property
    def signs(self) -> int:
        """Signs that are to be read."""
        return sum(map(len, self.rows))


def captions(record: Record, shown: Shown) -> list[Caption]:
    """The record as captions. A caption stays as long as it takes to read, as far as the one after it leaves time."""
    cut: list[Caption] = []
    speaker = None
    for turn in shown_turns(record, replace(shown, joined=True)):
        for line in turn.lines:
            # The name people are called by: a full one takes the time of the words.
            name = f"{first_name(turn.speaker)}: " if shown.speakers and turn.speaker != speaker else ""
            speaker = turn.speaker
            cut += _of_line(line, name)
    timed: list[Caption] = []
    for place, one in enumerate(cut):
        most = cut[place + 1].start + _LAG - _GAP if place + 1 < len(cut) else float("inf")
        start = max(one.start, timed[-1].end + _GAP if timed else 0.0)
        wanted = start + max(_LEAST, one.signs / PACE)
        end = max(min(max(one.end, wanted), most), start + 0.1)
        if end < wanted and timed:  # too fast to be read: it may begin as soon as the one before is gone
            earliest = timed[-1].end + _GAP if timed[-1].end + _GAP < start else start
            start = max(earliest, end - max(_LEAST, one.signs / PACE))
        timed.append(Caption(round(start, 3), round(end, 3), one.rows))
    return timed


def _of_line(line: Line, name: str) -> list[Caption]:
    """A line as captions that fit, each from its first word to its last."""
    made: list[Caption] = []
    row_words: list[Word] = []
    for word in timed_words(line):
        text = name + written(one.text for one in (*row_words, word))
        if row_words and len(textwrap.wrap(text, WIDTH)) > ROWS:
            made.append(_caption(row_words, name))
            row_words, name = [], ""
        row_words.append(word)
    return [*made, _caption(row_words, name)] if row_words else made


def _caption(words: Sequence[Word], name: str) -> Caption:
    rows = textwrap.wrap(name + written(word.text for word in words), WIDTH)
    if len(rows) == ROWS:  # two rows of like length are read at a glance
        text = " ".join(rows)
        width = next((width for width in range(len(text) // 2, WIDTH + 1) if len(textwrap.wrap(text, width)) <= ROWS), WIDTH)
        rows = textwrap.wrap(text, width)
    return Caption(words[0].start, words[-1].end, tuple(rows))


def to_webvtt(record: Record, shown: Shown) -> str:
    """Captions as WebVTT (W3C)."""
    blocks = ["WEBVTT\n"]
    for one in captions(record, shown):
        rows = "\n".join(row.replace("&", "&amp;").replace("<", "&lt;").replace("-->", "→") for row in one.rows)
        blocks.append(f"{exact_clock(one.start)} --> {exact_clock(one.end)}\n{rows}\n")
    return "\n".join(blocks)


def to_srt(record: Record, shown: Shown) -> str:
    """Captions as SRT."""
    return srt.compose(
        [
            srt.Subtitle(number, timedelta(seconds=one.start), timedelta(seconds=one.end), "\n".join(one.rows))
            for number, one in enumerate(captions(record, shown), start=1)
        ]
    )

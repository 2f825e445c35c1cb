"""The forms in which a record is taken away, one entry each: to add one, write how, and name it here."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from core.formats import json_record, subrip, webvtt_record
from core.formats.minute_book import Document, Report, to_docx, untold
from core.formats.outward import Shown, to_csv, to_document, to_markdown, to_rttm, to_srt, to_text, to_webvtt
from core.record.model import Record
from core.text import Put, as_written

MEDIA_TYPES = {
    "txt": "text/plain; charset=utf-8",
    "md": "text/markdown; charset=utf-8",
    "docx": "application/vnd.openxmlformats-officedocument.wordprocessingml.document",
    "pdf": "application/pdf",
    "html": "text/html; charset=utf-8",
    "vtt": "text/vtt; charset=utf-8",
    "srt": "application/x-subrip; charset=utf-8",
    "rttm": "text/plain; charset=utf-8",
    "csv": "text/csv; charset=utf-8",
    "json": "application/json; charset=utf-8",
}
"""Form → its media type, of whatever is taken away."""


@dataclass(frozen=True)
class Asked:
    """What is wanted of a record as a file. about: when and who, a line each. captions: WebVTT and SRT as captions that can be read,
    instead of a passage a line, which can be read in again as the same record. fonts: the folder of those for paper. report: told the share
    that is done of a form that is slow. put: how what is nobody's words is put."""

    title: str
    about: tuple[str, ...]
    shown: Shown
    captions: bool
    fonts: Path
    report: Callable[[float], None] = lambda share: None
    put: Put = as_written


@dataclass(frozen=True)
class Writer:
    """How a record becomes a file of one form. words: whether it needs each line's words. slow: hours of talk take seconds."""

    write: Callable[[Record, Asked], str | bytes]
    words: bool = False
    slow: bool = False

    def file(self, record: Record, asked: Asked) -> bytes:
        """The file."""
        made = self.write(record, asked)
        return made.encode() if isinstance(made, str) else made


def to_pdf(document: Document, fonts: Path, report: Report = untold) -> bytes:
    """Minutes or a record as a page description with text that can be found and copied, in reading order.

    fonts: the folder with serif.ttf, serif-bold.ttf, serif-italic.ttf and sans.ttf, and any number of other-*.ttf for signs they lack.
    """
    from core.formats import minute_paper  # when one is drawn: see there

    return minute_paper.draw(document, fonts, report)


def _captions(record: Record, asked: Asked, as_captions: Callable, as_passages: Callable) -> str:
    return as_captions(record, asked.shown) if asked.captions else as_passages(record)


def _on_paper(record: Record, asked: Asked) -> Document:
    return to_document(record, asked.title, asked.about, asked.shown, asked.put)


WRITERS = {
    "txt": Writer(lambda record, asked: to_text(record, asked.title, asked.shown, asked.put)),
    "md": Writer(lambda record, asked: to_markdown(record, asked.title, asked.shown, asked.put)),
    "docx": Writer(lambda record, asked: to_docx(_on_paper(record, asked), asked.fonts, asked.report), slow=True),
    "pdf": Writer(lambda record, asked: to_pdf(_on_paper(record, asked), asked.fonts, asked.report), slow=True),
    "vtt": Writer(lambda record, asked: _captions(record, asked, to_webvtt, webvtt_record.dump), words=True),
    "srt": Writer(lambda record, asked: _captions(record, asked, to_srt, subrip.dump), words=True),
    "rttm": Writer(lambda record, asked: to_rttm(record, asked.shown)),
    "csv": Writer(lambda record, asked: to_csv(record, asked.shown)),
    "json": Writer(lambda record, asked: json_record.dump(record), words=True),
}
"""Form → its writer."""

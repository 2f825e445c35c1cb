"""Records in and out: one file a format."""

from __future__ import annotations

from pathlib import Path

from core.formats import json_record, plain_text, subrip, webvtt_record
from core.problems import InputProblem
from core.record.model import Record

READERS = {
    ".json": json_record.load,
    ".vtt": webvtt_record.load,
    ".srt": subrip.load,
    ".txt": plain_text.load,
    ".docx": plain_text.load,
}
"""Suffix → reader of a record in that format: text and an id → Record. Each raises InputProblem."""


def read_record(path: Path) -> Record:
    """A record from a JSON, WebVTT, SRT, DOCX or plain text file, its id the file's stem unless the file says otherwise.

    Raises InputProblem when the format is unknown or the file is not what its suffix says.
    """
    reader = READERS.get(path.suffix.lower())
    if reader is None:
        raise InputProblem(f"{path.name}: not a record. Give a file that ends in {', '.join(READERS)}.")
    try:
        text = plain_text.text_of_docx(path) if path.suffix.lower() == ".docx" else path.read_bytes().decode("utf-8-sig")
    except InputProblem as problem:
        raise InputProblem(f"{path.name}: {problem}") from problem
    except UnicodeDecodeError as error:
        raise InputProblem(f"{path.name}: not UTF-8 text. Save it as UTF-8 and give it again.") from error
    except OSError as error:
        raise InputProblem(f"{path}: cannot be read ({error.strerror}).") from error
    try:
        return reader(text, path.stem)
    except InputProblem as problem:
        raise InputProblem(f"{path.name}: {problem}") from problem

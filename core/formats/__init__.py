"""Records in and out: one file a format."""

from __future__ import annotations

from pathlib import Path

from core.formats import json_record, plain_text, subrip, webvtt_record
from core.problems import InputProblem
from core.record.model import Record
from core.record.spacing import words_in
from core.text import prose

READERS = {
    ".json": json_record.load,
    ".vtt": webvtt_record.load,
    ".srt": subrip.load,
    ".txt": plain_text.load,
    ".docx": plain_text.load,
}
"""Suffix → reader of a record in that format: text and an id → Record. Each raises InputProblem."""


LARGEST = 20_000_000
"""Bytes of a file that is read: some three hundred hours of talk as text."""
MOST_TURNS, MOST_VOICES, LONGEST_WORD, LAST_SECOND = 60_000, 200, 300, 400_000.0
"""Beyond these it is no record of a meeting, and reading on would only keep the machine busy."""


def read_record(path: Path, name: str = "") -> Record:
    """A record from a JSON, WebVTT, SRT, DOCX or plain text file, its id the file's stem unless the file says otherwise.

    name: what the file was called, where it lies under another name. Raises InputProblem when the format is unknown, the file is not
    what its suffix says, or it is larger than a record can be.
    """
    name = name or path.name
    suffix = Path(name).suffix.lower()
    if suffix not in READERS:
        raise InputProblem(f"{name}: not a record. Give a file that ends in {', '.join(READERS)}.")
    try:
        if path.stat().st_size > LARGEST:
            raise InputProblem(f"larger than a transcript can be ({LARGEST // 1_000_000} MB). Check that it is one.")
        text = plain_text.text_of_docx(path) if suffix == ".docx" else path.read_bytes().decode("utf-8-sig")
        record = READERS[suffix](prose(text), Path(name).stem)
        _check(record)
    except InputProblem as problem:
        raise InputProblem(f"{name}: {problem}") from problem
    except UnicodeDecodeError as error:
        raise InputProblem(f"{name}: not UTF-8 text. Save it as UTF-8 and give it again.") from error
    except OSError as error:
        raise InputProblem(f"{path}: cannot be read ({error.strerror}).") from error
    except (ValueError, LookupError, AttributeError, TypeError, RecursionError) as error:  # what a library says of a file that is none
        raise InputProblem(f"{name}: it begins like a {suffix} file and is not written like one ({error}). Save it again.") from error
    return record


def _check(record: Record) -> None:
    if len(record.turns) > MOST_TURNS:
        raise InputProblem(f"it has {len(record.turns)} turns; a meeting has at most {MOST_TURNS}. Give it in parts.")
    if len(record.speakers) > MOST_VOICES:
        raise InputProblem(f"it names {len(record.speakers)} voices; at most {MOST_VOICES} can be told apart. Check its names.")
    if not 0 <= record.duration <= LAST_SECOND or any(not turn.start <= turn.end <= LAST_SECOND for turn in record.turns):
        raise InputProblem(f"its times go beyond {LAST_SECOND / 3600:.0f} hours. Check them.")
    for turn in record.turns:
        for line in turn.lines:
            if long := next((word for word in words_in(line.text) if len(word) > LONGEST_WORD), None):
                raise InputProblem(f"it has a word of {len(long)} letters (“{long[:30]}…”). Check how it was saved.")

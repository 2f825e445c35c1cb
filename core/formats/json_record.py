"""The record as JSON: the form of `aftershower hear`, and that of labelled meetings."""

from __future__ import annotations

import json
from datetime import datetime
from typing import Any

from core.problems import InputProblem
from core.record.assemble import lines_from_text, lines_of
from core.record.model import Participant, Record, Turn, Word

_MARKS = ("doubt", "overlap")
"""What may be said of a word, when it is so."""


def load(text: str, name: str) -> Record:
    """Read a record. Raises InputProblem naming what is missing."""
    try:
        data = json.loads(text)
    except json.JSONDecodeError as error:
        raise InputProblem(f"not JSON (line {error.lineno}: {error.msg}).") from error
    if isinstance(data, list) and len(data) == 1:
        data = data[0]
    return from_data(data, name)


def from_data(data: Any, name: str) -> Record:
    """Read a record from parsed JSON. Raises InputProblem naming what is missing."""
    if not isinstance(data, dict) or not isinstance(data.get("turns"), list):
        raise InputProblem('not a record: it has no list of "turns".')
    started = data.get("started_at")
    try:
        turns = tuple(_turn(turn, index) for index, turn in enumerate(data["turns"], start=1) if str(turn["text"]).strip())
        return Record(
            id=str(data.get("id") or name),
            turns=turns,
            language=data.get("language"),
            duration=float((data.get("media") or {}).get("duration") or (turns[-1].end if turns else 0.0)),
            started_at=datetime.fromisoformat(started) if started else None,
            participants=tuple(Participant(p["name"], p.get("role", "")) for p in data.get("participants") or ()),
        )
    except KeyError as error:
        raise InputProblem(f"not a record: {error.args[0]!r} is missing.") from error
    except (TypeError, ValueError) as error:
        raise InputProblem(f"not a record: {error}.") from error


def _turn(data: dict[str, Any], index: int) -> Turn:
    start, end = float(data["start"]), float(data["end"])
    if not 0 <= start <= end:
        raise InputProblem(f"turn {data.get('id', index)} ends before it starts.")
    words = [_word(word) for word in data.get("words") or ()]
    lines = lines_of(words) if words else lines_from_text(str(data["text"]), start, end)
    return Turn(int(data.get("id", index)), str(data.get("speaker") or "A"), lines, data.get("language"), str(data.get("english") or ""))


def _word(data: dict[str, Any]) -> Word:
    marks: dict[str, Any] = {name: bool(data.get(name)) for name in _MARKS}
    return Word(
        data["text"],
        float(data["start"]),
        float(data["end"]),
        float(data.get("probability", 1.0)),
        heard=str(data.get("heard") or ""),
        **marks,
    )


def _word_data(word: Word) -> dict[str, Any]:
    """A word; what is said of few of them is said only of those."""
    data: dict[str, Any] = {"text": word.text, "start": word.start, "end": word.end, "probability": word.probability}
    data |= {name: True for name in _MARKS if getattr(word, name)}
    return data | ({"heard": word.heard} if word.heard else {})


def to_data(record: Record, timings: dict[str, float] | None = None) -> dict[str, Any]:
    """The form of `aftershower hear`, ready for json.dumps."""
    data: dict[str, Any] = {"id": record.id, "media": {"duration": round(record.duration, 3)}, "language": record.language}
    if record.started_at:
        data["started_at"] = record.started_at.isoformat()
    if record.participants:
        data["participants"] = [{"name": p.name, "role": p.role} for p in record.participants]
    data["voices"] = record.speakers
    data["turns"] = [
        {
            "id": turn.id,
            "speaker": turn.speaker,
            "start": turn.start,
            "end": turn.end,
            "language": turn.language,
            "text": turn.text,
            "words": [_word_data(word) for word in turn.words],
        }
        | ({"english": turn.english} if turn.english else {})
        for turn in record.turns
    ]
    if timings is not None:
        data["timings"] = {name: round(seconds, 2) for name, seconds in timings.items()}
    return data


def dump(record: Record) -> str:
    """The record as JSON text."""
    return json.dumps(to_data(record), ensure_ascii=False, indent=1) + "\n"

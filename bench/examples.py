"""What the writer is taught on and measured by: passages of the labelled meetings, series and pairs, each with the sentence that a person wrote."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from bench.meetings import LABELLED, part_of, part_of_series
from core.reading.passage import Kind, Passage, Piece, passage
from core.reading.writer.rewording import shown

GROUPS: dict[Kind, str] = {"decision": "decisions", "action": "actions", "question": "open_questions"}


@dataclass(frozen=True)
class Example:
    """A passage and its sentence; the part of the labelled meetings it belongs to (None: of no meeting) and the hand it comes from."""

    passage: Passage
    text: str
    part: int | None
    hand: str


def third_of(one: Example) -> int:
    """Which third an example is of: meetings by theirs, passages by the hand they come from."""
    return one.part if one.part is not None else int(one.hand[1:]) % 3


def examples() -> list[Example]:
    """All of them, in a fixed order."""
    meetings = [(json.loads(path.read_text(encoding="utf-8")), part_of(path.stem), path.stem[0]) for path in sorted(LABELLED.glob("*.json"))]
    for number, path in enumerate(sorted((LABELLED / "series").glob("*.json"))):
        meetings += [(meeting, part_of_series(number), "s") for meeting in json.loads(path.read_text(encoding="utf-8"))["meetings"]]
    found = [one for meeting, part, hand in meetings for one in _of_meeting(meeting, part, hand)]
    for path in sorted((LABELLED / "pairs").glob("*.json")):
        found += [_of_pair(one, path.stem) for one in json.loads(path.read_text(encoding="utf-8"))]
    return found


def _of_meeting(meeting: dict[str, Any], part: int, hand: str) -> Iterator[Example]:
    turns = [(turn["speaker"], turn["text"]) for turn in meeting["turns"]]
    present = [one["name"] for one in meeting["participants"]] or [speaker for speaker, _ in turns]
    on = datetime.fromisoformat(meeting["started_at"]).date()
    for kind, group in GROUPS.items():
        for item in meeting["gold"][group]:
            cut = passage(kind, turns, {turn - 1 for turn in item["turns"]}, present, on, item.get("owner"))
            yield Example(cut, item["text"], part, hand)
    starts = [chapter["from_turn"] - 1 for chapter in meeting["gold"]["chapters"]]
    for chapter, first, end in zip(meeting["gold"]["chapters"], starts, [*starts[1:], len(turns)], strict=True):
        yield Example(passage("chapter", turns, shown(turns, range(first, end)), present), chapter["title"], part, hand)


def _of_pair(pair: dict[str, Any], hand: str) -> Example:
    pieces = tuple(Piece(line["speaker"], line["text"], at in pair["evidence"], at) for at, line in enumerate(pair["lines"]))
    present = tuple(dict.fromkeys(line["speaker"] for line in pair["lines"]))
    return Example(Passage(pair["kind"], pieces, present, None, pair["owner"]), pair["text"], None, hand)

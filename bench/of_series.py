"""The labelled series (bench/labelled/SERIES.md): their meetings, what is labelled of them, and what of it is open when a meeting begins."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from bench.hearing import MODELS
from bench.meetings import LABELLED, part_of_series
from core.formats import json_record
from core.ledger import Step
from core.ledger.book import AROUND, FAINT, made, said
from core.ledger.matter import CLOSING, Open
from core.reading import READING, Encoder, read
from core.reading.base import Finding
from core.reading.reader import Read
from core.record.model import Record

Label = dict[str, Any]


@dataclass
class Series:
    """A labelled series: its records, the oldest first, its ledger and its questions as they are in the file; `single`: the questions of each meeting;
    `encoder`: taught without it."""

    id: str
    meetings: list[Record]
    ledger: list[Label]
    ask: list[Label]
    single: dict[str, list[Label]]
    encoder: Encoder
    _read: dict[int, Read] = field(default_factory=dict)

    def read(self, number: int) -> Read:
        """A meeting, read; once."""
        if number not in self._read:
            reading = read(self.meetings[number], self.encoder)
            assert reading.turns is not None
            self._read[number] = Read(self.meetings[number], reading.findings, reading.turns)
        return self._read[number]


def load_series(folder: Path = LABELLED / "series") -> list[Series]:
    """All of them."""
    loaded = [json.loads(path.read_text(encoding="utf-8")) for path in sorted(folder.glob("*.json"))]
    return [
        Series(
            one["id"],
            [json_record.from_data(meeting, meeting["id"]) for meeting in one["meetings"]],
            one["ledger"],
            one["ask"],
            {meeting["id"]: meeting["ask"] for meeting in one["meetings"]},
            Encoder(MODELS / READING, [part_of_series(number)]),
        )
        for number, one in enumerate(loaded)
    ]


def open_before(series: Series, number: int) -> Iterator[tuple[Open, Label | None]]:
    """The labelled matters that are open when a meeting begins, each with its step there, if it has one."""
    ids = [record.id for record in series.meetings]
    for matter in series.ledger:
        before = [step for step in matter["steps"] if ids.index(step["meeting"]) < number]
        if not before or before[-1]["step"] in CLOSING:
            continue
        spoken = [(series.meetings[ids.index(step["meeting"])], step["turns"]) for step in before]
        here = next((step for step in matter["steps"] if step["meeting"] == ids[number]), None)
        last = before[-1]
        yield Open(matter["kind"], last["text"], *_spoken(spoken), last.get("owner"), number - ids.index(last["meeting"])), here


def read_before(series: Series, number: int) -> Iterator[tuple[Open, Label | None]]:
    """The same of what was read, and not labelled: much of it is no matter, and no meeting comes back to it."""
    ids = [record.id for record in series.meetings]
    of_matter: dict[int, list[tuple[int, Finding]]] = {}
    for place in range(number):
        for finding in series.read(place).findings:
            if finding.kind not in ("decision", "action") or finding.status == "superseded" or finding.confidence < FAINT:
                continue
            step = made(ids[place], finding)
            matter = next(
                (i for i, one in enumerate(series.ledger) if one["kind"] == finding.kind and any(matches(step, label) for label in one["steps"])), None
            )
            if matter is None:
                yield Open(finding.kind, finding.text, *_spoken([(series.meetings[place], finding.turns)]), finding.owner, number - place, finding.confidence), None
            else:
                of_matter.setdefault(matter, []).append((place, finding))
    for matter, found in of_matter.items():
        steps = [step for step in series.ledger[matter]["steps"] if ids.index(step["meeting"]) < number]
        if not steps or steps[-1]["step"] in CLOSING:
            continue
        spoken = [(series.meetings[place], finding.turns) for place, finding in found]
        spoken += [(series.meetings[ids.index(step["meeting"])], step["turns"]) for step in steps[1:]]
        here = next((step for step in series.ledger[matter]["steps"] if step["meeting"] == ids[number]), None)
        last = found[-1][1]
        yield Open(last.kind, last.text, *_spoken(spoken), last.owner, number - ids.index(steps[-1]["meeting"]), last.confidence), here  # type: ignore[arg-type]


def _spoken(places: Sequence[tuple[Record, Sequence[int]]]) -> tuple[str, str]:
    """What is said in turns, and around them."""
    return " ".join(said(*place) for place in places), " ".join(said(*place, AROUND) for place in places)


def matches(step: Step, label: Label) -> bool:
    """Same meeting, and a third of its turns are those labelled."""
    return step.meeting == label["meeting"] and 3 * len(set(step.turns) & set(label["turns"])) >= max(1, len(set(step.turns)))

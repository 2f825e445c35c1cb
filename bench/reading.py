"""Findings, chapters and answers on the labelled meetings, beside other ways of finding them.

Every figure is of meetings that the way in question was not taught by: the labelled meetings are in three parts, and what is trained is
trained on two of them and measured on the third. The last part was set aside while the reader was tuned.
"""

from __future__ import annotations

import json
import os
import time
from collections.abc import Callable, Sequence
from datetime import datetime
from pathlib import Path

import numpy as np

from bench import writing
from bench.approaches import KINDS, by_cues, by_tables, features, pair_features, train
from bench.hearing import MODELS
from bench.meetings import LABELLED, PARTS, part_of
from bench.score import match, score
from bench.tables import table
from core.formats import read_record
from core.reading import READING, Encoder, Reading, read
from core.reading.findings import Kind, groups
from core.record.model import Line, Record, Turn
from core.search import Asker

_GROUP = {"decision": "decisions", "action": "actions", "question": "open_questions"}


def as_scored(reading: Reading) -> tuple[list[dict], list[dict]]:
    """Findings and chapters as the scorer wants them."""
    findings = [
        {
            "kind": f.kind,
            "status": f.status,
            "confidence": f.confidence,
            "turns": f.turns,
            "owner": f.owner,
            "due": f.due and f.due.isoformat(),
        }
        for f in reading.findings
    ]
    return findings, [{"title": c.title, "from_turn": c.from_turn} for c in reading.chapters]


def _labels(path: Path, count: int, kind: str) -> np.ndarray:
    labels = np.zeros(count, bool)
    for item in json.loads(path.read_text(encoding="utf-8"))["gold"][_GROUP[kind]]:
        labels[[turn - 1 for turn in item["turns"]]] = True
    return labels


def _trained(records: dict[Path, Record], pairs: bool) -> dict[str, list[dict]]:
    """Findings by a logistic regression over sentence vectors, of turns or of pairs of turns, cross-validated over the parts."""
    encoder = Encoder(MODELS / READING)
    found: dict[str, list[dict]] = {path.stem: [] for path in records}
    made = {path: pair_features(record, encoder) if pairs else (None, features(record, encoder)) for path, record in records.items()}
    for kind in KINDS:
        labels = {}
        for path, record in records.items():
            own = _labels(path, len(record.turns), kind)
            labels[path] = np.array([own[i] and own[j] for i, j in made[path][0]]) if pairs else own
        for part in range(PARTS):
            taught = [path for path in records if part_of(path.stem) != part]
            model = train([made[path][1] for path in taught], [labels[path] for path in taught])

            def likely(path: Path, model=model) -> np.ndarray:
                own = model.predict_proba(made[path][1])[:, 1]
                if not pairs:
                    return own
                best = np.zeros(len(records[path].turns))  # a turn is as likely as the likeliest pair it is of
                for (i, j), value in zip(made[path][0], own, strict=True):
                    best[i], best[j] = max(best[i], value), max(best[j], value)
                return best

            settings = Kind(_threshold(kind, taught, likely), 2, 0.7, 5)
            for path in records:
                if part_of(path.stem) == part:
                    found[path.stem] += [
                        {
                            "kind": kind,
                            "status": "standing" if best >= settings.stated else "proposed",
                            "confidence": best,
                            "turns": [records[path].turns[i].id for i in group],
                            "owner": None,
                            "due": None,
                        }
                        for group, best in groups(likely(path), settings)
                    ]
    return found


def _threshold(kind: str, taught: Sequence[Path], likely: Callable[[Path], np.ndarray]) -> float:
    """The probability from which a finding is stated: the best F1 on the meetings it was trained on."""
    values = {path: likely(path) for path in taught}
    gold = {path: json.loads(path.read_text(encoding="utf-8"))["gold"][_GROUP[kind]] for path in taught}

    def f1(stated: float) -> float:
        hit = count = 0
        for path in taught:
            found = [{"turns": [i + 1 for i in group]} for group, best in groups(values[path], Kind(stated, 2, 0.7, 5)) if best >= stated]
            hit, count = hit + len(match(found, gold[path])), count + len(found) + len(gold[path])
        return 2 * hit / count if count else 0.0

    return max((round(value, 2) for value in np.arange(0.3, 0.95, 0.05)), key=f1)


def _says(way: str, kind: str, measure: str) -> bool:
    """Does this way give such an answer at all? Only the reader has chapters and answers; classifiers name no owner and no date."""
    if way.startswith("reader"):
        return True
    return kind in KINDS and (way in ("plain cue words", "word tables") or not measure.endswith("_right"))


def run() -> None:
    """Print the scorer's table for the reader and for each other way, for the part set aside, and seconds of work per hour of meeting."""
    records = {path: read_record(path) for path in sorted(LABELLED.glob("*.json"))}
    # Of the three sets of updates the one counts that was trained without the meeting.
    encoders = [Encoder(MODELS / READING, [part]) for part in range(PARTS)]
    ours, spent, length = [], 0.0, 0.0
    for path, record in records.items():
        encoder = encoders[part_of(path.stem)]
        began = time.perf_counter()
        reading = read(record, encoder)
        spent, length = spent + time.perf_counter() - began, length + record.duration
        questions = [one["q"] for one in json.loads(path.read_text(encoding="utf-8")).get("ask", [])]
        asker = Asker(record, encoder, reading.turns, reading.findings)
        answers = [{"q": answer.question, "turns": [turn.id for turn in answer.turns]} for answer in asker.ask(questions)]
        findings, chapters = as_scored(reading)
        ours.append({"id": path.stem, "findings": findings, "chapters": chapters, "ask": answers})
    ways = {
        "plain cue words": {path.stem: by_cues(record) for path, record in records.items()},
        "word tables": {path.stem: by_tables(record) for path, record in records.items()},
        "sentence vectors": _trained(records, pairs=False),
        "pairs of turns": _trained(records, pairs=True),
    }
    scores = {"reader": score(LABELLED, ours)} | {
        way: score(
            LABELLED, [{"id": name, "findings": found, "chapters": [{"title": "", "from_turn": 1}]} for name, found in all_found.items()]
        )
        for way, all_found in ways.items()
    }
    scores["reader, set aside"] = score(LABELLED, ours, lambda meeting: part_of(meeting["id"]) == PARTS - 1)
    measures = [(kind, measure) for kind in KINDS for measure in ("precision", "recall", "f1", "recall_of_likeliest")]
    measures += [
        ("action", "owner_right"),
        ("action", "due_right"),
        ("chapters", "pk"),
        ("ask", "first_citation_right"),
        ("ask", "says_not_in_record"),
    ]
    rows = [
        [
            f"{kind} {measure.replace('_', ' ')}",
            *(found[kind][measure] if _says(way, kind, measure) else "-" for way, found in scores.items()),
        ]
        for kind, measure in measures
    ]
    print(table([f"{len(records)} labelled meetings", *scores], rows))
    print(f"\n{spent / length * 3600:.1f} s of work per hour of meeting by one of the three networks that the reader has")
    _an_hour()
    print("\nwording, of the lines as they are labelled\n")
    writing.run()


def _an_hour() -> None:
    """An hour of talk on one core, with all networks, as the product reads it: how long reading takes, and an answer."""
    turns, at = [], 0.0
    for path in sorted(LABELLED.glob("t*.json")):
        record = read_record(path)
        for turn in record.turns:
            turns.append(Turn(len(turns) + 1, turn.speaker, tuple(Line(one.text, one.start + at, one.end + at) for one in turn.lines)))
        at += record.turns[-1].end + 2
        if at >= 3600:
            break
    hour = Record("hour", tuple(turns), at, "en", datetime(2026, 3, 3, 9, 30))
    cores = os.sched_getaffinity(0)
    os.sched_setaffinity(0, {min(cores)})
    try:
        encoder = Encoder(MODELS / READING)
        read(Record("short", tuple(turns[:4])), encoder)  # the networks are loaded once a process
        began = time.perf_counter()
        reading = read(hour, encoder)
        took = time.perf_counter() - began
        began = time.perf_counter()
        Asker(hour, encoder, reading.turns, reading.findings).ask(["Who is going to ring the council?"])
        asked = time.perf_counter() - began
    finally:
        os.sched_setaffinity(0, cores)
    print()
    print(
        table(
            ["an hour of talk on one core", "turns", "words", "s to read", "s to answer"],
            [["", len(turns), sum(len(t.text.split()) for t in turns), took, asked]],
        )
    )

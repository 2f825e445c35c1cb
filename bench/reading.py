"""Findings, chapters and answers on the labelled meetings, beside plain cue words."""

from __future__ import annotations

import json
import re
import time
from pathlib import Path

from bench.score import score
from bench.tables import table
from core.formats import read_record
from core.reading import read
from core.record.model import Record
from core.search import ask

LABELLED = Path(__file__).resolve().parent / "labelled"
CUES = {
    "decision": re.compile(r"\b(?:we decided|decision|agreed|let's go with|we will go with)\b", re.IGNORECASE),
    "action": re.compile(r"\b(?:I'll|I will|can you|could you|will you)\b"),
    "question": re.compile(r"\?$"),
}
"""The baseline: a turn that has the word is a finding, its speaker the owner."""


def _by_cues(record: Record) -> list[dict]:
    return [
        {"kind": kind, "status": "standing", "confidence": 0.5, "turns": [turn.id], "owner": turn.speaker, "due": None}
        for turn in record.turns
        for kind, cue in CUES.items()
        if cue.search(turn.text)
    ]


def _by_reader(record: Record) -> tuple[list[dict], list[dict]]:
    reading = read(record)
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


def run() -> None:
    """Print the scorer's table for both, and seconds of work per hour of meeting."""
    ours, plain, spent, length = [], [], 0.0, 0.0
    for path in sorted(LABELLED.glob("*.json")):
        record = read_record(path)
        began = time.perf_counter()
        findings, chapters = _by_reader(record)
        spent, length = spent + time.perf_counter() - began, length + record.duration
        questions = [one["q"] for one in json.loads(path.read_text(encoding="utf-8")).get("ask", [])]
        answers = [{"q": answer.question, "turns": [turn.id for turn in answer.turns]} for answer in ask(record, questions)]
        ours.append({"id": path.stem, "findings": findings, "chapters": chapters, "ask": answers})
        plain.append({"id": path.stem, "findings": _by_cues(record), "chapters": [{"title": "", "from_turn": 1}], "ask": []})
    mine, base = score(LABELLED, ours), score(LABELLED, plain)
    rows = [
        [f"{kind} {measure}", mine[kind][measure], base[kind][measure]]
        for kind in ("decision", "action", "question")
        for measure in ("precision", "recall", "f1", "recall_of_likeliest")
    ]
    rows += [[f"action {measure}", mine["action"][measure], base["action"][measure]] for measure in ("owner_right", "due_right")]
    rows += [["chapters Pk (lower is better)", mine["chapters"]["pk"], base["chapters"]["pk"]]]
    rows += [
        ["first citation right", mine["ask"]["first_citation_right"], base["ask"]["first_citation_right"]],
        ["says it is not in the record", mine["ask"]["says_not_in_record"], "-"],
    ]
    print(table(["30 labelled meetings", "reader", "plain cue words"], rows))
    print(f"\n{spent / length * 3600:.1f} s of work per hour of meeting")

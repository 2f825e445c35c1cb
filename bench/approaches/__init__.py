"""Ways of finding decisions, actions and open questions that the reader is compared with: each gives findings as the scorer wants them."""

from __future__ import annotations

import re
from collections.abc import Sequence

import numpy as np
from sklearn.linear_model import LogisticRegression

from bench.approaches.actions import find_actions
from bench.approaches.decisions import ASSENTS, BARE_ASSENT, LATER, PROPOSES, SETTLES, find_decisions
from bench.approaches.questions import UNKNOWN, find_questions
from core.reading.base import PROPOSED, STATED, all_said
from core.reading.encoder import Encoder
from core.reading.owner import ACCEPTS, ASKS, COMMITS, as_typed
from core.record.model import Record

KINDS = ("decision", "action", "question")
CUES = {
    "decision": re.compile(r"\b(?:we decided|decision|agreed|let's go with|we will go with)\b", re.IGNORECASE),
    "action": re.compile(r"\b(?:I'll|I will|can you|could you|will you)\b"),
    "question": re.compile(r"\?$"),
}
"""Plain cue words: a turn that has the word is a finding, its speaker the owner."""


def by_cues(record: Record) -> list[dict]:
    """The baseline."""
    return [
        {"kind": kind, "status": "standing", "confidence": 0.5, "turns": [turn.id], "owner": turn.speaker, "due": None}
        for turn in record.turns
        for kind, cue in CUES.items()
        if cue.search(turn.text)
    ]


def by_tables(record: Record) -> list[dict]:
    """Tables of words for proposals, assents, commitments, requests; written by hand."""
    lines = all_said(record)
    found = [f for detect in (find_decisions, find_actions, find_questions) for f in detect(lines, record) if f.confidence >= PROPOSED]
    return [
        {
            "kind": f.kind,
            "status": "standing" if f.confidence >= STATED else "proposed",
            "confidence": f.confidence,
            "turns": f.turns,
            "owner": f.owner,
            "due": f.due and f.due.isoformat(),
        }
        for f in found
    ]


_TABLES = (SETTLES, PROPOSES, ASSENTS, BARE_ASSENT, LATER, UNKNOWN, COMMITS, ASKS, ACCEPTS, re.compile(r"\?"))


def features(record: Record, encoder: Encoder) -> np.ndarray:
    """Of each turn: its plain sentence vector, those of its neighbours at half weight, and which tables have a word of it."""
    texts = [as_typed(turn.text) for turn in record.turns]
    vectors = encoder.plain([turn.text for turn in record.turns])
    cues = np.array([[bool(table.search(text)) for table in _TABLES] for text in texts], float)
    around = [_moved(vectors, step) * 0.5 for step in (-2, -1, 1, 2)]
    return np.concatenate([vectors, *around, cues, _moved(cues, -1), _moved(cues, 1)], axis=1)


def pair_features(record: Record, encoder: Encoder) -> tuple[list[tuple[int, int]], np.ndarray]:
    """Pairs of turns up to three apart by different speakers, such as a proposal and its assent, and the features of both side by side."""
    own = features(record, encoder)
    pairs = [
        (i, j)
        for i in range(len(record.turns))
        for j in range(i + 1, min(i + 4, len(record.turns)))
        if record.turns[i].speaker != record.turns[j].speaker
    ]
    width = 384
    sides = [[i for i, _ in pairs], [j for _, j in pairs]]
    short = np.concatenate([own[:, :width], own[:, 5 * width :]], axis=1)
    gaps = np.array([[j - i] for i, j in pairs])
    return pairs, np.concatenate([short[sides[0]], short[sides[1]], gaps], axis=1)


def _moved(rows: np.ndarray, step: int) -> np.ndarray:
    moved = np.zeros_like(rows)
    if step > 0:
        moved[:-step] = rows[step:]
    else:
        moved[-step:] = rows[:step]
    return moved


def train(rows: Sequence[np.ndarray], labels: Sequence[np.ndarray]) -> LogisticRegression:
    """A logistic regression, balanced, strongly held back (C = 0.02)."""
    return LogisticRegression(C=0.02, class_weight="balanced", max_iter=400).fit(np.concatenate(rows), np.concatenate(labels))

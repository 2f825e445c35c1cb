"""A question to one record: the turns that share most of its weight, or "the record does not say"."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from rank_bm25 import BM25Okapi

from core.reading.chapters import terms
from core.record.model import Record, Turn

NOT_IN_RECORD = "The record does not say."
# The share of a question's weight (by rarity of its words) that the best turn, with its neighbours, has to cover.
_COVERED = 0.4
_MOST = 3


@dataclass(frozen=True, slots=True)
class Answer:
    """The turns that answer, the best evidence first; none when the record does not say."""

    question: str
    turns: tuple[Turn, ...]

    @property
    def text(self) -> str:
        """The lines themselves, each with who says it."""
        return " ".join(f"{turn.speaker}: {turn.text}" for turn in self.turns) or NOT_IN_RECORD


def ask(record: Record, questions: Sequence[str]) -> list[Answer]:
    """One answer a question, by BM25 (Robertson and Walker 1994) over turns with half the weight of their neighbours."""
    bags = [terms(f"{turn.speaker} {turn.text}") for turn in record.turns]
    if not any(bags):
        return [Answer(question, ()) for question in questions]
    index = BM25Okapi([bag or [""] for bag in bags])
    return [Answer(question, _best(record, bags, index, terms(question))) for question in questions]


def _best(record: Record, bags: list[list[str]], index: BM25Okapi, wanted: list[str]) -> tuple[Turn, ...]:
    if not wanted:
        return ()
    # In a short record a word's BM25 weight may be nothing; that a turn has the word still counts.
    own = np.asarray(index.get_scores(wanted)).clip(min=0.0) + [0.01 * len(set(wanted) & set(bag)) for bag in bags]
    around = own + 0.5 * np.maximum(np.roll(own, 1), np.roll(own, -1))
    order = [int(i) for i in np.argsort(-around, kind="stable") if own[i] > 0][:_MOST]
    if not order:
        return ()
    # A word that no turn has weighs as much as the rarest one that some turn has.
    rarest = max(index.idf.values())
    weight = {term: max(0.1, index.idf.get(term, rarest)) for term in wanted}
    near = {term for i in range(max(0, order[0] - 1), order[0] + 2) if i < len(bags) for term in bags[i]}
    if sum(weight[term] for term in weight if term in near) < _COVERED * sum(weight.values()):
        return ()
    best = around[order[0]]
    return tuple(record.turns[i] for i in order if around[i] >= 0.6 * best)

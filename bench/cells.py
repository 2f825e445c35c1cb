"""Make the cells in which what is alike is looked for: `python -m bench.cells` writes core/search/cells.npy. Half a minute.

First it is measured what is lost: cells of all labelled talk but that of the meetings u01 and on, by other hands; these are put to the
questions asked about them, and it is counted how much of what is nearest to each lies in so many of its nearest cells.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from itertools import chain

import numpy as np
from sklearn.cluster import KMeans

from bench.hearing import MODELS
from bench.meetings import LABELLED
from bench.of_series import load_series
from bench.tables import table
from core.reading import READING, Encoder
from core.reading.encoder import unit
from core.search.cells import MADE
from core.search.senses import says_enough

_CELLS, _SHARES = 512, (1 / 12, 1 / 4)
_BEST, _NEAR = 10, 0.45
_STEPS = 127.0


def _said(pattern: str) -> tuple[list[str], list[str]]:
    """Turns that say something, and questions about them."""
    meetings = [json.loads(path.read_text(encoding="utf-8")) for path in sorted(LABELLED.glob(pattern))]
    turns = [turn["text"] for meeting in meetings for turn in meeting["turns"] if says_enough(turn["text"])]
    return turns, [one["q"] for meeting in meetings for one in meeting["ask"]]


def _beside() -> list[str]:
    """Talk that is labelled otherwise: passages, and series."""
    passages = chain.from_iterable(json.loads(path.read_text(encoding="utf-8")) for path in sorted((LABELLED / "pairs").glob("*.json")))
    texts = {line["text"] for passage in passages for line in passage["lines"]}
    texts |= {turn.text for series in load_series() for record in series.meetings for turn in record.turns}
    return sorted(text for text in texts if says_enough(text))


def _places(senses: np.ndarray) -> np.ndarray:
    return unit(KMeans(_CELLS, n_init=2, random_state=0).fit(senses).cluster_centers_)


def _kept(places: np.ndarray, said: np.ndarray, questions: np.ndarray) -> Sequence[Sequence[object]]:
    cell, likes = (said @ places.T).argmax(axis=1), questions @ said.T
    nearest = np.argsort(-(questions @ places.T), axis=1)
    rows = []
    for share in _SHARES:
        looked = [np.isin(cell, nearest[number, : round(share * _CELLS)]) for number in range(len(questions))]
        best = [one[np.argsort(-row)[:_BEST]].mean() for one, row in zip(looked, likes, strict=True)]
        near = np.concatenate([one[row >= _NEAR] for one, row in zip(looked, likes, strict=True)])
        rows.append([f"{share:.3f}", f"{np.mean([one.mean() for one in looked]):.3f}", f"{np.mean(best):.3f}", f"{near.mean():.3f}"])
    return rows


def run() -> None:
    """Measure on meetings by other hands, then make them of all."""
    encoder = Encoder(MODELS / READING)
    (ours, _), (others, questions) = _said("t*.json"), _said("u*.json")
    senses = encoder.plain([*ours, *_beside()])
    held_out = encoder.plain(others)
    print(table(["cells", "turns looked at", f"of the {_BEST} nearest", f"of those from {_NEAR} on"], _kept(_places(senses), held_out, encoder.plain(questions))))
    np.save(MADE, np.round(_STEPS * _places(np.concatenate([senses, held_out]))).astype(np.int8))


if __name__ == "__main__":
    run()

"""Fit what answers a question put to several meetings: `python -m bench.teach_together` writes core/search/together.json.

On the labelled series: the questions put to each as a whole, and those of its single meetings put to all four. A listwise softmax over the
turns (Cao et al. 2007), and logistic regression for whether there is an answer at all; both with an L2 penalty. Half a minute on one core.
"""

from __future__ import annotations

import json
import os
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from pathlib import Path

import numpy as np

from bench.adam import adam
from bench.of_series import Series, load_series
from core.reading import READING, Encoder
from core.search.together import FITTED, Library, Weights

_PENALTY, _SAYS_PENALTY = 30.0, 0.3
_SAID = 0.54
"""The weight of the questions that are answered, of which there are more, beside those that nothing answers."""


@dataclass(frozen=True)
class Asked:
    """A question: what speaks for each turn, by name; the places of those that answer."""

    features: dict[str, np.ndarray]
    answers: list[int]


def asked(series: Series, encoder: Encoder) -> tuple[Library, list[Asked]]:
    """All questions of a series, put to the whole of it."""
    meetings = [series.read(number, encoder) for number in range(len(series.meetings))]
    library = Library(meetings, encoder)
    places: dict[tuple[str, int], int] = {}
    for meeting in meetings:
        for turn in meeting.record.turns:
            places[meeting.record.id, turn.id] = len(places)
    questions = [(one["q"], [(answer["meeting"], turn) for answer in one["answers"] for turn in answer["turns"]]) for one in series.ask]
    # What one meeting does not say another may.
    questions += [(one["q"], [(meeting, turn) for turn in one["turns"]]) for meeting, each in series.single.items() for one in each if one["turns"]]
    return library, [Asked(library.measure(text), [places[where] for where in answers]) for text, answers in questions]


def teach(series: Sequence[Series], encoder: Encoder) -> Weights:
    """Weights from series."""
    sets = [asked(one, encoder) for one in series]
    every = [one for _, each in sets for one in each]
    names = list(every[0].features)
    stacked = [np.stack([one.features[name] for name in names], axis=1) for one in every]
    centre, spread = np.concatenate(stacked).mean(axis=0), np.concatenate(stacked).std(axis=0) + 1e-6
    scaled = [(one - centre) / spread for one in stacked]

    def gradient(weights: np.ndarray) -> np.ndarray:
        slope = _PENALTY * weights
        for one, rows in zip(every, scaled, strict=True):
            if one.answers:
                chances = _softmax(rows @ weights)
                wanted = np.zeros(len(chances))
                wanted[one.answers] = chances[one.answers] / chances[one.answers].sum()
                slope = slope + rows.T @ (chances - wanted)
        return slope

    turns = adam(np.zeros(len(names)), gradient) / spread
    library = sets[0][0]
    signs = [library.says(one.features, _softmax(rows @ turns)) for one, rows in zip(every, stacked, strict=True)]
    matrix = np.array([list(one.values()) for one in signs])
    there = np.array([bool(one.answers) for one in every], float)
    weight = np.where(there, _SAID / there.mean(), (1 - _SAID) / (1 - there.mean()))

    def says_gradient(weights: np.ndarray) -> np.ndarray:
        return matrix.T @ (weight * (1 / (1 + np.exp(-matrix @ weights)) - there)) + _SAYS_PENALTY * weights

    says = adam(np.zeros(matrix.shape[1]), says_gradient)
    return Weights(
        {name: round(float(value), 4) for name, value in zip(names, turns, strict=True)},
        {name: round(float(value), 4) for name, value in zip(signs[0], says, strict=True)},
    )


def _softmax(score: np.ndarray) -> np.ndarray:
    parts = np.exp(score - score.max())
    return parts / parts.sum()


def main() -> None:
    """Teach by all of them."""
    encoder = Encoder(Path(os.environ["AFTERSHOWER_MODELS"]) / READING)
    FITTED.write_text(json.dumps(asdict(teach(load_series(), encoder)), ensure_ascii=False, indent=1) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()

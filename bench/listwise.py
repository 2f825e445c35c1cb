"""The two small models by which turns are chosen for a question, fitted: a listwise softmax over the turns (Cao et al. 2007), and logistic regression
for whether there is an answer at all; both with an L2 penalty."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from bench.adam import adam
from core.search.weights import Weights


@dataclass(frozen=True)
class Asked:
    """A question: what speaks for each turn, by name, and the places of the turns that answer; `says`: from the chances of the turns, what speaks for
    there being an answer."""

    features: dict[str, np.ndarray]
    answers: list[int]
    says: Callable[[np.ndarray], dict[str, float]]


def fit(every: Sequence[Asked], penalty: float, says_penalty: float, said: float) -> Weights:
    """Weights by questions. said: the weight of those that are answered beside those that nothing answers, whatever their numbers."""
    names = list(every[0].features)
    stacked = [np.stack([one.features[name] for name in names], axis=1) for one in every]
    centre, spread = np.concatenate(stacked).mean(axis=0), np.concatenate(stacked).std(axis=0) + 1e-6
    scaled = [(one - centre) / spread for one in stacked]

    def gradient(weights: np.ndarray) -> np.ndarray:
        slope = penalty * weights
        for one, rows in zip(every, scaled, strict=True):
            if one.answers:
                chances = softmax(rows @ weights)
                wanted = np.zeros(len(chances))
                wanted[one.answers] = chances[one.answers] / chances[one.answers].sum()
                slope = slope + rows.T @ (chances - wanted)
        return slope

    turns = adam(np.zeros(len(names)), gradient) / spread
    signs = [one.says(softmax(rows @ turns)) for one, rows in zip(every, stacked, strict=True)]
    matrix = np.array([list(one.values()) for one in signs])
    there = np.array([bool(one.answers) for one in every], float)
    weight = np.where(there, said / there.mean(), (1 - said) / (1 - there.mean()))

    def says_gradient(weights: np.ndarray) -> np.ndarray:
        return matrix.T @ (weight * (1 / (1 + np.exp(-matrix @ weights)) - there)) + says_penalty * weights

    says = adam(np.zeros(matrix.shape[1]), says_gradient)
    return Weights(
        {name: round(float(value), 4) for name, value in zip(names, turns, strict=True)},
        {name: round(float(value), 4) for name, value in zip(signs[0], says, strict=True)},
    )


def softmax(score: np.ndarray) -> np.ndarray:
    """Chances of each."""
    parts = np.exp(score - score.max())
    return parts / parts.sum()

"""Whether a sentence follows from its passage, as far as a language model can tell: how likely it finds each of its words there, and how much
less likely without the evidence. What looking up cannot tell, such as a "not" that nobody said or another owner, shows in that."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

KEPT = 0.95
"""The share of sentences that people wrote which the judge lets pass; the least below is set by it."""
_WEIGHTS, _BIAS, _LEAST = np.array([0.0, 0.0, 0.0, 0.0, 0.0]), 0.0, -1.0
"""Fitted by bench/judging.py."""


def features(likelihoods: tuple[Sequence[float], Sequence[float]]) -> np.ndarray:
    """What tells: logarithms of the likelihood of each token of the sentence, with the evidence and without → mean, least, mean of the three
    least, what the evidence adds in the mean, and at the token where it adds least."""
    there, without = (np.asarray(one, float) for one in likelihoods)
    gain = there - without
    return np.array([there.mean(), there.min(), np.sort(there)[:3].mean(), gain.mean(), gain.min()])


def is_likely(values: np.ndarray) -> bool:
    """Does a sentence with these features follow?"""
    return bool(values @ _WEIGHTS + _BIAS >= _LEAST)

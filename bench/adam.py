"""Adam (Kingma and Ba 2015) with its usual constants, for the small models that are fitted here."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np


def adam(start: np.ndarray, gradient: Callable[[np.ndarray], np.ndarray], rate: float = 0.05, rounds: int = 400) -> np.ndarray:
    """What `start` comes to. gradient: of the loss, in the shape of what it is given."""
    weights, mean, square = start.copy(), np.zeros_like(start), np.zeros_like(start)
    for step in range(1, rounds + 1):
        slope = gradient(weights)
        mean, square = 0.9 * mean + 0.1 * slope, 0.999 * square + 0.001 * slope**2
        weights -= rate * (mean / (1 - 0.9**step)) / (np.sqrt(square / (1 - 0.999**step)) + 1e-8)
    return weights

"""Windows of voices → how many voices there are, and what each sounds like."""

from __future__ import annotations

import numpy as np
from scipy.cluster.hierarchy import fcluster, linkage

from core.voices.embedding import unit

# Average-linkage clusters nearer than this (cosine) are one voice. Of synthetic voices smoothed over 1.6 s the same
# voice is at 0.85 and up, different ones at 0.7 and below.
SAME_VOICE = 0.72
# Clusters whose means are nearer than this are one voice after all; a cluster of few windows has a rough mean, so less will do.
_SAME_MEAN, _SAME_ROUGH_MEAN, _FEW_WINDOWS = 0.83, 0.73, 15
# A voice heard for fewer windows (of 0.4 s each) than this share or number is taken for noise of another.
_LEAST_SHARE, _LEAST_WINDOWS = 0.01, 4
# Clustering needs the square of its windows in memory; longer recordings are clustered on an even sample.
_MOST_WINDOWS = 3000


def smooth(centres: np.ndarray, vectors: np.ndarray, reach: float = 0.5) -> np.ndarray:
    """Each window's vector averaged with those at most `reach` seconds away. Shapes (n,), (n, d) → (n, d)."""
    first = np.searchsorted(centres, centres - reach - 1e-6)
    last = np.searchsorted(centres, centres + reach + 1e-6, side="right")
    running = np.concatenate([np.zeros((1, vectors.shape[1])), np.cumsum(vectors, axis=0, dtype=np.float64)])
    return unit(running[last] - running[first])


def find_voices(vectors: np.ndarray, voices: int | None = None) -> np.ndarray:
    """Centroids of the voices in window vectors of length 1, shape (n, d) → (k, d).

    voices: their number where it is known; otherwise it is found. k is 0 only where n is 0.
    """
    if len(vectors) == 0:
        return vectors
    if len(vectors) == 1:
        return vectors.copy()
    sample = vectors[np.linspace(0, len(vectors) - 1, min(len(vectors), _MOST_WINDOWS)).astype(int)]
    tree = linkage(sample, method="average", metric="cosine")
    if voices:
        labels = fcluster(tree, voices, criterion="maxclust")
    else:
        labels = fcluster(tree, 1 - SAME_VOICE, criterion="distance")
    sizes = np.bincount(labels)
    least = min(max(_LEAST_WINDOWS, _LEAST_SHARE * len(sample)), sizes.max())
    kept = [label for label in np.flatnonzero(sizes) if sizes[label] >= least or voices]
    centroids = unit(np.stack([sample[labels == label].mean(axis=0) for label in kept]))
    return _refine(vectors, centroids if voices else _join(sample, centroids))


def _join(vectors: np.ndarray, centroids: np.ndarray) -> np.ndarray:
    """Join the nearest pair of centroids until no pair is near enough to be one voice."""
    while len(centroids) > 1:
        sizes = np.bincount((vectors @ centroids.T).argmax(axis=1), minlength=len(centroids))
        few = np.minimum(sizes[:, None], sizes[None, :]) < _FEW_WINDOWS
        margin = centroids @ centroids.T - np.where(few, _SAME_ROUGH_MEAN, _SAME_MEAN)
        np.fill_diagonal(margin, -1)
        one, other = np.unravel_index(margin.argmax(), margin.shape)
        if margin[one, other] < 0:
            break
        together = unit(centroids[one] * sizes[one] + centroids[other] * sizes[other])
        centroids = np.vstack([np.delete(centroids, [one, other], axis=0), together])
    return centroids


def _refine(vectors: np.ndarray, centroids: np.ndarray, rounds: int = 5) -> np.ndarray:
    """Spherical k-means from the given centroids (Dhillon and Modha 2001)."""
    for _ in range(rounds):
        nearest = (vectors @ centroids.T).argmax(axis=1)
        centroids = unit(
            np.stack([vectors[nearest == k].mean(axis=0) if (nearest == k).any() else centroids[k] for k in range(len(centroids))])
        )
    return centroids

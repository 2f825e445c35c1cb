"""Runs → how many voices there are, what each sounds like, and whose each run is."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from core.voices.listen import Run, at_once, unit

# Average-linkage clusters nearer than this (cosine) are one voice. Of one voice, runs of 1.5 s and more are at 0.69 and up (nine in ten),
# of different ones at 0.46 and below (95 in 100); two women on one telephone line are at 0.45.
SAME_VOICE = 0.47
# Runs shorter than this (seconds of clear sound) are given to voices, but make none. Where people speak in short turns there may be few
# so long, and all of one person: then the longest of the shorter ones count too.
_CLEAR, _SHORTER, _ENOUGH = 1.5, 0.8, 16
# A voice heard for less than this, in seconds or as a share of all, is part of another, unless it is nothing like any.
_LEAST, _LEAST_SHARE, _NOTHING_LIKE = 2.5, 0.01, 0.25
# Clustering needs the square of its runs in memory; longer recordings are clustered on an even sample.
_MOST = 3000


def find_voices(runs: Sequence[Run], voices: int | None = None) -> np.ndarray:
    """What the voices in the runs sound like, vectors of length 1, shape (k, d).

    voices: their number where it is known; otherwise it is found. k is 0 only where there are no runs.
    """
    if not runs:
        return np.zeros((0, 192), np.float32)
    clear = np.array([run.clear for run in runs])
    vectors = np.stack([run.vector for run in runs])
    chosen = np.flatnonzero(clear >= _CLEAR)
    if len(chosen) < _ENOUGH:
        longest = np.argsort(-clear, kind="stable")[:_ENOUGH]
        chosen = np.sort(longest[clear[longest] >= _SHORTER])
    if len(chosen) < max(4, voices or 0):
        chosen = np.argsort(-clear, kind="stable")[: max(4, voices or 0)]
    if len(chosen) == 1:
        return vectors[chosen]
    chosen = chosen[np.linspace(0, len(chosen) - 1, min(len(chosen), _MOST)).astype(int)]
    from scipy.cluster.hierarchy import fcluster, linkage  # a second to load, which every process would wait for

    tree = linkage(vectors[chosen], method="average", metric="cosine")
    labels = fcluster(tree, voices, "maxclust") if voices else fcluster(tree, 1 - SAME_VOICE, "distance")
    weight = np.minimum(np.maximum(clear[chosen], 0.1), 4.0)
    names = np.unique(labels)
    centroids = unit(np.stack([np.average(vectors[chosen][labels == name], axis=0, weights=weight[labels == name]) for name in names]))
    if voices:
        return centroids
    seconds = np.array([clear[chosen][labels == name].sum() for name in names])
    return centroids[_real(centroids, seconds)]


def _real(centroids: np.ndarray, seconds: np.ndarray) -> np.ndarray:
    """Which clusters are voices of their own, as a mask."""
    likeness = centroids @ centroids.T
    np.fill_diagonal(likeness, -1)
    few = seconds < max(_LEAST, _LEAST_SHARE * seconds.sum())
    kept = ~few | (likeness.max(axis=1) < _NOTHING_LIKE)
    kept[seconds.argmax()] = True
    return kept


def likeness(runs: Sequence[Run], centroids: np.ndarray) -> np.ndarray:
    """Cosine of each run to each voice, shape (runs, k). Two runs at once are two voices: the less like one gives way."""
    found = np.stack([run.vector for run in runs]) @ centroids.T
    if centroids.shape[0] < 2:
        return found
    for index, other, span in at_once(runs):
        mine, theirs = found[index].argmax(), found[other].argmax()
        if mine == theirs and span.duration > 0.1:
            found[index if found[index, mine] < found[other, theirs] else other, mine] = -1
    return found

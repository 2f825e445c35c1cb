"""The encoder taught to say one thing, with a head that makes a probability of it."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path

import numpy as np
import onnxruntime
from tokenizers import Tokenizer

START, END = 101, 102  # [CLS] and [SEP] of the tokenizer
SET_ASIDE = 2
"""The third of the labelled meetings and passages that networks of this kind were not taught by."""


def load_tokenizer(folder: Path) -> Tokenizer:
    """The encoder's, from beside its networks; texts are neither cut nor filled up."""
    tokenizer = Tokenizer.from_file(str(folder / "tokenizer.json"))
    tokenizer.no_truncation()
    tokenizer.no_padding()
    return tokenizer


def open_network(path: Path) -> onnxruntime.InferenceSession:
    """A network, with as many threads as there are cores for this process: more of them wait for each other."""
    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = len(os.sched_getaffinity(0))
    return onnxruntime.InferenceSession(path, options, providers=["CPUExecutionProvider"])


class Headed:
    """A network, loaded: some 30 MB."""

    def __init__(self, folder: Path, updates: Path):
        """folder: what core.reading.network made. updates: what it was taught; the graph is named after it."""
        self.tokenizer = load_tokenizer(folder)
        self._network = open_network(folder / f"{updates.stem}.onnx")
        with np.load(updates) as taught:
            self._weight, self._bias = taught["head.weight"].astype(np.float32)[0], float(taught["head.bias"][0])

    def states(self, tokens: Sequence[int]) -> np.ndarray:
        """Of each token, shape (tokens, 384)."""
        ids = np.array([tokens], np.int64)
        return self._network.run(None, {"ids": ids, "mask": np.ones(ids.shape, np.float32)})[0][0]

    def chance(self, state: np.ndarray) -> float:
        """The head's word on a state, or a mean of several, 0 to 1."""
        return float(1 / (1 + np.exp(-(state @ self._weight + self._bias))))

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


class Headed:
    """A network, loaded: some 30 MB."""

    def __init__(self, folder: Path, updates: Path):
        """folder: what core.reading.network made. updates: what it was taught; the graph is named after it."""
        self.tokenizer = Tokenizer.from_file(str(folder / "tokenizer.json"))
        self.tokenizer.no_truncation()
        self.tokenizer.no_padding()
        options = onnxruntime.SessionOptions()
        options.intra_op_num_threads = len(os.sched_getaffinity(0))
        self._network = onnxruntime.InferenceSession(folder / f"{updates.stem}.onnx", options, providers=["CPUExecutionProvider"])
        with np.load(updates) as taught:
            self._weight, self._bias = taught["head.weight"].astype(np.float32)[0], float(taught["head.bias"][0])

    def states(self, tokens: Sequence[int]) -> np.ndarray:
        """Of each token, shape (tokens, 384)."""
        ids = np.array([tokens], np.int64)
        return self._network.run(None, {"ids": ids, "mask": np.ones(ids.shape, np.float32)})[0][0]

    def chance(self, state: np.ndarray) -> float:
        """The head's word on a state, or a mean of several, 0 to 1."""
        return float(1 / (1 + np.exp(-(state @ self._weight + self._bias))))

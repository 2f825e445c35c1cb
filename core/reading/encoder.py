"""Turns and questions as numbers, by the networks of core.reading.network."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import numpy as np
import onnxruntime
from tokenizers import Tokenizer

from core.reading.network import TAUGHT
from core.record.model import Turn

READING = "reading"
"""Where the networks lie under the models' folder."""
LABELS = ("decision", "action", "question", "seam", "settled")
"""What a turn may be, each with a probability: part of a decision that stands, of an action, of an open question; the first of a
chapter; part of a decision, whether or not it is taken back later."""
WIDTH = 384

_START, _END = 101, 102  # [CLS] and [SEP] of the tokenizer
_TURN, _QUESTION = 96, 40  # tokens of a turn, of a question, that count
_BLOCK = 224  # tokens read together; the encoder was trained on 256 at most
_TOGETHER = 8  # blocks at a time


@dataclass(frozen=True, slots=True)
class Turns:
    """What the networks say of turns: `likely`, the probability of each of LABELS, shape (turns, 5); `vectors`, what each turn answers,
    shape (turns, 384 · parts), of length 1."""

    likely: np.ndarray
    vectors: np.ndarray


class Encoder:
    """The networks, loaded at their first use and kept.

    parts: which of the taught updates count; what they say is averaged. By default all. Each was trained without one part of the
    labelled meetings (see bench.meetings), so that on these it can be measured.
    """

    def __init__(self, folder: Path, parts: Sequence[int] | None = None):
        """folder: what core.reading.network made."""
        self.parts = tuple(range(len(TAUGHT)) if parts is None else parts)
        self._folder = folder
        self._tokenizer = Tokenizer.from_file(str(folder / "tokenizer.json"))
        self._tokenizer.no_truncation()
        self._tokenizer.no_padding()
        self._networks: dict[str, onnxruntime.InferenceSession] = {}

    def plain(self, texts: Sequence[str]) -> np.ndarray:
        """What texts are about, by the encoder as it was published, shape (texts, 384), each of length 1."""
        tokens = [[_START, *ids[:_BLOCK], _END] for ids in self._tokens(texts)]
        made = np.zeros((len(texts), WIDTH), np.float32)
        order = sorted(range(len(texts)), key=lambda i: len(tokens[i]))  # of like length together: less padding
        for first in range(0, len(order), 4 * _TOGETHER):
            chosen = order[first : first + 4 * _TOGETHER]
            made[chosen] = self._means("plain", [tokens[i] for i in chosen])
        return _unit(made)

    def questions(self, texts: Sequence[str]) -> np.ndarray:
        """Questions in the space of the vectors of Turns, shape (texts, 384 · parts): the product says how well a turn answers."""
        tokens = [[_START, *ids[:_QUESTION], _END] for ids in self._tokens(texts)]
        return self._side_by_side([np.concatenate([self._means(f"taught-{part}", [row]) for row in tokens]) for part in self.parts])

    def turns(self, turns: Sequence[Turn], report: Callable[[float], None] = lambda done: None) -> Turns:
        """Read turns, each with those around it. report: told now and then how much is done, 0 to 1."""
        named = [f"{turn.speaker.split()[0].lower() if turn.speaker.strip() else ''} : {turn.text}" for turn in turns]
        tokens = [[*ids[:_TURN], _END] for ids in self._tokens(named)]
        if not tokens:
            return Turns(np.zeros((0, len(LABELS))), np.zeros((0, WIDTH * len(self.parts))))
        count = len(self.parts)
        read = [self._read(part, tokens, lambda done, place=place: report((place + done) / count)) for place, part in enumerate(self.parts)]
        logits = np.mean([logits for logits, _ in read], axis=0)
        return Turns(1 / (1 + np.exp(-logits)), self._side_by_side([vectors for _, vectors in read]))

    def _tokens(self, texts: Sequence[str]) -> list[list[int]]:
        return [encoded.ids for encoded in self._tokenizer.encode_batch(list(texts), add_special_tokens=False)]

    def _read(self, part: int, tokens: list[list[int]], report: Callable[[float], None]) -> tuple[np.ndarray, np.ndarray]:
        """Logits and vectors by one set of updates."""
        head = _head(part)
        pooled = np.zeros((len(tokens), 2 * WIDTH), np.float32)
        inside = np.full(len(tokens), -1)
        blocks = list(_blocks([len(one) for one in tokens]))
        for first in range(0, len(blocks), _TOGETHER):
            chosen = blocks[first : first + _TOGETHER]
            states, _ = self._states(f"taught-{part}", [[_START, *(t for one in tokens[a:b] for t in one)] for a, b in chosen])
            for (a, b), block in zip(chosen, states, strict=True):
                at = 1
                for turn in range(a, b):
                    own = block[at : at + len(tokens[turn])]
                    at += len(own)
                    # Of two readings of a turn the one counts that sees more of what is said around it.
                    seen = min(turn - a if a else len(tokens), b - 1 - turn if b < len(tokens) else len(tokens))
                    if seen > inside[turn]:
                        inside[turn], pooled[turn] = seen, np.concatenate([own.mean(0), own[0]])
            report(min(1.0, (first + _TOGETHER) / len(blocks)))
        vectors = pooled[:, :WIDTH] + pooled @ head["ask.weight"].T.astype(np.float32) + head["ask.bias"]
        return pooled @ head["head.weight"].T + head["head.bias"], vectors

    def _side_by_side(self, made: list[np.ndarray]) -> np.ndarray:
        return np.concatenate([_unit(one) for one in made], axis=1) / math.sqrt(len(made))

    def _means(self, network: str, rows: list[list[int]]) -> np.ndarray:
        states, mask = self._states(network, rows)
        return (states * mask[..., None]).sum(1) / mask.sum(1, keepdims=True)

    def _states(self, network: str, rows: list[list[int]]) -> tuple[np.ndarray, np.ndarray]:
        if network not in self._networks:
            self._networks[network] = onnxruntime.InferenceSession(self._folder / f"{network}.onnx", providers=["CPUExecutionProvider"])
        longest = max(map(len, rows))
        ids = np.array([row + [0] * (longest - len(row)) for row in rows], np.int64)
        mask = np.array([[1.0] * len(row) + [0.0] * (longest - len(row)) for row in rows], np.float32)
        return self._networks[network].run(None, {"ids": ids, "mask": mask})[0], mask


def _unit(vectors: np.ndarray) -> np.ndarray:
    return vectors / np.maximum(np.linalg.norm(vectors, axis=1, keepdims=True), 1e-9)


@cache
def _head(part: int) -> dict[str, np.ndarray]:
    with np.load(TAUGHT[part]) as taught:
        return {name: taught[name] for name in ("head.weight", "head.bias", "ask.weight", "ask.bias")}


def _blocks(lengths: Sequence[int]) -> Iterator[tuple[int, int]]:
    """Turns read together, from and up to; each block begins in the middle of the one before."""
    first = 0
    while first < len(lengths):
        total, last = 1, first
        while last < len(lengths) and (total + lengths[last] <= _BLOCK or last == first):
            total += lengths[last]
            last += 1
        yield first, last
        if last >= len(lengths):
            return
        first = max(first + 1, first + (last - first) // 2)

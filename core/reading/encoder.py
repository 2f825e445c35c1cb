"""Turns and questions as numbers, by the networks of core.reading.network."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cache, cached_property
from pathlib import Path

import numpy as np
import onnxruntime

from core.reading.compression import Compressor
from core.reading.headed import END, START, load_tokenizer, open_network
from core.reading.network import TAUGHT
from core.record.model import Turn

READING = "reading"
"""Where the networks lie under the models' folder."""
LABELS = ("decision", "action", "question", "seam", "settled")
"""What a turn may be, each with a probability: part of a decision that stands, of an action, of an open question; the first of a
chapter; part of a decision, whether or not it is taken back later."""
WIDTH = 384

_TURN, _QUESTION = 96, 40  # tokens of a turn, of a question, that count
_BLOCK = 224  # tokens read together; the encoder was trained on 256 at most
_CUTS = (1.0, 1 / 3, 2 / 3)
"""Turns are read three times, cut into blocks at other places each time (the share of a block that the first one has), and what is said
of them is averaged: of what stands at the edge of one block another reading sees both sides."""
_TOGETHER = 8  # blocks at a time


def _share(report: Callable[[float], None], place: int) -> Callable[[float], None]:
    """Tells how much of all readings is done, from within one of them."""
    return lambda done: report((place + done) / len(_CUTS))


@dataclass(frozen=True, slots=True)
class Turns:
    """What the networks say of turns: `likely`, the probability of each of LABELS, shape (turns, 5); `vectors`, what each turn answers,
    shape (turns, 384 · 3), of length 1."""

    likely: np.ndarray
    vectors: np.ndarray


class Encoder:
    """The networks, loaded at their first use and kept.

    parts: which of the taught updates count, in turn, for the readings that are averaged. By default all, one a reading. Each was trained without one part of the
    labelled meetings (see bench.meetings), so that on these it can be measured.
    """

    def __init__(self, folder: Path, parts: Sequence[int] | None = None):
        """folder: what core.reading.network made."""
        self.parts = tuple(range(len(TAUGHT)) if parts is None else parts)
        self._folder = folder
        self._tokenizer = load_tokenizer(folder)
        self._networks: dict[str, onnxruntime.InferenceSession] = {}

    @cached_property
    def compressor(self) -> Compressor:
        """The network of the same folder that says which clauses belong into a sentence."""
        return Compressor(self._folder)

    def plain(self, texts: Sequence[str]) -> np.ndarray:
        """What texts are about, by the encoder as it was published, shape (texts, 384), each of length 1."""
        tokens = [[START, *ids[:_BLOCK], END] for ids in self._tokens(texts)]
        made = np.zeros((len(texts), WIDTH), np.float32)
        order = sorted(range(len(texts)), key=lambda i: len(tokens[i]))  # of like length together: less padding
        for first in range(0, len(order), 4 * _TOGETHER):
            chosen = order[first : first + 4 * _TOGETHER]
            made[chosen] = self._means("plain", [tokens[i] for i in chosen])
        return unit(made)

    def questions(self, texts: Sequence[str]) -> np.ndarray:
        """Questions in the space of the vectors of Turns, shape (texts, 384 · 3): the product says how well a turn answers."""
        tokens = [[START, *ids[:_QUESTION], END] for ids in self._tokens(texts)]
        made = {part: np.concatenate([self._means(f"taught-{part}", [row]) for row in tokens]) for part in self.parts}
        return self._side_by_side([made[part] for part, _ in self._readings()])

    def turns(self, turns: Sequence[Turn], report: Callable[[float], None] = lambda done: None) -> Turns:
        """Read turns, each with those around it. report: told now and then how much is done, 0 to 1."""
        named = [f"{turn.speaker.split()[0].lower() if turn.speaker.strip() else ''} : {turn.text}" for turn in turns]
        tokens = [[*ids[:_TURN], END] for ids in self._tokens(named)]
        if not tokens:
            return Turns(np.zeros((0, len(LABELS))), np.zeros((0, WIDTH * len(_CUTS))))
        read = [
            self._read(part, cut, tokens, _share(report, place))
            for place, (part, cut) in enumerate(self._readings())
        ]
        logits = np.mean([logits for logits, _ in read], axis=0)
        return Turns(1 / (1 + np.exp(-logits)), self._side_by_side([vectors for _, vectors in read]))

    def _readings(self) -> list[tuple[int, float]]:
        """By which updates, and cut where, each reading is; where there is one set of updates alone, it reads every time."""
        return [(self.parts[place % len(self.parts)], cut) for place, cut in enumerate(_CUTS)]

    def _tokens(self, texts: Sequence[str]) -> list[list[int]]:
        return [encoded.ids for encoded in self._tokenizer.encode_batch(list(texts), add_special_tokens=False)]

    def _read(self, part: int, cut: float, tokens: list[list[int]], report: Callable[[float], None]) -> tuple[np.ndarray, np.ndarray]:
        """Logits and vectors by one set of updates."""
        head = _head(part)
        pooled = np.zeros((len(tokens), 2 * WIDTH), np.float32)
        blocks = list(_blocks([len(one) for one in tokens], cut))
        for first in range(0, len(blocks), _TOGETHER):
            chosen = blocks[first : first + _TOGETHER]
            states, _ = self._states(f"taught-{part}", [[START, *(t for one in tokens[a:b] for t in one)] for a, b in chosen])
            for (a, b), block in zip(chosen, states, strict=True):
                at = 1
                for turn in range(a, b):
                    own = block[at : at + len(tokens[turn])]
                    at += len(own)
                    pooled[turn] = np.concatenate([own.mean(0), own[0]])
            report(min(1.0, (first + _TOGETHER) / len(blocks)))
        vectors = pooled[:, :WIDTH] + pooled @ head["ask.weight"].T.astype(np.float32) + head["ask.bias"]
        return pooled @ head["head.weight"].T + head["head.bias"], vectors

    def _side_by_side(self, made: list[np.ndarray]) -> np.ndarray:
        return np.concatenate([unit(one) for one in made], axis=1) / math.sqrt(len(made))

    def _means(self, network: str, rows: list[list[int]]) -> np.ndarray:
        states, mask = self._states(network, rows)
        return (states * mask[..., None]).sum(1) / mask.sum(1, keepdims=True)

    def _states(self, network: str, rows: list[list[int]]) -> tuple[np.ndarray, np.ndarray]:
        if network not in self._networks:
            self._networks[network] = open_network(self._folder / f"{network}.onnx")
        longest = max(map(len, rows))
        ids = np.array([row + [0] * (longest - len(row)) for row in rows], np.int64)
        mask = np.array([[1.0] * len(row) + [0.0] * (longest - len(row)) for row in rows], np.float32)
        return self._networks[network].run(None, {"ids": ids, "mask": mask})[0], mask


def unit(vectors: np.ndarray) -> np.ndarray:
    """Rows of length 1, shape as given."""
    return vectors / np.maximum(np.linalg.norm(vectors, axis=1, keepdims=True), 1e-9)


@cache
def _head(part: int) -> dict[str, np.ndarray]:
    with np.load(TAUGHT[part]) as taught:
        return {name: taught[name] for name in ("head.weight", "head.bias", "ask.weight", "ask.bias")}


def _blocks(lengths: Sequence[int], cut: float) -> Iterator[tuple[int, int]]:
    """Turns read together, from and up to; the first block has that share of the room."""
    first, room = 0, cut * _BLOCK
    while first < len(lengths):
        total, last = 1, first
        while last < len(lengths) and (total + lengths[last] <= room or last == first):
            total += lengths[last]
            last += 1
        yield first, last
        first, room = last, _BLOCK

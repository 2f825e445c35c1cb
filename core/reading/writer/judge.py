"""Whether what a sentence says follows from its passage, as far as a small network can tell.

Looking things up (held.py) finds a name, a number or a day that nobody said. It does not find that another one does it, that it was not to be
done, or that it is the proposal that was turned down. The network is the encoder MiniLM with low-rank updates, taught by
bench/teach_judge.py on sentences that people wrote of passages, and on the same ones spoilt, which of whose words are wrong is known;
docs/reading.md says how well it tells them apart.
"""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from tokenizers import Tokenizer

from core.reading.headed import END, START, Headed
from core.reading.network import JUDGE
from core.reading.passage import STAND_INS, Passage, under_other_names

LEAST = 0.36
"""The probability from which a sentence is taken to follow; bench/judging.py says what it lets pass."""
_SENTENCE, _TURN, _ALL = 72, 96, 380  # tokens


def laid_out(text: str, cut: Passage, stand_ins: Sequence[str] = STAND_INS) -> tuple[str, list[str]]:
    """A sentence, and the turns of its passage, evidence marked by a star; people under other names, in the order in which they speak."""
    put = under_other_names(cut, stand_ins)
    return put(text), [f"{'* ' if piece.evidence else ''}{put(piece.speaker)}: {put(piece.text)}" for piece in cut.pieces]


def tokens_of(text: str, turns: Sequence[str], tokenizer: Tokenizer) -> tuple[list[int], list[tuple[int, int]]]:
    """What the network reads, and where in it each word of the sentence is, from and up to."""
    words, *rest = ([encoded.ids for encoded in tokenizer.encode_batch(parts, add_special_tokens=False)] for parts in (text.split(), turns))
    tokens, spans = [START], []
    for ids in words:
        if ids and len(tokens) + len(ids) <= _SENTENCE:
            spans.append((len(tokens), len(tokens) + len(ids)))
            tokens += ids
    return [*tokens, END, *(token for ids in rest[0] for token in (*ids[:_TURN], END))][:_ALL], spans


class Judge:
    """The network, ready to be asked."""

    def __init__(self, folder: Path):
        """folder: what core.reading.network made."""
        self._network = Headed(folder, JUDGE)

    def likely(self, text: str, cut: Passage) -> float:
        """The probability, 0 to 1, that a sentence follows from its passage: that of the word that is likeliest not to."""
        tokens, spans = tokens_of(*laid_out(text, cut), self._network.tokenizer)
        states = self._network.states(tokens)
        return 1 - max((self._network.chance(states[first:end].mean(0)) for first, end in spans), default=0.0)

    def __call__(self, text: str, cut: Passage) -> bool:
        """May it be taken to follow?"""
        return self.likely(text, cut) >= LEAST

"""What else of its lines a finding says: extractive sentence compression.

The rules word one clause of the evidence ("Rohan to price them"), and the others have what it is about ("Twelve plus one accessible. Is there
anyone who'd price them, three firms?"). A network, the encoder MiniLM with low-rank updates, says of each clause how much of it a person would
have put into the sentence; those of which enough is wanted are told behind it, in the words in which they were said. Nothing is in it that
nobody said, and nothing is put together that was said apart but for the brackets and the commas between.

It was taught by bench/teach_compression.py on sentences that people wrote of passages.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from tokenizers import Tokenizer

from core.reading import wording
from core.reading.due import MONTHS, WEEKDAYS
from core.reading.headed import END, START, Headed
from core.reading.network import COMPRESSION
from core.reading.numbers import numbers_in
from core.reading.passage import STAND_INS, Passage, under_other_names
from core.reading.words import terms

_HEAD, _ALL = 60, 400  # tokens
_DAY = re.compile(rf"\b(?:{'|'.join((*WEEKDAYS, *MONTHS))}|today|tonight|tomorrow)\b")
_CLAUSES = re.compile(r"(?<=[.?!;:,–—])\s+|\s+(?=(?:and|but|so|because|then)\s)")


def clauses(text: str) -> list[str]:
    """What is said, cut where a clause may end; joined by spaces it is the text."""
    return [one for one in _CLAUSES.split(text) if one.strip()]


@dataclass(frozen=True, slots=True)
class Laid:
    """Tokens that the network reads, and where in them each clause of the evidence is, by its turn's place in the passage and its own in the turn."""

    tokens: list[int]
    spans: list[tuple[int, int, int, int]]


def lay_out(head: str, cut: Passage, tokenizer: Tokenizer, stand_ins: Sequence[str] = STAND_INS) -> Laid:
    """A finding's sentence so far, and its passage; what has no room is left out."""
    put = under_other_names(cut, stand_ins)
    tokens = [START, *_ids(f"{cut.kind}: {put(head)}", tokenizer)[:_HEAD], END]
    spans: list[tuple[int, int, int, int]] = []
    for place, piece in enumerate(cut.pieces):
        tokens += _ids(f"{'* ' if piece.evidence else ''}{put(piece.speaker)}:", tokenizer)
        for number, clause in enumerate(clauses(piece.text)):
            own = _ids(put(clause), tokenizer)
            if len(tokens) + len(own) >= _ALL:
                return Laid([*tokens, END], spans)
            if piece.evidence and own:
                spans.append((place, number, len(tokens), len(tokens) + len(own)))
            tokens += own
        tokens.append(END)
    return Laid(tokens, spans)


def _ids(text: str, tokenizer: Tokenizer) -> list[int]:
    return tokenizer.encode(text, add_special_tokens=False).ids


class Compressor:
    """The network, ready to be asked."""

    def __init__(self, folder: Path):
        """folder: what core.reading.network made."""
        self._network = Headed(folder, COMPRESSION)

    def wanted(self, head: str, cut: Passage) -> Iterator[tuple[int, int, float]]:
        """Of each clause of the evidence its turn's place in the passage, its place in the turn, and the share, 0 to 1, that is wanted."""
        laid = lay_out(head, cut, self._network.tokenizer)
        states = self._network.states(laid.tokens)
        for place, number, first, end in laid.spans:
            yield place, number, self._network.chance(states[first:end].mean(0))


Wanted = Callable[[str, Passage], Iterable[tuple[int, int, float]]]
LANGUAGE = "en"
"""Of what was said in another one nothing is known."""
FROM = 0.3
"""The share of a clause that has to be wanted."""
MOST = 20
"""Words that are told behind a sentence."""


def in_full(head: str, cut: Passage, wanted: Wanted) -> str:
    """A finding's sentence with what else of its evidence is wanted, in brackets.

    head: as the rules word it. Whoever speaks of themselves or to somebody is told in the third person, or left out.
    """
    have, room, chosen = _says(head), MOST, {}
    for place, number, share in sorted(wanted(head, cut), key=lambda one: -one[2]):
        piece = cut.pieces[place]
        told = wording.aside(clauses(piece.text)[number], piece.speaker, cut)
        size = len(told.split())
        if share < FROM or not told or size > room or not _says(told) - have or _settles_otherwise(told, head, cut):
            continue
        have |= _says(told)
        room -= size
        chosen[place, number] = told
    if not chosen:
        return head
    more = ", ".join(chosen[key] for key in sorted(chosen))
    return f"{head.rstrip('?')} ({more}){'?' if head.endswith('?') else ''}"


def _settles_otherwise(told: str, head: str, cut: Passage) -> bool:
    """Does a clause name another day, or in a decision another figure, than the sentence does? One that was put and not taken stands among the
    lines as well, and beside the one that holds it would say that both do."""
    days = [set(_DAY.findall(text.lower())) for text in (told, head)]
    figures = [numbers_in(text) for text in (told, head)] if cut.kind == "decision" else [set(), set()]
    return any(bool(said - stated) and bool(stated) for said, stated in (days, figures))


def _says(text: str) -> set[str | float]:
    return {*terms(text), *numbers_in(text)}


def share_of(clause: str, text: str) -> tuple[float, int]:
    """Of what a clause says, by its letters, the share that a text says too, and how many letters that is of."""
    own, there = terms(clause), set(terms(text))
    size = sum(map(len, own))
    return (sum(len(term) for term in own if term in there) / size if size else 0.0), size

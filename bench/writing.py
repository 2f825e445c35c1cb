"""How sentences read beside those that a person wrote of the same lines: by the rules, and by the writer where it is there.

chrF (Popović 2015; character n-grams of 1 to 6, recall twice as heavy as precision) against the labelled sentence; the share that is somebody's
own words in quotation marks; the share of which every name, number, day and negation is held by the lines. Each labelled meeting is written by
a writer that was taught without it.
"""

from __future__ import annotations

import sys
import time
from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path

import numpy as np
from nltk.translate.chrf_score import sentence_chrf

from bench.examples import GROUPS, Example, examples, third_of
from bench.hearing import MODELS
from bench.meetings import PARTS
from bench.tables import table
from core.reading import READING, wording
from core.reading.base import Said
from core.reading.compression import Compressor
from core.reading.compression import in_full as told_in_full
from core.reading.headed import SET_ASIDE
from core.reading.writer import WRITER
from core.reading.writer.held import unheld
from core.reading.writer.judge import Judge
from core.reading.writer.rewording import TOGETHER, held_sentences, with_owner
from core.reading.writer.writer import Writer
from core.record.model import Line

Way = Callable[[Sequence[Example]], list[str]]


def by_plain_rules(wanted: Sequence[Example]) -> list[str]:
    """As the rules word it."""
    return [_ruled(example) for example in wanted]


def in_full(compressor: Compressor) -> Way:
    """As the product words it: by the rules, with what else of the lines is wanted."""
    return lambda wanted: [told_in_full(_ruled(one), one.passage, compressor.wanted) for one in wanted]


def _ruled(example: Example) -> str:
    passage = example.passage
    lines = [Said(piece.at, piece.at, 0, piece.speaker, Line(piece.text, 0.0, 0.0)) for piece in passage.pieces if piece.evidence]
    if passage.kind == "action":
        return wording.action(lines, passage.owner, passage.present)
    return wording.decision(lines) if passage.kind == "decision" else wording.question(lines, passage.present)


def by_writer(writer: Writer) -> Way:
    """As a writer words it, held or not."""
    return lambda wanted: [text for batch in _batches(wanted) for text in writer.write([one.passage for one in batch])]


def as_stated(writer: Writer) -> Way:
    """As it is stated: what a writer words where the lines hold it, else as the rules word it, in full."""
    judge, otherwise = Judge(MODELS / READING), in_full(Compressor(MODELS / READING))

    def stated(wanted: Sequence[Example]) -> list[str]:
        found = [text for batch in _batches(wanted) for text in held_sentences([one.passage for one in batch], writer, judge)]
        return [
            (with_owner(text, one.passage.owner) if one.passage.kind == "action" else text) if text else ruled
            for text, one, ruled in zip(found, wanted, otherwise(wanted), strict=True)
        ]

    return stated


def _batches(wanted: Sequence[Example]) -> Iterator[Sequence[Example]]:
    for first in range(0, len(wanted), TOGETHER):
        yield wanted[first : first + TOGETHER]


def chrf(text: str, reference: str) -> float:
    """0 to 1."""
    return float(sentence_chrf(reference, text, beta=2.0)) if text else 0.0


def compare(ways: dict[str, Way], of: Sequence[Example]) -> str:
    """A table: a row a kind and a hand of origin, and for each way chrF, quoted, held."""
    wanted = [one for one in of if one.passage.kind in GROUPS]
    found = {}
    for name, way in ways.items():
        rows = defaultdict(list)
        for example, text in zip(wanted, way(wanted), strict=True):
            measured = (chrf(text, example.text), "“" in text, not unheld(text, example.passage))
            for group in (example.hand[0], "all"):
                rows[example.passage.kind, group].append(measured)
        found[name] = {key: np.mean(values, axis=0) for key, values in rows.items()}
    keys = sorted(next(iter(found.values())), key=lambda key: (list(GROUPS).index(key[0]), key[1]))
    heads = ["sentences", *(f"{name}: {what}" for name in ways for what in ("chrF", "quoted", "held"))]
    return table(heads, [[f"{kind}, {group}", *(float(value) for name in ways for value in found[name][kind, group])] for kind, group in keys])


def run() -> None:
    """Print the table of the rules alone for all that is labelled; of what they say in full for the third that what chooses clauses was not taught
    by; and where there is a writer, that for the part of the labelled meetings that it was not taught by, and what it costs."""
    everything = examples()
    print(compare({"rules": by_plain_rules}, everything))
    unseen = [one for one in everything if third_of(one) == SET_ASIDE]
    print()
    print(compare({"rules": by_plain_rules, "in full": in_full(Compressor(MODELS / READING))}, unseen))
    if not (MODELS / WRITER / "model.bin").exists():
        return
    unseen, writer = [one for one in everything if one.part == PARTS - 1], Writer(MODELS / WRITER)
    print()
    began = time.perf_counter()
    print(compare({"rules": by_plain_rules, "writer": by_writer(writer), "stated": as_stated(writer)}, unseen))
    count = sum(one.passage.kind in GROUPS for one in unseen)
    print(f"\n{(time.perf_counter() - began) / 2 / count:.2f} s a sentence")


def main(folders: Sequence[str]) -> None:
    """`python -m bench.writing PART=FOLDER …`: for each part of the labelled meetings a writer that has not seen it."""
    everything = examples()
    for part, _, folder in (one.partition("=") for one in folders):
        unseen, writer = [one for one in everything if one.part == int(part)], Writer(Path(folder))
        print(f"\npart {part}\n")
        print(compare({"rules": by_plain_rules, "writer": by_writer(writer), "stated": as_stated(writer)}, unseen))


if __name__ == "__main__":
    main(sys.argv[1:]) if sys.argv[1:] else run()

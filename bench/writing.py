"""How sentences read beside those that a person wrote of the same lines: by the rules, and by the writer where it is there.

chrF (Popović 2015; character n-grams of 1 to 6, recall twice as heavy as precision) against the labelled sentence; the share that is somebody's
own words in quotation marks; the share of which every name, number, day and negation is held by the lines. Each labelled meeting is written by
a writer that was taught without it.
"""

from __future__ import annotations

import sys
from collections import defaultdict
from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np
from nltk.translate.chrf_score import sentence_chrf

from bench.examples import GROUPS, Example, examples
from bench.tables import table
from core.reading import wording
from core.reading.base import Said
from core.reading.writer.held import unheld
from core.reading.writer.writer import Writer
from core.record.model import Line

Way = Callable[[Sequence[Example]], list[str]]


def by_rules(wanted: Sequence[Example]) -> list[str]:
    """As the rules word it."""
    return [_ruled(example) for example in wanted]


def _ruled(example: Example) -> str:
    passage = example.passage
    lines = [Said(piece.at, piece.at, 0, piece.speaker, Line(piece.text, 0.0, 0.0)) for piece in passage.pieces if piece.evidence]
    if passage.kind == "action":
        return wording.action(lines, passage.owner, passage.present)
    return wording.decision(lines) if passage.kind == "decision" else wording.question(lines)


def by_writer(folder: Path) -> Way:
    """As the writer in a folder that bench.writer_network has made words it."""
    writer = Writer(folder)
    return lambda wanted: writer.write([example.passage for example in wanted])


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


def main(folders: Sequence[str]) -> None:
    """`python -m bench.writing [PART=FOLDER …]`: the rules, and for each part of the labelled meetings a writer that has not seen it."""
    everything = examples()
    print(compare({"rules": by_rules}, everything))
    for part, _, folder in (one.partition("=") for one in folders):
        unseen = [one for one in everything if one.part == int(part)]
        print(f"\npart {part}\n")
        print(compare({"rules": by_rules, "writer": by_writer(Path(folder))}, unseen))


if __name__ == "__main__":
    main(sys.argv[1:])

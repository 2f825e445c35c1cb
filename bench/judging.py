"""How well what is not so is told from what is: sentences that people wrote of the labelled meetings, and the same ones spoilt.

`python -m bench.judging FOLDER` prints, for each way to spoil a sentence, how many are told by looking things up (core/reading/writer/held.py),
and by how likely the writer in the folder finds them, with the evidence and without, weighed by a logistic regression that is fitted on one half
of the meetings that the writer was not taught by, and measured on the other.
"""

from __future__ import annotations

import random
import re
import sys
from collections import defaultdict
from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np
from sklearn.linear_model import LogisticRegression

from bench.examples import GROUPS, Example, examples
from bench.meetings import PARTS
from bench.tables import table
from core.reading.base import first_name
from core.reading.due import WEEKDAYS
from core.reading.writer.held import unheld
from core.reading.writer.numbers import stated_in
from core.reading.writer.rewording import TOGETHER
from core.reading.writer.writer import Writer

KEPT = 0.95
"""The share of sentences that people wrote, of those it is fitted on, which the judge lets pass."""
_NUMBERS = "two three four five six seven eight nine ten eleven twelve fifteen twenty thirty forty fifty sixty hundred thousand".split()
_FIGURE = re.compile(rf"\d+|\b(?:{'|'.join(_NUMBERS)})\b")
_STATES = re.compile(r"\b(is|are|was|were|will|has|have|can|must|may)\b(?! not)")
_DOES = re.compile(r"^(\w+) (\w{2,})s\b(?! not)")


def spoilt(example: Example, near: Sequence[Example], draw: random.Random) -> Iterator[tuple[str, str]]:
    """(how, the sentence spoilt that way), for each way that there is. near: other sentences of the same meeting and kind."""
    text, passage = example.text, example.passage
    named = [name for name in map(first_name, passage.present) if re.search(rf"\b{name}\b", text)]
    others = [name for name in map(first_name, passage.present) if name not in text]
    if named and others:
        yield "another of those present", re.sub(rf"\b{named[0]}\b", draw.choice(others), text)
    if found := _FIGURE.search(text):
        other = str(int(found[0]) + draw.randint(2, 9)) if found[0].isdigit() else draw.choice([one for one in _NUMBERS if one != found[0]])
        if stated_in(changed := text[: found.start()] + other + text[found.end() :]) != stated_in(text):
            yield "another number", changed
    if day := next((day for day in WEEKDAYS if day.capitalize() in text), None):
        yield "another weekday", text.replace(day.capitalize(), draw.choice([one for one in WEEKDAYS if one != day]).capitalize())
    if _STATES.search(text):
        yield "denied", _STATES.sub(r"\1 not", text, count=1)
    elif found := _DOES.search(text):
        yield "denied", f"{found[1]} does not {found[2]}{text[found.end() :]}"
    if near:
        yield "of another passage", draw.choice(near).text


def features(likelihoods: tuple[Sequence[float], Sequence[float]]) -> np.ndarray:
    """Logarithms of the likelihood of each token of a sentence, with the evidence and without → mean, least, mean of the three least, what the
    evidence adds in the mean, and at the token where it adds least."""
    there, without = (np.asarray(one, float) for one in likelihoods)
    gain = there - without
    return np.array([there.mean(), there.min(), np.sort(there)[:3].mean(), gain.mean(), gain.min()])


def _likely(writer: Writer, of: Sequence[tuple[Example, str, str]]) -> np.ndarray:
    found: list[np.ndarray] = []
    for first in range(0, len(of), TOGETHER):
        batch = of[first : first + TOGETHER]
        found += map(features, writer.likelihoods([example.passage for example, _, _ in batch], [text for _, _, text in batch]))
        print(f"{len(found)}/{len(of)}", file=sys.stderr, end="\r")
    return np.array(found)


def main(folder: Path) -> None:
    """Print the table."""
    draw, writer = random.Random(0), Writer(folder)
    unseen = [one for one in examples() if one.part == PARTS - 1 and one.passage.kind in GROUPS]
    rows: list[tuple[Example, str, str]] = []
    for example in unseen:
        near = [
            one
            for one in unseen
            if one.passage.kind == example.passage.kind and one.passage.present == example.passage.present and one.text != example.text
        ]
        rows += [(example, "as written", example.text), *((example, how, text) for how, text in spoilt(example, near, draw))]
    fitted = set(list(dict.fromkeys(one.passage.present for one in unseen))[::2])
    halves = [[row for row in rows if (row[0].passage.present in fitted) == side] for side in (True, False)]
    likely = [_likely(writer, half) for half in halves]
    true = np.array([how == "as written" for _, how, _ in halves[0]])
    model = LogisticRegression(class_weight="balanced").fit(likely[0], true)
    least = np.quantile(model.decision_function(likely[0])[true], 1 - KEPT)
    found = defaultdict(list)
    for (example, how, text), value in zip(halves[1], model.decision_function(likely[1]), strict=True):
        found[how].append((bool(unheld(text, example.passage)), bool(value < least)))
    heads = ["sentences", "count", "told by looking up", "told by likelihood", "by either"]
    print(table(heads, [[how, len(told), *map(float, np.mean(told, axis=0)), float(np.mean([any(one) for one in told]))] for how, told in found.items()]))


if __name__ == "__main__":
    main(Path(sys.argv[1]))

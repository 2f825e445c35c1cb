"""How well what is not so is told from what is: sentences that people wrote, and the same ones spoilt (bench/spoiling.py).

`python -m bench.judging` prints, for each way to spoil a sentence, how many are told by looking things up (core/reading/writer/held.py) and by
the judge of meaning (judge.py), for the third that the judge was not taught by. What it lets pass was chosen on one half of the meetings and
hands of that third; the table is of the other.
"""

from __future__ import annotations

import random
from collections import defaultdict

import numpy as np
from sklearn.metrics import roc_auc_score

from bench.examples import Example, examples, third_of
from bench.hearing import MODELS
from bench.spoiling import JUDGED, beside, source_of, spoilt, stated
from bench.tables import table
from core.reading import READING
from core.reading.headed import SET_ASIDE
from core.reading.writer.held import unheld
from core.reading.writer.judge import LEAST, Judge

KEPT = 0.9
"""The share of sentences that people wrote which it is to let pass: what it does not is tried again, and then worded by the rules, which costs less than
what nobody said."""
_TRUE = "as written"
Judged = tuple[Example, str, str, float]


def judged() -> tuple[list[Judged], list[Judged]]:
    """Of the third set aside, in two halves: the passage, how its sentence was spoilt, the sentence, and how likely it follows."""
    judge, draw = Judge(MODELS / READING), random.Random(0)
    wanted = [one for one in examples() if third_of(one) == SET_ASIDE and one.passage.kind in JUDGED]
    near = beside(wanted)
    first = set(list(dict.fromkeys(map(source_of, wanted)))[::2])
    halves: tuple[list[Judged], list[Judged]] = ([], [])
    for place, one in enumerate(wanted):
        half = halves[source_of(one) not in first]
        half += [(one, how, text, judge.likely(text, one.passage)) for how, text in [(_TRUE, stated(one)), *spoilt(one, near[place], draw)]]
    return halves


def run() -> None:
    """Print the table, and the bound that would keep as many of the half it is chosen on."""
    chosen_on, measured = judged()
    bound = float(np.quantile([likely for _, how, _, likely in chosen_on if how == _TRUE], 1 - KEPT))
    print(f"{KEPT:.0%} of what people wrote pass at {bound:.3f}; in use: {LEAST}")
    found = defaultdict(list)
    for one, how, text, likely in measured:
        found[how].append((bool(unheld(text, one.passage)), likely < LEAST, likely))
    true = [likely for _, _, likely in found[_TRUE]]
    rows = []
    for how, told in found.items():
        looked_up, by_judge = (np.array([one[place] for one in told]) for place in (0, 1))
        likely = [one[2] for one in told]
        apart = "-" if how == _TRUE else float(roc_auc_score([1] * len(true) + [0] * len(likely), true + likely))
        rows.append([how, len(told), float(looked_up.mean()), float(by_judge.mean()), float((looked_up | by_judge).mean()), apart])
    print(table(["sentences", "count", "told by looking up", "told by the judge", "by either", "area under the curve"], rows))
    ways = [how for how in found if how != _TRUE]
    for name, place in (("judge", 1), ("either", None)):
        told = {how: [one[1] if place else one[0] or one[1] for one in found[how]] for how in found}
        right, wrong = float(np.mean([np.mean(told[how]) for how in ways])), float(np.mean(told[_TRUE]))
        print(f"{name}: recall {right:.3f} over the ways alike, precision {right / (right + wrong):.3f} where half of what is written is spoilt")


if __name__ == "__main__":
    run()

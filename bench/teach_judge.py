"""Teach the judge of meaning: `python -m bench.teach_judge FOLDER` writes judge.npz for core/reading/taught.

Needs PyTorch, as bench.teach does; about an hour on two cores. It sees the sentences that people wrote of the labelled meetings, the series and
the passages, but for a third of them, by which bench.judging measures it; and in every epoch each of them once as it is and once spoilt,
drawn anew: of each word, whether it is one that was put in. The state is kept after each epoch: begun again, it goes on from there.
"""

from __future__ import annotations

import random
import sys
from collections.abc import Iterator, Sequence
from difflib import SequenceMatcher
from pathlib import Path

import torch
from tokenizers import Tokenizer
from torch import Tensor
from torch.nn import functional

from bench.examples import Example, examples, third_of
from bench.spoiling import JUDGED, beside, spoilt, stated
from bench.teach import padded
from bench.teach_headed import Headed
from bench.teaching import batched, published
from core.reading.headed import SET_ASIDE
from core.reading.passage import STAND_INS
from core.reading.writer.judge import laid_out, tokens_of

EPOCHS, TOGETHER = 3, 16
_OFTEN = {"another number": 0.4, "another weekday": 0.4, "of another passage": 0.6}
"""How often a way to spoil is drawn beside the others: these are told by looking up already."""
WRONG = 4.0
"""How much more a word weighs that is wrong; few are."""
Row = tuple[list[int], list[tuple[int, int]], list[float]]


def _drawn(wanted: Sequence[Example], near: dict[int, list[Example]], tokenizer: Tokenizer, draw: random.Random) -> Iterator[Row]:
    """Each as it is and spoilt, people under names drawn anew."""
    for place, one in enumerate(wanted):
        names = draw.sample(STAND_INS, len(STAND_INS))
        true, turns = laid_out(stated(one), one.passage, names)
        yield _row(true, true, turns, tokenizer)
        ways = list(spoilt(one, near[place], draw))
        if ways:
            _, text = draw.choices(ways, [_OFTEN.get(how, 1.0) for how, _ in ways])[0]
            yield _row(laid_out(text, one.passage, names)[0], true, turns, tokenizer)


def _row(text: str, true: str, turns: Sequence[str], tokenizer: Tokenizer) -> Row:
    """Which words of a text are not those of the true one: those put in, and the one behind what was left out."""
    tokens, spans = tokens_of(text, turns, tokenizer)
    wrong = [0.0] * len(text.split())
    for how, _, _, first, end in SequenceMatcher(None, true.split(), text.split(), autojunk=False).get_opcodes():
        for place in range(first, end if how in ("insert", "replace") else first + (how == "delete")):
            wrong[min(place, len(wrong) - 1)] = 1.0
    return tokens, spans, wrong[: len(spans)]


def main(folder: Path) -> None:
    """Teach it."""
    weights, tokenizer = published()
    wanted = [one for one in examples() if third_of(one) != SET_ASIDE and one.passage.kind in JUDGED]
    near = beside(wanted)

    def batches(epoch: int) -> list[list[Row]]:
        draw = random.Random(epoch)
        return batched(_drawn(wanted, near, tokenizer, draw), lambda row: len(row[0]), TOGETHER, draw)

    def loss_of(batch: Sequence[Row]) -> Tensor:
        ids, mask = padded([tokens for tokens, _, _ in batch])
        states = judging.encoder.states(ids, mask)
        means = [states[row, first:end].mean(0) for row, (_, spans, _) in enumerate(batch) for first, end in spans]
        wrong = torch.tensor([one for _, _, marks in batch for one in marks])
        return functional.binary_cross_entropy_with_logits(judging.logits(torch.stack(means)), wrong, pos_weight=torch.tensor(WRONG))

    judging = Headed(weights)
    judging.learn(batches, EPOCHS, loss_of, folder / "judge.npz")


if __name__ == "__main__":
    main(Path(sys.argv[1]))

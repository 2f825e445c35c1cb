"""Teach what of the evidence belongs into a sentence: `python -m bench.teach_compression FOLDER` writes compression.npz for core/reading/taught.

Needs PyTorch, as bench.teach does; about half an hour on two cores. It sees the sentences that people wrote of the labelled meetings, the series
and the passages, but for a third of them, by which bench.writing measures it: of each clause of the evidence, how much of what it says is in the
sentence. The state is kept after each epoch: begun again, it goes on from there.
"""

from __future__ import annotations

import random
import sys
from collections.abc import Sequence
from pathlib import Path

import torch
from torch import Tensor
from torch.nn import functional

from bench.examples import GROUPS, examples, third_of
from bench.teach import padded
from bench.teach_headed import Headed
from bench.teaching import batched, published
from bench.writing import by_plain_rules
from core.reading.compression import Laid, clauses, lay_out, share_of
from core.reading.headed import SET_ASIDE
from core.reading.passage import STAND_INS

EPOCHS, TOGETHER, MOST = 4, 12, 40
"""Epochs, passages a step, and letters from which a clause weighs no more."""
Row = tuple[Laid, list[tuple[float, int]]]


def loss_of(network: Headed, batch: Sequence[Row]) -> Tensor:
    """Cross-entropy by clause, longer ones weighing more."""
    ids, mask = padded([laid.tokens for laid, _ in batch])
    states = network.encoder.states(ids, mask)
    logits = network.logits(torch.stack([states[row, first:end].mean(0) for row, (laid, _) in enumerate(batch) for _, _, first, end in laid.spans]))
    wanted = torch.tensor([share for _, shares in batch for share, _ in shares])
    weight = torch.tensor([1.0 + min(MOST, size) for _, shares in batch for _, size in shares])
    return functional.binary_cross_entropy_with_logits(logits, wanted, weight, reduction="sum") / weight.sum()


def main(folder: Path) -> None:
    """Teach it."""
    weights, tokenizer = published()
    wanted = [one for one in examples() if third_of(one) != SET_ASIDE and one.passage.kind in GROUPS]
    heads = by_plain_rules(wanted)

    def batches(epoch: int) -> list[list[Row]]:
        draw, rows = random.Random(epoch), []
        for one, head in zip(wanted, heads, strict=True):
            laid = lay_out(head, one.passage, tokenizer, draw.sample(STAND_INS, len(STAND_INS)))
            shares = [share_of(clauses(one.passage.pieces[place].text)[number], one.text) for place, number, _, _ in laid.spans]
            if shares:
                rows.append((laid, shares))
        return batched(rows, lambda row: len(row[0].tokens), TOGETHER, draw)

    network = Headed(weights)
    network.learn(batches, EPOCHS, lambda batch: loss_of(network, batch), folder / "compression.npz")


if __name__ == "__main__":
    main(Path(sys.argv[1]))

"""What the scripts have in common that teach the sentence encoder something: the published weights, and how updates are learnt."""

from __future__ import annotations

import os
import random
import sys
import zipfile
from collections.abc import Callable, Iterable, Sequence
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
import torch
from safetensors.numpy import load
from tokenizers import Tokenizer
from torch import Tensor, nn

from core.reading.encoder import READING
from core.reading.headed import load_tokenizer

Row = TypeVar("Row")

RATE, HEAD_RATE, DECAY = 1e-3, 2e-3, 0.01
WARM, LOWEST = 20, 0.02
"""Steps until the rate is whole, and the share of it that is left at the end."""
_SPREAD = 20
"""Tokens by which rows that come together may differ for being drawn anew."""


def published() -> tuple[dict[str, np.ndarray], Tokenizer]:
    """The encoder's weights and its tokenizer, as they were fetched."""
    models = Path(os.environ["AFTERSHOWER_MODELS"]) / READING
    with zipfile.ZipFile(models / "model.zip") as archive:
        weights = load(archive.read("model.safetensors"))
    return weights, load_tokenizer(models)


def batched(rows: Iterable[Row], length: Callable[[Row], int], together: int, draw: random.Random) -> list[list[Row]]:
    """Rows of about one length together, in any order."""
    kept = sorted(rows, key=lambda row: length(row) + _SPREAD * draw.random())
    cut = [kept[at : at + together] for at in range(0, len(kept), together)]
    draw.shuffle(cut)
    return cut


def learn(
    network: nn.Module,
    heads: Iterable[nn.Parameter],
    updates: Iterable[nn.Parameter],
    batches: Callable[[int], list[Any]],
    epochs: int,
    loss_of: Callable[[Any], Tensor],
    state: Path | None = None,
) -> None:
    """Teach a network's heads and updates by AdamW, and say after each epoch how large the loss was.

    batches: what an epoch is made of, by its number. state: where all is kept after each epoch; what is kept there already is gone on with.
    """
    torch.set_flush_denormal(True)
    heads, updates = list(heads), list(updates)
    optimiser = torch.optim.AdamW([{"params": heads, "lr": HEAD_RATE}, {"params": updates, "lr": RATE}], weight_decay=DECAY)
    steps = sum(len(batches(epoch)) for epoch in range(epochs))
    slope = torch.optim.lr_scheduler.LambdaLR(optimiser, lambda step: min(1.0, (step + 1) / WARM) * max(LOWEST, 1 - step / steps))
    parts: Sequence[Any] = (network, optimiser, slope)
    done = 0
    if state and state.exists():
        done, *kept = torch.load(state)
        for part, values in zip(parts, kept, strict=True):
            part.load_state_dict(values)
    for epoch in range(done, epochs):
        network.train()
        losses = []
        for batch in batches(epoch):
            loss = loss_of(batch)
            optimiser.zero_grad()
            loss.backward()
            nn.utils.clip_grad_norm_([*heads, *updates], 1.0)
            optimiser.step()
            slope.step()
            losses.append(loss.item())
        print(f"epoch {epoch + 1} of {epochs}: loss {np.mean(losses):.3f}", file=sys.stderr, flush=True)
        if state:
            torch.save((epoch + 1, *(part.state_dict() for part in parts)), state)

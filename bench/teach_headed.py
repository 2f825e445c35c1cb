"""The encoder with a head of one output, as core.reading.headed runs it, to be taught."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import torch
from torch import Tensor, nn

from bench.teach import Dense, Network, updates_of
from bench.teaching import learn
from core.reading.encoder import WIDTH

DROP = 0.1


class Headed(nn.Module):
    """`encoder` with its updates, and `head`, behind a dropout."""

    def __init__(self, weights: dict[str, np.ndarray]):
        super().__init__()
        torch.manual_seed(0)
        self.encoder = Network(weights)
        self.head = nn.Sequential(nn.Dropout(DROP), nn.Linear(WIDTH, 1))

    def logits(self, states: Tensor) -> Tensor:
        """(n, 384) → (n,)."""
        return self.head(states).squeeze(-1)

    def learn(self, batches: Callable[[int], list[Any]], epochs: int, loss_of: Callable[[Any], Tensor], path: Path) -> None:
        """Teach it and write what it learnt; the state is kept beside it after each epoch, and gone on from."""
        path.parent.mkdir(parents=True, exist_ok=True)
        updates = [value for one in self.modules() if isinstance(one, Dense) for value in (one.A, one.B)]
        learn(self, self.head.parameters(), updates, batches, epochs, loss_of, path.with_suffix(".pt"))
        head = {f"head.{part}": getattr(self.head[1], part).detach().numpy().astype(np.float32) for part in ("weight", "bias")}
        np.savez_compressed(path, **updates_of(self.encoder), **head)

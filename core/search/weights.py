"""What makes a turn an answer, and how much: fitted on labelled questions."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cache
from pathlib import Path


@dataclass(frozen=True, slots=True)
class Weights:
    """By the names of what is measured: how much it speaks for a turn, and for there being an answer at all."""

    turns: dict[str, float]
    says: dict[str, float]


@cache
def fitted(path: Path) -> Weights:
    """As they were kept."""
    return Weights(**json.loads(path.read_text(encoding="utf-8")))

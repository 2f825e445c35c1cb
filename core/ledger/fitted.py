"""What was fitted on labelled series (bench.teach_ledger)."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cache
from pathlib import Path

FITTED = Path(__file__).parent / "fitted.json"


@dataclass(frozen=True, slots=True)
class Fitted:
    """Weights by the names of what they weigh: `turns` and `never` of `core.ledger.returns.measure`, `became` of `core.ledger.became.signs`."""

    turns: dict[str, float]
    never: dict[str, float]
    became: dict[str, list[float]]


@cache
def shipped() -> Fitted:
    """Fitted on all of them."""
    return Fitted(**json.loads(FITTED.read_text(encoding="utf-8")))

"""The ledger: decisions and actions followed through several meetings."""

from core.ledger.book import come_back, follow
from core.ledger.matter import Matter, Step, StepKind

__all__ = ["Matter", "Step", "StepKind", "come_back", "follow"]

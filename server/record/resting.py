"""What rests on lines of a record, by way of a field `lines`: it rests on those said at the same times when a record is made anew.

Apps behind this one register what they keep.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any

from server.meetings.models import Meeting


@dataclass(frozen=True)
class Resting:
    """A row with a field `lines`. jotted: the second at which it was written while people still spoke, where it was."""

    row: Any
    jotted: float | None = None


RESTING: list[Callable[[Meeting], Iterable[Resting]]] = []


def all_resting(meeting: Meeting) -> list[Resting]:
    """Everything that rests on a meeting's lines."""
    return [one for found in RESTING for one in found(meeting)]

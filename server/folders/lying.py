"""What lies in a folder, wherever that is."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Protocol

MOST_FILES = 2000


@dataclass(frozen=True, slots=True)
class Lying:
    """A file that lies there."""

    href: str
    name: str
    size: int
    mark: str
    modified: datetime | None


class Place(Protocol):
    """A folder that can be looked into."""

    def files(self) -> list[Lying]:
        """The files of it, not of those in it. Raises InputProblem."""

    def fetch(self, one: Lying, target: Path) -> None:
        """The whole of a file, to a path. Raises InputProblem where it does not come as it was told."""

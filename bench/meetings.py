"""The labelled meetings, and the parts they are in."""

from __future__ import annotations

from pathlib import Path

LABELLED = Path(__file__).resolve().parent / "labelled"
PARTS = 3


def part_of_series(number: int) -> int:
    """Which part a series is of, by its place among them, from 0."""
    return number % PARTS


def part_of(name: str) -> int:
    """Which third a labelled meeting is of, by its number: 1 to 10, 11 to 20, and 21 to 30, which was set aside while the reader was tuned."""
    return (int(name[1:]) - 1) // 10

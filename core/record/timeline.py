"""Spans of time and their small algebra; everything on a timeline is made of them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True, order=True)
class Span:
    """From start to end, in seconds from the start of the recording; end is not before start."""

    start: float
    end: float

    @property
    def duration(self) -> float:
        """Seconds; 0 for an empty span."""
        return max(0.0, self.end - self.start)

    def __and__(self, other: Span) -> Span:
        """The part both cover; empty (duration 0) where they do not meet."""
        start = max(self.start, other.start)
        return Span(start, max(start, min(self.end, other.end)))

    def __or__(self, other: Span) -> Span:
        """The smallest span that covers both."""
        return Span(min(self.start, other.start), max(self.end, other.end))

    def overlaps(self, other: Span) -> bool:
        """Do they share more than a point?"""
        return (self & other).duration > 0


def merge(spans: Iterable[Span], gap: float = 0.0) -> list[Span]:
    """The union of spans in order, joining those at most `gap` seconds apart."""
    joined: list[Span] = []
    for span in sorted(spans):
        if joined and span.start - joined[-1].end <= gap:
            joined[-1] = joined[-1] | span
        else:
            joined.append(span)
    return joined


def share_out(span: Span, texts: Sequence[str]) -> list[Span]:
    """A span of its own for each of some texts that are said one behind the other: as long as it has characters, to the millisecond."""
    total, spoken, shares = sum(map(len, texts)), 0, []
    for text in texts:
        start = span.start + (span.end - span.start) * spoken / total
        spoken += len(text)
        shares.append(Span(round(start, 3), round(span.start + (span.end - span.start) * spoken / total, 3)))
    return shares


def pack(spans: Iterable[Span], longest: float, more: float = 0.0) -> list[Span]:
    """Neighbouring spans joined into stretches of at most `longest` seconds; a longer span is cut.

    more: seconds by which the last stretch may be longer, where that spares a short one after it.
    """
    packed: list[Span] = []
    for span in spans:
        if packed and span.end - packed[-1].start <= longest:
            packed[-1] = packed[-1] | span
            continue
        start = span.start
        while span.end - start > longest:
            packed.append(Span(start, start + longest))
            start += longest
        packed.append(Span(start, span.end))
    if len(packed) > 1 and packed[-1].end - packed[-2].start <= longest + more:
        packed[-2:] = [packed[-2] | packed[-1]]
    return packed

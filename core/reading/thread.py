"""A thread of written messages, read as a meeting is: in short, decisions, actions, open questions, each with the messages it rests on."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime

from core.reading.base import Said
from core.reading.encoder import Encoder
from core.reading.reader import Reading, read
from core.record.assemble import turns_from_cues
from core.record.model import Record

_WORDS_A_SECOND, _SHORTEST, _BETWEEN = 2.5, 1.0, 0.5
"""As if it were spoken: a record has seconds, and its lines an order. When a message was really written is the message's own."""
KINDS = ("decision", "action", "question")


@dataclass(frozen=True)
class Message:
    """Who wrote what, when."""

    who: str
    text: str
    at: datetime


@dataclass(frozen=True)
class Drawn:
    """What is drawn from a thread, and the messages (by their place) that it rests on; never none. kind: of KINDS, or "in short"."""

    kind: str
    text: str
    messages: tuple[int, ...]
    owner: str | None = None
    due: date | None = None


def as_record(messages: Sequence[Message], key: str) -> tuple[Record, list[float]]:
    """A thread as a record, and the second at which each message begins in it."""
    starts, cues, at = [], [], 0.0
    for message in messages:
        starts.append(at)
        for text in message.text.split("\n"):
            if text.strip():
                end = at + max(_SHORTEST, len(text.split()) / _WORDS_A_SECOND)
                cues.append((message.who, at, end, " ".join(text.split())))
                at = end
        at += _BETWEEN
    began = messages[0].at.replace(tzinfo=None) if messages else None
    return Record(key, turns_from_cues(cues), at, started_at=began), starts


def read_thread(messages: Sequence[Message], encoder: Encoder, report: Callable[[float], None] = lambda done: None) -> list[Drawn]:
    """What a thread comes to: first what stands in short, then the rest in order. What is only proposed is not stated."""
    if not messages:
        return []
    record, starts = as_record(messages, "thread")
    reading = read(record, encoder, report=report)
    return [*_in_short(reading, starts), *_settled(reading, starts)]


def _in_short(reading: Reading, starts: Sequence[float]) -> Iterable[Drawn]:
    for sentence in reading.gist:
        yield Drawn("in short", sentence.text, _messages(sentence.said, starts))


def _settled(reading: Reading, starts: Sequence[float]) -> Iterable[Drawn]:
    for finding in reading.findings:
        if finding.kind in KINDS and finding.status == "standing":
            yield Drawn(finding.kind, finding.text, _messages(finding.said, starts), finding.owner, finding.due)


def _messages(said: Iterable[Said], starts: Sequence[float]) -> tuple[int, ...]:
    return tuple(sorted({bisect_right(starts, one.line.start + 1e-6) - 1 for one in said}))

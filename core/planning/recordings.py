"""Which planned meeting a recording is of: by when it was made, and by what its file is called."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import PurePath
from typing import Protocol
from zoneinfo import ZoneInfo

from rapidfuzz import fuzz, utils

from core.text import one_line

_MOMENTS = (
    # Forms in which programs write a moment into a name (common practice): the day, then the time; a Z is UTC.
    re.compile(r"(?P<y>20\d\d)-?(?P<m>[01]\d)-?(?P<d>[0-3]\d)[T _\-]+(?:at[ _])?(?P<h>[0-2]\d)[-:._h]?(?P<n>[0-5]\d)(?:[-:._]?(?P<s>[0-5]\d))?(?P<z>Z)?"),
    re.compile(r"(?P<d>[0-3]?\d)[.\-_](?P<m>[01]?\d)[.\-_](?P<y>20\d\d)[ _,T\-]+(?:um[ _])?(?P<h>[0-2]?\d)[-:._h](?P<n>[0-5]\d)(?:[-:._](?P<s>[0-5]\d))?(?P<z>Z)?"),
)
_LEFT_OUT = re.compile(r"\b(recording|meeting|call|audio|video|aufzeichnung|aufnahme|grabaci[oó]n|enregistrement|gmt\d*|utc|final|copy|\d{1,2})\b|\(\d+\)", re.IGNORECASE)
_EARLY, _LATE = timedelta(minutes=20), timedelta(minutes=45)
"""How long before a meeting's start a recording of it begins at the earliest, and how long after it at the latest."""
_ALIKE, _CLOSE = 80.0, 12.0
"""A name like a title (0 to 100, rapidfuzz's token set ratio), and how much better than any other it has to be."""


class _Planned(Protocol):
    @property
    def title(self) -> str: ...
    @property
    def start(self) -> datetime: ...
    @property
    def end(self) -> datetime: ...


@dataclass(frozen=True, slots=True)
class Match:
    """at: the place of the meeting among those given, None where none is it, or more than one may be. why: in words."""

    at: int | None
    why: str


def said_moment(name: str, zone: ZoneInfo) -> datetime | None:
    """The moment that a file's name says, on the clocks of a zone; None where it says none, or one that there is not."""
    for form in _MOMENTS:
        if found := form.search(PurePath(name).stem):
            parts = {key: int(found[key] or 0) for key in "ymdhns"}
            try:
                moment = datetime(parts["y"], parts["m"], parts["d"], parts["h"], parts["n"], parts["s"], tzinfo=UTC if found["z"] else zone)
            except ValueError:
                continue
            return moment.astimezone(UTC)
    return None


def title_in(name: str) -> str:
    """What a file's name says besides a moment and words that every recording has; "" where nothing is left."""
    text = PurePath(name).stem
    for form in _MOMENTS:
        text = form.sub(" ", text)
    text = re.sub(r"20\d\d-?[01]\d-?[0-3]\d", " ", text)
    text = _LEFT_OUT.sub(" ", re.sub(r"[_\-+.–]+", " ", text))
    return one_line(re.sub(r"\s[^\w\s]+(?=\s|$)", " ", text))


def match_recording(name: str, start: datetime | None, planned: Sequence[_Planned]) -> Match:
    """The meeting that a recording is of. start: when it began, where that is known; its name decides among several at that time, and may
    name one of that day."""
    if start is None:
        return Match(None, "when it was made is not known")
    title = title_in(name)
    alike = [fuzz.token_set_ratio(title, one.title, processor=utils.default_process) if title and one.title else 0.0 for one in planned]
    near = [at for at, one in enumerate(planned) if one.start - _EARLY <= start <= min(max(one.end, one.start), one.start + _LATE)]
    if len(near) == 1:
        return Match(near[0], "it began when this was planned")
    best = sorted(near or (at for at, one in enumerate(planned) if abs(one.start - start) < timedelta(hours=14)), key=lambda at: -alike[at])
    if best and alike[best[0]] >= _ALIKE and (len(best) == 1 or alike[best[0]] - alike[best[1]] >= _CLOSE):
        return Match(best[0], "it is called so")
    if near:
        return Match(None, f"{len(near)} meetings were planned for that time, and its name is like none of them")
    return Match(None, "nothing was planned for that time")

"""What a conference is to the clerk, whatever it speaks: somewhere to knock, and things that happen there."""

from __future__ import annotations

import asyncio
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from core.planning.attending import Cause


@dataclass(frozen=True, slots=True)
class Call:
    """Where to go, and as whom."""

    address: str
    passcode: str
    name: str


@dataclass(frozen=True, slots=True)
class Knocking:
    """Before the door; somebody inside has to open."""


@dataclass(frozen=True, slots=True)
class LetIn:
    """Inside, with what the conference calls the call."""

    title: str = ""


@dataclass(frozen=True, slots=True)
class Here:
    """Somebody is there, or is called something else now. key: the conference's own, for as long as they stay. program: no person."""

    key: str
    name: str
    program: bool = False


@dataclass(frozen=True, slots=True)
class Gone:
    """Somebody is not there any more."""

    key: str


EVERYBODY = ""
"""As the key of `Heard`: all of them in one sound, where a conference gives no others. Who speaks is then told by the voices, as in a room."""


@dataclass(frozen=True, slots=True)
class Heard:
    """Sound of somebody, or of everybody: int16, CAPTURE_RATE a second. stamp: seconds by the track's clock; arrived: seconds by time.monotonic()."""

    key: str
    stamp: float
    arrived: float
    samples: np.ndarray


@dataclass(frozen=True, slots=True)
class Shown:
    """A picture of the screen that somebody shows. arrived: seconds by time.monotonic()."""

    key: str
    image: bytes
    arrived: float


@dataclass(frozen=True, slots=True)
class Written:
    """Somebody has written into the chat. arrived: seconds by time.monotonic()."""

    key: str
    text: str
    arrived: float


@dataclass(frozen=True, slots=True)
class Laid:
    """Somebody has put a file into the chat; `Conference.fetch` has it. arrived: seconds by time.monotonic()."""

    key: str
    name: str
    address: str
    arrived: float


@dataclass(frozen=True, slots=True)
class Out:
    """It is over, and why: Cause.LOST where it may be tried again."""

    cause: Cause


Event = Knocking | LetIn | Here | Gone | Heard | Shown | Written | Laid | Out


class Conference(Protocol):
    """One call that the clerk is in, or knocks at. What happens is put into `events`, `Out` last."""

    events: asyncio.Queue[Event]

    async def enter(self) -> None:
        """Knock. Returns at once; all that comes of it is an event."""

    async def say(self, text: str) -> None:
        """Write into the chat."""

    async def fetch(self, address: str) -> bytes:
        """What lies at the address of a `Laid`. Raises InputProblem."""

    async def leave(self) -> None:
        """Go, and let go of everything. May be called at any time."""

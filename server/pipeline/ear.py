"""The models, loaded once a process, at the first work that needs them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import cache
from threading import Lock, Timer
from typing import Generic, TypeVar

from django.conf import settings

from core.hearing import Ear
from core.reading import READING, Encoder
from core.reading.writer import WRITER
from core.reading.writer.judge import Judge
from core.reading.writer.writer import Writer

Large = TypeVar("Large")


@cache
def ear(*, live: bool = False) -> Ear:
    """The models that hear: recordings, or while people speak."""
    return Ear(settings.MODELS, live=live)


@cache
def encoder() -> Encoder:
    """The models that read."""
    return Encoder(settings.MODELS / READING)


@cache
def judge() -> Judge:
    """What says whether a sentence that was written follows from its lines."""
    return Judge(settings.MODELS / READING)


class AtHand(Generic[Large]):
    """Something large: loaded when it is needed, and let go when nobody has needed it for a while."""

    def __init__(self, load: Callable[[], Large], patience: float):
        """patience: seconds."""
        self._load, self._patience = load, patience
        self._lock, self._users = Lock(), 0
        self._there: Large | None = None
        self._timer: Timer | None = None

    @property
    def loaded(self) -> bool:
        """Does it take memory just now?"""
        return self._there is not None

    @contextmanager
    def use(self) -> Iterator[Large]:
        """It, for as long as the block lasts."""
        with self._lock:
            self._users += 1
            if self._timer:
                self._timer.cancel()
            there = self._there = self._there or self._load()
        try:
            yield there
        finally:
            with self._lock:
                self._users -= 1
                self._timer = Timer(self._patience, self._let_go)
                self._timer.daemon = True
                self._timer.start()

    def _let_go(self) -> None:
        with self._lock:
            if not self._users:
                self._there = None


writer = AtHand(lambda: Writer(settings.MODELS / WRITER), patience=120.0)
"""The model that writes: more than half a gigabyte."""


def has_writer() -> bool:
    """Is it on this machine?"""
    return (settings.MODELS / WRITER / "model.bin").exists()

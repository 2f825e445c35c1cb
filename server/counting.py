"""How often something was done within a while: against guessing, and against asking without end."""

from __future__ import annotations

from django.core.cache import cache


def counted(what: str, seconds: int) -> int:
    """It is done once more; how often that makes it since it was first done, forgotten after so many seconds."""
    cache.add(what, 0, seconds)
    return cache.incr(what)

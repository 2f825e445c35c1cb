"""Work on several things at once, taken up in their order."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Executor, Future
from typing import TypeVar

Item = TypeVar("Item")
Result = TypeVar("Result")


def in_order(pool: Executor, work: Callable[[Item], Result], items: Iterable[Item], ahead: int) -> Iterator[tuple[Item, Result]]:
    """Each item with what came of it, in order, as with `map`; but never more than `ahead` of them begun and not yet given out."""
    waiting: deque[tuple[Item, Future[Result]]] = deque()
    for item in items:
        waiting.append((item, pool.submit(work, item)))
        if len(waiting) == ahead:
            begun, result = waiting.popleft()
            yield begun, result.result()
    for begun, result in waiting:
        yield begun, result.result()

"""What whoever makes or puts back a backup is told where it cannot be done: a line, and no trace of the program."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.core.management.base import CommandError

from server.backup.archive import Unusable
from server.problems import AWAY


@contextmanager
def told(what: str, folder: Path) -> Iterator[None]:
    """what: was to be done, as in "It was not made". Raises CommandError."""
    try:
        yield
    except Unusable as problem:
        raise CommandError(str(problem)) from problem
    except AWAY as problem:
        raise CommandError(f"The database went away, so it was not {what}. Begin again when it is back.") from problem
    except OSError as problem:
        raise CommandError(f"It was not {what}: {problem.strerror or problem} ({problem.filename or folder}). See to that, then begin again.") from problem

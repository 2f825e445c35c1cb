"""Files to take away that take long to make: asked for, made by a worker that says how far it is, taken when they are ready, kept for a day."""

from __future__ import annotations

from collections.abc import Callable
from datetime import timedelta
from pathlib import Path
from typing import ClassVar

from django.core.files.storage import default_storage
from django.db import models, transaction
from django.db.models import QuerySet
from django.utils import timezone

from core.problems import InputProblem
from server.acting import lock
from server.meetings.models import Meeting
from server.pipeline.files import delete_files, scratch, store
from server.pipeline.work import Report, now_and_then

KEPT_FOR = timedelta(days=1)
_REPORT_EVERY = 1.0  # seconds


def copy_path(copy: Copy, name: str) -> str:
    """Where a copy lies in the media storage."""
    return f"{copy.of.pk}/{name}"


class CopyState(models.TextChoices):
    """Asked for; there; not to be made, and `message` says why."""

    WAITING = "waiting"
    READY = "ready"
    FAILED = "failed"


class Copy(models.Model):
    """Something of a meeting in a form to take away."""

    form = models.CharField(max_length=8)
    state = models.CharField(max_length=8, choices=CopyState.choices, default=CopyState.WAITING)
    progress = models.FloatField(default=0.0)
    message = models.CharField(max_length=400, blank=True)
    file = models.FileField(upload_to=copy_path, max_length=300, blank=True)
    asked_at = models.DateTimeField(default=timezone.now)

    NAME: ClassVar[str]
    """What the file is called before its form."""

    class Meta:
        abstract = True

    @property
    def of(self) -> Meeting:
        """The meeting it is of."""
        raise NotImplementedError

    def begin(self) -> None:
        """It is to be made, whatever became of it before."""
        self.state, self.progress, self.message, self.asked_at = CopyState.WAITING, 0.0, "", timezone.now()
        self.save()


def make(waiting: QuerySet, write: Callable[[Copy, Path, Report], None]) -> None:
    """Make a copy, here and now. waiting: the copy, as long as it is wanted; write: makes its file, and tells its share of the work.

    What took it off the list meanwhile, as a strike does, is heeded: what was made of the old is let go.
    """
    copy = waiting.first()
    if copy is None:
        return
    rows = type(copy).objects.filter(pk=copy.pk)

    def told(share: float) -> None:
        rows.update(progress=min(0.99, share))

    with scratch(copy.of.pk) as folder:
        target = folder / f"{copy.NAME}.{copy.form}"
        try:
            write(copy, target, now_and_then(told, _REPORT_EVERY))
        except (InputProblem, OSError) as error:
            said = str(error) if isinstance(error, InputProblem) else error.strerror or "A file could not be written."
            rows.update(state=CopyState.FAILED, message=said[:400])
            return
        with transaction.atomic():
            lock(copy.of)
            if waiting.exists():
                store(copy.file, target.name, target)
                copy.state, copy.progress = CopyState.READY, 1.0
                copy.save(update_fields=["file", "state", "progress"])


def drop(copies: QuerySet) -> None:
    """Take copies off the list, and their files away once that is through."""
    names = [str(copy.file.name) for copy in copies if copy.file]
    copies.delete()
    transaction.on_commit(lambda: delete_files(default_storage, names))


def sweep(model: type[Copy]) -> None:
    """Copies that were asked for more than a day ago go."""
    drop(model._default_manager.filter(asked_at__lt=timezone.now() - KEPT_FOR))


def files_of(copies: QuerySet) -> set[str]:
    """The names of their files."""
    return set(copies.exclude(file="").values_list("file", flat=True))

"""What comes beside the sound and has a file of its own: pictures of a screen, files of a call's chat."""

from __future__ import annotations

from collections.abc import Iterable

from django.core.files.storage import default_storage
from django.db import transaction

from server.capture.models import Laid, Picture
from server.meetings.models import Meeting
from server.pipeline.files import delete_files


def take_away(rows: Iterable[Picture | Laid]) -> None:
    """The rows, in the transaction that is open; their files once it is through."""
    names = []
    for row in rows:
        names.append(str((row.image if isinstance(row, Picture) else row.file).name))
        row.delete()
    transaction.on_commit(lambda: delete_files(default_storage, names))


def names_beside(meeting: Meeting) -> set[str]:
    """Under which names they lie in the media storage."""
    pictures = Picture.objects.filter(stretch__capture__meeting=meeting).values_list("image", flat=True)
    return {*pictures, *Laid.objects.filter(stretch__capture__meeting=meeting).values_list("file", flat=True)}

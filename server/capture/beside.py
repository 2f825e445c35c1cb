"""What comes beside the sound and has a file of its own: pictures of a screen, files of a call's chat."""

from __future__ import annotations

from collections.abc import Iterable

from django.core.files.storage import default_storage
from django.db import transaction

from server.acting import lock
from server.capture.models import Capture, Laid, Picture, Recording
from server.copies import files_of
from server.meetings.models import Meeting
from server.pipeline.files import delete_files, sweep
from server.removals.ledger import note_removal


def take_away(rows: Iterable[Picture | Laid]) -> None:
    """The rows, in the transaction that is open; their files once it is through."""
    names = []
    for row in rows:
        names.append(str((row.image if isinstance(row, Picture) else row.file).name))
        row.delete()
    transaction.on_commit(lambda: delete_files(default_storage, names))


def throw_away(meeting: Meeting) -> None:
    """A meeting of which nothing is to be kept, in the transaction that is open; its files once it is through. Whoever writes to a capture
    locks it first; so does who deletes it."""
    lock(meeting)
    note_removal("meeting", meeting=str(meeting.pk))
    list(Capture.objects.select_for_update().filter(meeting=meeting))
    key = meeting.pk
    meeting.delete()
    transaction.on_commit(lambda: sweep(default_storage, key, set()))


def names_kept(meeting: Meeting) -> set[str]:
    """Under which names what is there of a meeting lies in the media storage; what lies there besides is left over."""
    pictures = Picture.objects.filter(stretch__capture__meeting=meeting).values_list("image", flat=True)
    names = {*pictures, *Laid.objects.filter(stretch__capture__meeting=meeting).values_list("file", flat=True)}
    names |= set(meeting.excerpts.values_list("sound", flat=True)) | files_of(meeting.record_copies.all())
    if recording := Recording.objects.filter(meeting=meeting).first():
        names |= {str(one.name) for one in (recording.original, recording.sound, recording.listening) if one}
        names |= set(recording.parts.values_list("file", flat=True)) | files_of(recording.copies.all())
    return names

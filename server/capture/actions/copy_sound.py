"""The sound of a recording to take away, in another form: a long one takes a minute, so a worker makes it and says how far it is."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path
from typing import cast

from django.db import transaction
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from core.media.copies import FORMS, sound_copy
from server import copies
from server.accounts.models import Membership
from server.acting import acting
from server.capture.models import Recording, SoundCopy
from server.capture.queries import refuse_withheld
from server.copies import CopyState
from server.meetings.models import Meeting
from server.pipeline.files import local
from server.pipeline.work import Queue, Report, fresh_connections
from server.problems import Refused


def ask_copy(membership: Membership, meeting: Meeting, form: str) -> SoundCopy:
    """Ask for the sound in a form of core.media.copies.FORMS; one that is there or on its way is the answer. Whoever hears it may. Raises Refused."""
    if form not in FORMS:
        raise Refused(422, f"Sound comes as {', '.join(FORMS)}.")
    with acting(membership, None, "ask for sound", meeting, form=form) as act:
        recording = Recording.objects.filter(meeting=meeting).first()
        if recording is None or not recording.listening:
            raise Refused(404, "There is nothing to hear here.")
        refuse_withheld(recording)
        copy, made = SoundCopy.objects.get_or_create(recording=recording, form=form)
        if not made and copy.state != CopyState.FAILED:
            act.nothing()
            return copy
        copy.begin()
        with suppress(AlreadyEnqueued), transaction.atomic():
            make_copy.configure(queueing_lock=f"copy-{copy.pk}").defer(copy_id=copy.pk)
    return copy


@app.task(name="copy sound", queue=Queue.INTAKE)
def make_copy(copy_id: int) -> None:
    """Make what was asked for."""
    with fresh_connections():
        make(copy_id)


def make(copy_id: int) -> None:
    """Make a copy, here and now."""
    waiting = SoundCopy.objects.filter(pk=copy_id, state=CopyState.WAITING, recording__withheld=False)
    copies.make(waiting.select_related("recording__meeting"), _write)


def _write(copy: copies.Copy, target: Path, report: Report) -> None:
    recording = cast(SoundCopy, copy).recording
    whole = max(recording.duration or 0.0, 1.0)
    with local(recording.original) as path:
        sound_copy(path, target, copy.form, lambda seconds: report(seconds / whole))

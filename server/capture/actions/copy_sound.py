"""The sound of a recording to take away, in another form: a long one takes a minute, so a worker makes it and says how far it is."""

from __future__ import annotations

from contextlib import suppress
from datetime import timedelta

from django.core.files.storage import default_storage
from django.db import close_old_connections, transaction
from django.db.models import QuerySet
from django.utils import timezone
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from core.media.copies import FORMS, sound_copy
from core.problems import InputProblem
from server.accounts.models import Membership
from server.acting import acting, lock
from server.capture.models import Recording, SoundCopy
from server.capture.queries import refuse_withheld
from server.meetings.models import Meeting
from server.pipeline.files import delete_files, local, scratch, store
from server.pipeline.work import Queue, Report, now_and_then
from server.problems import Refused

KEPT_FOR = timedelta(days=1)
_REPORT_EVERY = 1.0  # seconds


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
        if not made and copy.state != SoundCopy.State.FAILED:
            act.nothing()
            return copy
        copy.state, copy.progress, copy.message, copy.asked_at = SoundCopy.State.WAITING, 0.0, "", timezone.now()
        copy.save()
        with suppress(AlreadyEnqueued), transaction.atomic():
            make_copy.configure(queueing_lock=f"copy-{copy.pk}").defer(copy_id=copy.pk)
    return copy


@app.task(name="copy sound", queue=Queue.INTAKE)
def make_copy(copy_id: int) -> None:
    """Make what was asked for."""
    close_old_connections()
    try:
        make(copy_id)
    finally:
        close_old_connections()


def make(copy_id: int) -> None:
    """Make a copy, here and now. A strike meanwhile takes it off the list, and what was made of the old sound is let go."""
    copy = SoundCopy.objects.select_related("recording__meeting").filter(pk=copy_id, state=SoundCopy.State.WAITING).first()
    if copy is None:
        return
    recording = copy.recording
    with scratch(recording.meeting_id) as folder, local(recording.original) as path:
        target = folder / f"sound.{copy.form}"
        try:
            sound_copy(path, target, copy.form, _reporter(copy, recording.duration or 0.0))
        except (InputProblem, OSError) as error:
            said = str(error) if isinstance(error, InputProblem) else error.strerror or "A file could not be written."
            SoundCopy.objects.filter(pk=copy.pk).update(state=SoundCopy.State.FAILED, message=said[:400])
            return
        with transaction.atomic():
            lock(recording.meeting)
            waiting = SoundCopy.objects.filter(pk=copy.pk, state=SoundCopy.State.WAITING, recording__withheld=False)
            if not waiting.exists():
                return
            store(copy.file, target.name, target)
            copy.state, copy.progress = SoundCopy.State.READY, 1.0
            copy.save(update_fields=["file", "state", "progress"])


def _reporter(copy: SoundCopy, duration: float) -> Report:
    def report(seconds: float) -> None:
        SoundCopy.objects.filter(pk=copy.pk).update(progress=min(0.99, seconds / max(duration, 1.0)))

    return now_and_then(report, _REPORT_EVERY)


def drop_copies(copies: QuerySet[SoundCopy]) -> None:
    """Take copies off the list, and their files away once that is through."""
    names = [str(copy.file.name) for copy in copies if copy.file]
    copies.delete()
    transaction.on_commit(lambda: delete_files(default_storage, names))


def sweep_copies() -> None:
    """Copies that were asked for more than a day ago go."""
    drop_copies(SoundCopy.objects.filter(asked_at__lt=timezone.now() - KEPT_FOR))

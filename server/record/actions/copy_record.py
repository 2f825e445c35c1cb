"""A long record as a document: setting three hours takes seconds, so a worker does it and says how far it is."""

from __future__ import annotations

from pathlib import Path
from typing import cast

from procrastinate.contrib.django import app

from core.formats.writers import WRITERS
from server import copies
from server.accounts.models import Membership
from server.acting import acting
from server.copies import CopyState
from server.meetings.models import Meeting
from server.pipeline.work import Queue, Report, fresh_connections
from server.problems import Refused
from server.record.models import RecordCopy
from server.record.out import Wanted, record_file


def ask_copy(membership: Membership, meeting: Meeting, form: str, wanted: Wanted) -> RecordCopy:
    """Ask for the record in a form of core.formats.writers.WRITERS, as it stands now. Whoever reads it may. Raises Refused."""
    if form not in WRITERS:
        raise Refused(422, f"The record comes as {', '.join(WRITERS)}.")
    with acting(membership, None, "ask for record", meeting, form=form):
        copies.drop(RecordCopy.objects.filter(meeting=meeting, user=membership.user, form=form))
        copy = RecordCopy.objects.create(meeting=meeting, user=membership.user, form=form, wanted=wanted.packed())
        make_copy.defer(copy_id=copy.pk)
    return copy


@app.task(name="copy record", queue=Queue.INTAKE)
def make_copy(copy_id: int) -> None:
    """Make what was asked for."""
    with fresh_connections():
        make(copy_id)


def make(copy_id: int) -> None:
    """Make a copy, here and now."""
    copies.make(RecordCopy.objects.select_related("meeting").filter(pk=copy_id, state=CopyState.WAITING), _write)


def _write(copy: copies.Copy, target: Path, report: Report) -> None:
    asked = cast(RecordCopy, copy)
    target.write_bytes(record_file(asked.meeting, asked.form, Wanted.unpacked(asked.wanted), report))

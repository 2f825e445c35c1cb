"""A complete upload becomes a meeting's recording."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from functools import partial
from pathlib import Path
from uuid import UUID

from django.core.files import File
from django.db import transaction

from core.formats import READERS, read_record
from core.media import probe
from core.problems import InputProblem
from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.capture.models import Recording, RecordingPart, Upload
from server.capture.queries import check_allowance
from server.capture.uploads import path_of
from server.convening.actions.change import series_named
from server.meetings.models import Attendee, Meeting, Place, Visibility
from server.meetings.people import find_people
from server.pipeline.files import hash_file, local
from server.pipeline.work import begin_work
from server.problems import Refused
from server.sharing.policy import Can, require
from server.sharing.usual import customs_of, let_in, take_usual
from server.sharing.visibility import visible_meetings


@dataclass(frozen=True)
class Given:
    """What a person says of a file they give. visibility: "" as is usual."""

    title: str
    started_at: datetime
    time_zone: str = "UTC"
    people: list[str] = field(default_factory=list)
    series: str = ""
    language: str = ""
    place: str = Place.FILE
    visibility: str = ""
    voices: int | None = None
    terms: list[str] = field(default_factory=list)


def take_uploads(membership: Membership, uploads: Sequence[UUID], given: Given, together: str) -> Meeting:
    """Make one meeting of several uploads: parts, one behind the other in the given order, or tracks of the same time. Raises Refused."""
    require(membership, Can.ADD)
    with transaction.atomic():
        rows = _arrived(membership, uploads)
        if isinstance(rows, Meeting):
            return rows
        for upload in rows:
            if Path(upload.name).suffix.lower() in READERS:
                raise Refused(
                    422, f"{upload.name} is a transcript; only sound and video are put together. Give it as a meeting of its own."
                )
            _check_file(upload)
        meeting = create_meeting(membership, given)
        with acting(membership, Can.ADD, "give files", meeting, files=len(rows), together=together):
            recording = Recording.objects.create(
                meeting=meeting,
                form=Recording.Form.JOINED,
                together=together,
                name=", ".join(upload.name for upload in rows)[:255],
                size=sum(upload.size for upload in rows),
                uploaded_by=membership.user,
                upload=rows[0].pk,
            )
            for position, upload in enumerate(rows):
                part = RecordingPart(recording=recording, position=position, name=upload.name, size=upload.size)
                _give_up(path_of(upload), partial(_save_part, part))
                part.save()
            begin_work(meeting)
            _let_go(rows)
    return meeting


def take_upload(membership: Membership, key: UUID, given: Given, *, again: bool = False) -> Meeting:
    """Make a meeting of an upload, and queue the work on it in the same transaction. The same upload again gives the same meeting.

    Raises Refused when the upload is incomplete, empty or nothing that can be used, or, unless `again`, when the very same file is in
    the library already.
    """
    require(membership, Can.ADD)
    with transaction.atomic():
        rows = _arrived(membership, [key])
        if isinstance(rows, Meeting):
            return rows
        [upload] = rows
        path = path_of(upload)
        if not again and (known := _known(membership, path)):
            raise Refused(
                409,
                f"This very file is in the library already, as “{known.title}”. Open that, or keep this as a second meeting.",
                existing=str(known.pk),
                existing_title=known.title,
            )
        _check_file(upload)
        meeting = create_meeting(membership, given)
        with acting(membership, Can.ADD, "give a file", meeting, size=upload.size):
            recording = keep_file(meeting, path, upload.name, membership, given_up=True)
            Recording.objects.filter(pk=recording.pk).update(upload=upload.pk)
            begin_work(meeting)
            _let_go(rows)
    return meeting


def _save_part(part: RecordingPart, kept: File) -> None:
    part.file.save("original", kept, save=False)


def _arrived(membership: Membership, keys: Sequence[UUID]) -> list[Upload] | Meeting:
    """The uploads, locked, in the given order; the meeting that was made of them where an answer was lost. Raises Refused."""
    check_allowance(membership)
    rows = {row.pk: row for row in Upload.objects.select_for_update().filter(pk__in=keys, user=membership.user)}
    if not rows and (made := Meeting.objects.filter(recording__upload=keys[0], recording__uploaded_by=membership.user).first()):
        return made
    for key in keys:
        if key not in rows:
            raise Refused(404, f"There is no such upload ({key}), or it has been taken already. Give the file again.")
        upload = rows[key]
        if upload.offset < upload.size:
            raise Refused(409, f"Only {upload.offset} of {upload.size} bytes of {upload.name} have arrived. Send the rest first.")
        if upload.size == 0:
            raise Refused(422, f"{upload.name} is empty. Check where it came from and give it again.")
    return [rows[key] for key in dict.fromkeys(keys)]


def _check_file(upload: Upload) -> None:
    """What cannot be used is said at once, and becomes no meeting. Raises Refused."""
    path, suffix = path_of(upload), Path(upload.name).suffix.lower()
    try:
        if suffix in READERS:
            read_record(path, upload.name)
        else:
            probe(path)
    except InputProblem as problem:
        named = str(problem) if suffix in READERS else f"{upload.name}: {problem}"
        raise Refused(422, named) from problem


def _let_go(uploads: Sequence[Upload]) -> None:
    """The uploads are taken; their files go when the transaction is through."""
    paths = [path_of(upload) for upload in uploads]
    for upload in uploads:
        upload.delete()

    def unlink() -> None:
        for path in paths:
            path.unlink(missing_ok=True)

    transaction.on_commit(unlink)


def create_meeting(membership: Membership, given: Given) -> Meeting:
    """The meeting's row, with its people; whoever gives the file is not taken to have been there.

    Of the people named by whoever makes it, those with an account are let in, unless it is to be the maker's alone: the page that
    makes it shows who that is. Nobody else is ever let in by being named.
    """
    series = series_named(membership.workspace, given.series)
    visibility = given.visibility or customs_of(membership.workspace, membership.user_id, series).visibility
    meeting = Meeting.objects.create(
        workspace=membership.workspace,
        title=one_line(given.title)[:200],
        started_at=given.started_at,
        time_zone=given.time_zone,
        series=series,
        language=given.language,
        place=given.place,
        visibility=visibility,
        expected_voices=given.voices,
        terms=given.terms,
        created_by=membership.user,
    )
    people = find_people(membership.workspace, given.people)
    Attendee.objects.bulk_create([Attendee(meeting=meeting, person=person) for person in people])
    if visibility != Visibility.MINE:
        let_in(membership, meeting, {person.user_id for person in people if person.user_id} - {membership.user_id})
    take_usual(membership, meeting)
    return meeting


class _GivenUp(File):
    """A file that a storage in the same file system may take as it is, where copying gigabytes would keep a person waiting."""

    def temporary_file_path(self) -> str:
        """Where it lies: asked for by Django's folder storage."""
        return str(self.name)


def keep_file(meeting: Meeting, path: Path, name: str, membership: Membership, *, given_up: bool = False) -> Recording:
    """Put a file into the media storage as the meeting's recording, under a name of ours: the given one may be anything.

    given_up: nobody else needs the file, so its bytes may be shared with the storage. `path` itself stays either way: until the
    transaction that is open is through, it is the only copy that counts.
    """
    suffix = Path(name).suffix.lower()
    form = Recording.Form.TRANSCRIPT if suffix in READERS else Recording.Form.MEDIA
    recording = Recording(meeting=meeting, form=form, name=name[:255], size=path.stat().st_size, uploaded_by=membership.user)
    name = f"original{suffix if form == Recording.Form.TRANSCRIPT else ''}"
    if given_up:
        _give_up(path, lambda kept: recording.original.save(name, kept, save=False))
    else:
        with path.open("rb") as content:
            recording.original.save(name, File(content), save=False)
    recording.save()
    return recording


def _give_up(path: Path, save: Callable[[File], None]) -> None:
    second_name = path.with_suffix(".taken")
    second_name.unlink(missing_ok=True)
    second_name.hardlink_to(path)
    with second_name.open("rb") as content:
        save(_GivenUp(content, str(second_name)))
    second_name.unlink(missing_ok=True)


def _known(membership: Membership, path: Path) -> Meeting | None:
    """A meeting made of this very file. Files are compared by content only where their size is the same."""
    alike = visible_meetings(membership).filter(recording__size=path.stat().st_size).select_related("recording")
    sha256 = hash_file(path) if alike else None
    for meeting in alike:
        recording = meeting.recording
        if not recording.sha256:  # its first stage is still to come
            with local(recording.original) as kept:
                recording.sha256 = hash_file(kept)
        if recording.sha256 == sha256:
            return meeting
    return None

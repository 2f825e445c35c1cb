"""A complete upload becomes a meeting's recording."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path

from django.core.files import File
from django.db import transaction

from core.formats import READERS
from server.accounts.models import Membership
from server.audit.log import log
from server.capture.models import Recording, RecordingPart, Upload
from server.capture.queries import check_allowance
from server.capture.uploads import path_of
from server.meetings.actions.people import find_people
from server.meetings.models import Attendee, Meeting, Person, Place, Series, Visibility
from server.pipeline.files import hash_file, local
from server.pipeline.stages import stages_of
from server.pipeline.tasks import begin
from server.problems import Refused, not_allowed
from server.sharing.visibility import visible_meetings


@dataclass(frozen=True)
class Given:
    """What a person says of a file they give."""

    title: str
    started_at: datetime
    time_zone: str = "UTC"
    people: list[str] = field(default_factory=list)
    series: str = ""
    language: str = ""
    place: str = Place.FILE
    visibility: str = Visibility.PRESENT
    voices: int | None = None
    terms: list[str] = field(default_factory=list)


def take_uploads(membership: Membership, uploads: list[Upload], given: Given, together: str) -> Meeting:
    """Make one meeting of several uploads: parts, one behind the other in the given order, or tracks of the same time. Raises Refused."""
    _check(membership, uploads)
    for upload in uploads:
        if Path(upload.name).suffix.lower() in READERS:
            raise Refused(422, f"{upload.name} is a transcript; only sound and video are put together. Give it as a meeting of its own.")
    with transaction.atomic():
        meeting = create_meeting(membership, given)
        recording = Recording.objects.create(
            meeting=meeting,
            form=Recording.Form.JOINED,
            together=together,
            name=", ".join(upload.name for upload in uploads)[:255],
            size=sum(upload.size for upload in uploads),
            uploaded_by=membership.user,
        )
        for position, upload in enumerate(uploads):
            part = RecordingPart(recording=recording, position=position, name=upload.name, size=upload.size)
            _give_up(path_of(upload), lambda kept, part=part: part.file.save("original", kept, save=False))
            part.save()
        begin(meeting, stages_of(recording))
        log(membership.workspace, membership.user, "give files", meeting, files=len(uploads), together=together)
        paths = [path_of(upload) for upload in uploads]
        for upload in uploads:
            upload.delete()
    for path in paths:
        path.unlink(missing_ok=True)
    return meeting


def _check(membership: Membership, uploads: list[Upload]) -> None:
    if not membership.writes:
        raise not_allowed("Guests read; ask a member to give this file.")
    for upload in uploads:
        if upload.offset < upload.size:
            raise Refused(409, f"Only {upload.offset} of {upload.size} bytes of {upload.name} have arrived. Send the rest first.")
        if upload.size == 0:
            raise Refused(422, f"{upload.name} is empty. Check where it came from and give it again.")
    check_allowance(membership)


def take_upload(membership: Membership, upload: Upload, given: Given, *, again: bool = False) -> Meeting:
    """Make a meeting of an upload, and queue the work on it in the same transaction.

    Raises Refused when the upload is incomplete or empty, or, unless `again`, when the very same file is in the library already.
    """
    _check(membership, [upload])
    path = path_of(upload)
    if not again and (known := _known(membership, path)):
        raise Refused(
            409,
            f"This very file is in the library already, as “{known.title}”. Open that, or keep this as a second meeting.",
            existing=str(known.pk),
            existing_title=known.title,
        )
    with transaction.atomic():
        meeting = create_meeting(membership, given)
        recording = keep_file(meeting, path, upload.name, membership, given_up=True)
        begin(meeting, stages_of(recording))
        log(membership.workspace, membership.user, "give a file", meeting, size=upload.size)
        upload.delete()
    path.unlink(missing_ok=True)
    return meeting


def create_meeting(membership: Membership, given: Given) -> Meeting:
    """The meeting's row, with its people; whoever gives the file is not taken to have been there."""
    series = Series.objects.get_or_create(workspace=membership.workspace, name=given.series.strip())[0] if given.series.strip() else None
    meeting = Meeting.objects.create(
        workspace=membership.workspace,
        title=given.title.strip(),
        started_at=given.started_at,
        time_zone=given.time_zone,
        series=series,
        language=given.language,
        place=given.place,
        visibility=given.visibility,
        expected_voices=given.voices,
        terms=given.terms,
        created_by=membership.user,
    )
    people: list[Person] = find_people(membership.workspace, given.people)
    Attendee.objects.bulk_create([Attendee(meeting=meeting, person=person) for person in people])
    return meeting


class _GivenUp(File):
    """A file that a storage in the same file system may take as it is, where copying gigabytes would keep a person waiting."""

    def temporary_file_path(self) -> str:
        """Where it lies: asked for by Django's folder storage."""
        return self.name


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

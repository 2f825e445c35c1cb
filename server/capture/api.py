"""Capturing: stretches and chunks as they come, the live record."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path
from typing import Annotated
from uuid import UUID

from django.db import transaction
from django.http import FileResponse, HttpRequest, HttpResponse
from ninja import Router, Schema
from pydantic import Field

from core.formats import READERS
from core.media import probe
from core.speech.translate import MODES, translate
from server.accounts.current import membership_of, signed_in, user_of
from server.accounts.models import Membership
from server.answers import Answer
from server.bounds import Moment, Number
from server.calendars.actions.hold import hold
from server.calendars.queries import planned_of
from server.capture.actions.begin_capture import begin_capture, go_on
from server.capture.actions.copy_sound import ask_copy
from server.capture.actions.discard import discard_capture
from server.capture.actions.end_stretch import end_stretch
from server.capture.actions.keep_chunk import keep_chunk
from server.capture.actions.keep_picture import keep_picture
from server.capture.actions.open_stretch import open_stretch
from server.capture.actions.stop_capture import stop_capture
from server.capture.actions.strike_back import Piece, strike_back
from server.capture.models import Capture, Laid, Picture, SoundCopy, Stretch, Upload
from server.capture.queries import CaptureState, gaps_of, laid_in, messages_of, pictures_of, seconds_of, state_of
from server.capture.uploads import path_of
from server.convening.api import AboutMeetingIn, GapOut
from server.convening.seen import seen
from server.copies import CopyState
from server.document import answers
from server.languages import OurWords
from server.meetings.models import Place
from server.pipeline.queries import estimate
from server.problems import Refused
from server.sharing.visibility import visible_meetings

router = Router(tags=["capture"], auth=signed_in)
meeting_router = Router(tags=["capture"], auth=signed_in)
uploads_router = Router(tags=["capture"], auth=signed_in)


class CaptureIn(AboutMeetingIn):
    """planned: the meeting of one's calendar that this is."""

    id: UUID
    place: Place = Place.ROOM
    planned: Number | None = None


class BegunOut(Schema):
    id: UUID
    meeting: UUID


class StretchIn(Schema):
    tracks: list[Stretch.Track] = Field(max_length=2)
    begun_at: Moment


class EndIn(Schema):
    chunks: Number
    reason: Stretch.End


class PartIn(Schema):
    stretch: Number
    first: Annotated[int, Field(ge=0, le=2**53)]
    end: Annotated[int, Field(ge=0, le=2**53)]


class StrikeIn(Schema):
    parts: list[PartIn] = Field(min_length=1, max_length=100)


class StruckOut(Schema):
    seconds: float


class StopIn(Schema):
    without_the_rest: bool = False


class StretchOut(Schema):
    number: int
    tracks: list[str]
    begun_at: datetime
    chunks: int | None
    arrived: int
    missing: list[int]
    mine: bool


class CaptureOut(Schema):
    id: UUID
    meeting: UUID
    state: CaptureState
    seconds: float
    stretches: list[StretchOut]


class LiveLineOut(Schema):
    number: int
    start: float
    text: str
    name: str
    settled: bool


class MessageOut(Schema):
    """Written into the chat of the call."""

    start: float
    name: str
    text: str


class LiveOut(Schema):
    capture: UUID
    state: CaptureState
    seconds: float
    behind: float
    gaps: list[GapOut]
    lines: list[LiveLineOut]
    messages: list[MessageOut]


class LaidOut(Schema):
    """A file of the call's chat. name: whose; called: as they called it; size in bytes."""

    id: int
    start: float
    name: str
    called: str
    size: int


class PictureOut(Schema):
    """title, text: read from it, "" where there is none or it has not been read."""

    id: int
    start: float
    title: str
    text: str


def _capture(membership: Membership, capture_id: UUID) -> Capture:
    found = Capture.objects.select_related("meeting__workspace").filter(pk=capture_id, meeting__in=visible_meetings(membership)).first()
    if found is None:
        raise Refused(404, "There is no such capture, or its meeting is not shared with you.")
    return found


class CopyIn(Schema):
    form: str = Field(max_length=8)


class CopyOut(Schema):
    form: str
    state: CopyState
    progress: float
    message: OurWords


@meeting_router.post("/{meeting_id}/sound-copies", response={202: CopyOut})
def ask_for_copy(request: HttpRequest, meeting_id: UUID, payload: CopyIn) -> Answer:
    """Ask for the recording's sound as Opus, FLAC, WAV or MP3. When it is ready, take it at `/api/meetings/{meeting_id}/sound.{form}`."""
    membership, found = seen(request, meeting_id)
    return 202, ask_copy(membership, found, payload.form)


@meeting_router.get("/{meeting_id}/sound-copies", response=list[CopyOut])
def copies(request: HttpRequest, meeting_id: UUID) -> Answer:
    """The copies that were asked for, how far they are, and which are ready to be taken."""
    _, found = seen(request, meeting_id)
    return SoundCopy.objects.filter(recording__meeting=found).order_by("form")


@router.post("", response={201: BegunOut})
def begin(request: HttpRequest, payload: CaptureIn) -> Answer:
    """Begin a capture under an id that the device made. The same id again gives the same capture."""
    membership = membership_of(request)
    planned = planned_of(membership, payload.planned) if payload.planned is not None else None
    with transaction.atomic():
        capture = begin_capture(membership, payload.id, payload.given(payload.place))
        if planned:
            hold(membership, capture.meeting, planned)
    return 201, {"id": capture.pk, "meeting": capture.meeting_id}


@router.get("/{capture_id}", response=CaptureOut)
def capture(request: HttpRequest, capture_id: UUID) -> Answer:
    """What has arrived, and what is missing."""
    found = _capture(membership_of(request), capture_id)
    stretches = []
    for stretch in found.stretches.all():
        arrived = set(range(stretch.chunks or 0)) if stretch.gathered else set(stretch.received.values_list("number", flat=True))
        end = stretch.chunks if stretch.chunks is not None else max(arrived, default=-1) + 1
        missing = [number for number in range(end) if number not in arrived]
        stretches.append(
            {
                "number": stretch.number,
                "tracks": stretch.tracks,
                "begun_at": stretch.begun_at,
                "chunks": stretch.chunks,
                "arrived": len(arrived),
                "missing": missing[:1000],
                "mine": stretch.user_id == request.user.pk,
            }
        )
    return {"id": found.pk, "meeting": found.meeting_id, "state": state_of(found), "seconds": seconds_of(found), "stretches": stretches}


@router.put("/{capture_id}/stretches/{number}", response={204: None})
def stretch(request: HttpRequest, capture_id: UUID, number: int, payload: StretchIn) -> Answer:
    """On the record: stretch `number` begins, with its tracks."""
    membership = membership_of(request)
    open_stretch(membership, _capture(membership, capture_id), number, payload.tracks, payload.begun_at)
    return 204, None


@router.put("/{capture_id}/stretches/{stretch_number}/chunks/{number}", response={204: None})
def chunk(request: HttpRequest, capture_id: UUID, stretch_number: int, number: int) -> Answer:
    """A second of sound: int16 samples, little-endian, 24,000 a second, tracks interleaved; with its Content-Digest (RFC 9530)."""
    found = _capture(membership_of(request), capture_id)
    keep_chunk(user_of(request), found, stretch_number, number, request.body, request.headers.get("Content-Digest", ""))
    return 204, None


@router.put("/{capture_id}/stretches/{stretch_number}/pictures/{at}", response={204: None})
def picture(request: HttpRequest, capture_id: UUID, stretch_number: int, at: int) -> Answer:
    """What the screen shows from sample `at` of a stretch on: a JPEG, with its Content-Digest (RFC 9530)."""
    found = _capture(membership_of(request), capture_id)
    keep_picture(user_of(request), found, stretch_number, at, request.body, request.headers.get("Content-Digest", ""))
    return 204, None


@router.post("/{capture_id}/stretches/{number}/end", response={204: None})
def end(request: HttpRequest, capture_id: UUID, number: int, payload: EndIn) -> Answer:
    """Off the record: stretch `number` has so many chunks."""
    membership = membership_of(request)
    end_stretch(membership, _capture(membership, capture_id), number, payload.chunks, payload.reason)
    return 204, None


@router.post("/{capture_id}/strike", response=StruckOut)
def strike(request: HttpRequest, capture_id: UUID, payload: StrikeIn) -> Answer:
    """Strike what was just said. It cannot be undone."""
    membership = membership_of(request)
    parts = [Piece(part.stretch, part.first, part.end) for part in payload.parts]
    return {"seconds": strike_back(membership, _capture(membership, capture_id), parts)}


@router.post("/{capture_id}/stop", response={204: None})
def stop(request: HttpRequest, capture_id: UUID, payload: StopIn) -> Answer:
    """Stop; the work begins when all has arrived, or at once with what has."""
    membership = membership_of(request)
    stop_capture(membership, _capture(membership, capture_id), without_the_rest=payload.without_the_rest)
    return 204, None


@router.delete("/{capture_id}", response={204: None})
def discard(request: HttpRequest, capture_id: UUID) -> Answer:
    """Throw a rehearsal away, with all of it."""
    membership = membership_of(request)
    discard_capture(membership, _capture(membership, capture_id))
    return 204, None


@meeting_router.post("/{meeting_id}/capture", response=BegunOut)
def again(request: HttpRequest, meeting_id: UUID) -> Answer:
    """Go on capturing a meeting that was stopped."""
    capture = go_on(*seen(request, meeting_id))
    return {"id": capture.pk, "meeting": capture.meeting_id}


@meeting_router.get("/{meeting_id}/live", response=LiveOut)
def live(request: HttpRequest, meeting_id: UUID, language: str = "") -> Answer:
    """The live record, in English or in another language from it; on or off the record; how far behind the hearing is."""
    _, found = seen(request, meeting_id)
    if not hasattr(found, "capture"):
        raise Refused(404, "This meeting was not captured here, so there is no live record of it.")
    lines = list(found.capture.lines.all())
    texts = {line.number: line.text for line in lines}
    if language:
        if language not in MODES:
            raise Refused(422, f"Captions come in English or in {', '.join(MODES)}.")
        texts = _translated(lines, language)
    seconds = seconds_of(found.capture)
    return {
        "capture": found.capture.pk,
        "state": state_of(found.capture),
        "seconds": seconds,
        # Told also when the hearing is stuck or not there at all.
        "behind": max(0.0, seconds - found.capture.heard_until),
        "gaps": gaps_of(found.capture),
        "lines": [{"number": line.number, "start": line.start, "text": texts[line.number], "name": line.name, "settled": line.settled} for line in lines],
        "messages": [{"start": at, "name": name, "text": text} for at, name, text in messages_of(found.capture)],
    }


def _translated(lines: list, language: str) -> dict[int, str]:
    """Texts by number; what is settled is translated once and kept."""
    wanted = [line for line in lines if language not in line.translations]
    for line, text in zip(wanted, translate([line.text for line in wanted], language), strict=True):
        line.translations[language] = text
        if line.settled:
            type(line).objects.filter(pk=line.pk, text=line.text).update(translations=line.translations)
    return {line.number: line.translations[language] for line in lines}


@meeting_router.get("/{meeting_id}/pictures", response=list[PictureOut])
def pictures(request: HttpRequest, meeting_id: UUID) -> Answer:
    """The pictures of the screen, in order, each with the second from which it is shown."""
    _, found = seen(request, meeting_id)
    shown = pictures_of(found.capture) if hasattr(found, "capture") else []
    return [{"id": picture.pk, "start": start, "title": picture.title, "text": picture.text or ""} for picture, start in shown]


@meeting_router.get("/{meeting_id}/pictures/{picture_id}.jpg", response={200: None}, openapi_extra=answers("image/jpeg"))
def one_picture(request: HttpRequest, meeting_id: UUID, picture_id: int) -> Answer:
    """A picture of the screen. It may be struck, so that it is asked for each time."""
    _, found = seen(request, meeting_id)
    shown = Picture.objects.filter(pk=picture_id, stretch__capture__meeting=found).first()
    if shown is None:
        raise Refused(404, "There is no such picture of this meeting, or it was struck.")
    with shown.image.open() as source:
        return HttpResponse(source.read(), content_type="image/jpeg", headers={"Cache-Control": "private, no-cache"})


@meeting_router.get("/{meeting_id}/files", response=list[LaidOut])
def files(request: HttpRequest, meeting_id: UUID) -> Answer:
    """What was put into the chat of the call as files, in order."""
    _, found = seen(request, meeting_id)
    laid = laid_in(found.capture) if hasattr(found, "capture") else []
    return [{"id": one.pk, "start": at, "name": name, "called": one.called, "size": one.size} for one, name, at in laid]


@meeting_router.get("/{meeting_id}/files/{file_id}", response={200: None}, openapi_extra=answers("application/octet-stream"))
def one_file(request: HttpRequest, meeting_id: UUID, file_id: Number) -> Answer:
    """One of them, to be saved: whatever it is, it is not opened here."""
    _, found = seen(request, meeting_id)
    laid = Laid.objects.filter(pk=file_id, stretch__capture__meeting=found).first()
    if laid is None:
        raise Refused(404, "There is no such file of this meeting, or it was struck.")
    headers = {"Cache-Control": "private, no-cache", "X-Content-Type-Options": "nosniff", "Content-Security-Policy": "sandbox"}
    return FileResponse(laid.file.open(), as_attachment=True, filename=laid.called, content_type="application/octet-stream", headers=headers)


class AboutOut(Schema):
    duration: float | None
    recorded_at: datetime | None
    work: float | None


@uploads_router.get("/{upload_id}/about", response=AboutOut)
def about(request: HttpRequest, upload_id: UUID) -> Answer:
    """What an upload that has arrived is: its length, when it was recorded as the file says, and how long the work on it will take."""
    upload = Upload.objects.filter(pk=upload_id, user=user_of(request)).first()
    if upload is None or upload.offset < upload.size:
        raise Refused(404, "There is no such upload, or it has not arrived yet.")
    if Path(upload.name).suffix.lower() in READERS:
        return {"duration": None, "recorded_at": None, "work": 1.0}
    facts = probe(path_of(upload))
    return {"duration": facts.duration, "recorded_at": facts.recorded_at, "work": facts.duration and estimate(facts.duration)}

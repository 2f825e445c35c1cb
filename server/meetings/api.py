"""A meeting: what it is, its record, its minutes, the work on it."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from django.db.models import Exists, OuterRef
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import AwareDatetime, Field, field_validator

from server.accounts.current import membership_of, signed_in
from server.capture.actions.take_upload import Given, take_upload, take_uploads
from server.capture.models import Recording, Upload
from server.capture.queries import gaps_of
from server.meetings.actions.change import change_meeting
from server.meetings.actions.change_person import change_person
from server.meetings.actions.remove import remove_meeting, restore_meeting
from server.meetings.models import Meeting, Person, Place, Visibility
from server.meetings.seen import seen
from server.pipeline.actions.try_again import try_again
from server.pipeline.queries import work_on
from server.problems import Refused
from server.record.api import VoiceOut, voice_out
from server.record.models import Turn
from server.sharing.visibility import may_change, may_govern, visible_meetings

router = Router(tags=["meetings"], auth=signed_in)


class LaneOut(Schema):
    voice: int
    name: str
    bars: list[int]


class WorkOut(Schema):
    state: str
    stage: str
    words: str
    percent: int
    left: int | None
    message: str


class PersonOut(Schema):
    id: int
    name: str
    email: str
    organisation: str


class RecordingOut(Schema):
    name: str
    size: int
    form: str
    playable: bool
    withheld: bool
    picture: bool
    timed: bool
    peaks: list[float]


class GapOut(Schema):
    at: float
    length: float | None
    reason: str


class MeetingOut(Schema):
    id: UUID
    title: str
    started_at: datetime
    time_zone: str
    duration: float
    language: str
    place: str
    series: str | None
    visibility: str
    given_by: str | None
    people: list[PersonOut]
    voices: list[VoiceOut]
    strip: list[LaneOut]
    recording: RecordingOut | None
    capture: UUID | None
    gaps: list[GapOut]
    work: WorkOut
    changeable: bool
    governable: bool


class Zoned(Schema):
    @field_validator("time_zone", check_fields=False)
    @classmethod
    def known_zone(cls, value: str) -> str:
        """A zone of the IANA database."""
        try:
            ZoneInfo(value)
        except (ZoneInfoNotFoundError, ValueError, OSError) as error:
            raise ValueError(f"{value!r} is no time zone") from error
        return value


class AboutMeetingIn(Zoned):
    title: str = Field(min_length=1, max_length=200)
    started_at: AwareDatetime
    time_zone: str = "UTC"
    people: list[str] = Field([], max_length=200)
    series: str = Field("", max_length=200)
    language: str = Field("", pattern=r"^([a-z]{2,3}(\+[a-z]{2,3})?)?$")
    visibility: Visibility = Visibility.PRESENT

    def given(self, place: str, **more) -> Given:
        """The same for the actions."""
        return Given(self.title, self.started_at, self.time_zone, self.people, self.series, self.language, place, self.visibility, **more)


class MeetingIn(AboutMeetingIn):
    upload: UUID
    more: list[UUID] = Field([], max_length=30)
    together: Recording.Together = Recording.Together.PARTS
    voices: int | None = Field(None, ge=1, le=30)
    terms: list[str] = Field([], max_length=200)
    again: bool = False


class MeetingPatch(Schema):
    title: str | None = Field(None, max_length=200)
    started_at: AwareDatetime | None = None
    people: list[str] | None = Field(None, max_length=200)
    series: str | None = Field(None, max_length=200)
    visibility: Visibility | None = None


class CreatedOut(Schema):
    id: UUID


def lanes_of(meeting: Meeting, size: str) -> list[dict]:
    """The lanes of a meeting's strip, "small" for a row or "wide" for its page, with the names of their voices."""
    names = {voice.pk: voice.name for voice in meeting.voices.all()}
    lanes = meeting.strip.get(size, [])
    return [{"voice": lane["voice"], "name": names[lane["voice"]], "bars": lane["bars"]} for lane in lanes if lane["voice"] in names]


@router.post("", response={201: CreatedOut})
def give(request: HttpRequest, payload: MeetingIn):
    """Make a meeting of an upload that has arrived, or of several: parts of one meeting, or its tracks."""
    membership = membership_of(request)
    arrived = {upload.pk: upload for upload in Upload.objects.filter(pk__in=[payload.upload, *payload.more], user=request.user)}
    if missing := {payload.upload, *payload.more} - set(arrived):
        raise Refused(404, f"There is no such upload ({next(iter(missing))}). Give the file again.")
    given = payload.given(Place.FILE, voices=payload.voices, terms=[term.strip() for term in payload.terms if term.strip()])
    uploads = [arrived[key] for key in dict.fromkeys([payload.upload, *payload.more])]
    if len(uploads) > 1:
        return 201, {"id": take_uploads(membership, uploads, given, payload.together).pk}
    return 201, {"id": take_upload(membership, uploads[0], given, again=payload.again).pk}


@router.get("/{meeting_id}", response=MeetingOut)
def meeting(request: HttpRequest, meeting_id: UUID):
    """What it is, who is in it, its rain strip, how the work on it stands."""
    membership, found = seen(request, meeting_id)
    voices = list(found.voices.filter(Exists(Turn.objects.filter(voice=OuterRef("pk")))).select_related("person").order_by("id"))
    recording, capture = getattr(found, "recording", None), getattr(found, "capture", None)
    return {
        "id": found.pk,
        "title": found.title,
        "started_at": found.started_at,
        "time_zone": found.time_zone,
        "duration": found.duration,
        "language": found.language,
        "place": found.place,
        "series": found.series and found.series.name,
        "visibility": found.visibility,
        "given_by": found.created_by and found.created_by.called,
        "people": list(found.people.order_by("attendee__id")),
        "strip": lanes_of(found, "wide"),
        "voices": [voice_out(voice) for voice in voices],
        "recording": recording
        and {
            "name": recording.name,
            "size": recording.size,
            "form": recording.form,
            "playable": bool(recording.listening) and not recording.withheld,
            "withheld": recording.withheld,
            "picture": bool(recording.facts.get("picture")),
            "timed": recording.facts.get("timed", True),
            "peaks": recording.peaks,
        },
        "capture": capture and capture.pk,
        "gaps": gaps_of(capture) if capture else [],
        "work": work_on(found),
        "changeable": may_change(membership, found),
        "governable": may_govern(membership, found),
    }


@router.get("/{meeting_id}/progress", response=WorkOut)
def work(request: HttpRequest, meeting_id: UUID):
    """How the work on it stands."""
    return work_on(seen(request, meeting_id)[1])


@router.post("/{meeting_id}/progress/again", response=WorkOut)
def again(request: HttpRequest, meeting_id: UUID):
    """Try a stage that failed again; what was done before it stays done."""
    membership, found = seen(request, meeting_id)
    try_again(membership, found)
    return work_on(found)


@router.patch("/{meeting_id}", response=CreatedOut)
def change(request: HttpRequest, meeting_id: UUID, payload: MeetingPatch):
    """Change title, time, people, series, who may see it."""
    membership, found = seen(request, meeting_id)
    change_meeting(membership, found, **payload.dict(exclude_unset=True))
    return {"id": found.pk}


@router.delete("/{meeting_id}", response={204: None})
def remove(request: HttpRequest, meeting_id: UUID):
    """Take it out of the library; it can be put back."""
    remove_meeting(*seen(request, meeting_id))
    return 204, None


@router.post("/{meeting_id}/restore", response=CreatedOut)
def restore(request: HttpRequest, meeting_id: UUID):
    """Put it back."""
    membership = membership_of(request)
    found = visible_meetings(membership, removed=True).filter(pk=meeting_id).first()
    if found is None:
        raise Refused(404, "There is no such meeting to put back.")
    restore_meeting(membership, found)
    return {"id": found.pk}


class PersonPatch(Schema):
    name: str | None = Field(None, max_length=120)
    email: str | None = Field(None, max_length=254)
    organisation: str | None = Field(None, max_length=120)


people_router = Router(tags=["people"], auth=signed_in)


@people_router.patch("/{person_id}", response=PersonOut)
def person(request: HttpRequest, person_id: int, payload: PersonPatch):
    """Say how a person is called, reached, and whom they are from."""
    membership = membership_of(request)
    found = Person.objects.filter(pk=person_id, workspace=membership.workspace).first()
    if found is None:
        raise Refused(404, "There is no such person.")
    return change_person(membership, found, **payload.dict(exclude_unset=True))

"""A meeting: what it is, its record, its minutes, the work on it."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime
from typing import Annotated, Any
from uuid import UUID
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from django.db.models import Exists, OuterRef
from django.http import HttpRequest
from django.utils import timezone
from ninja import Query, Router, Schema
from pydantic import Field, field_validator

from core.text import folded
from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership, Role
from server.answers import Answer
from server.bounds import Moment, Name
from server.capture.actions.give_sample import give_sample
from server.capture.actions.take_upload import Given, take_upload, take_uploads
from server.capture.models import Recording
from server.capture.queries import gaps_of, shows_picture
from server.convening.actions.change import change_meeting
from server.convening.actions.change_person import change_person
from server.convening.actions.remove import remove_meeting, restore_meeting
from server.convening.seen import seen
from server.languages import OurWords
from server.meetings.models import Meeting, Person, Place, Usual, Visibility
from server.pipeline.queries import WorkState, behind, work_on
from server.problems import Refused
from server.record.api import VoiceOut, voice_out
from server.record.models import Turn
from server.sharing.policy import Can, may, require, rights_of
from server.sharing.usual import usual_of
from server.sharing.visibility import seen_by, visible_meetings
from server.stages.actions.try_again import try_again

router = Router(tags=["meetings"], auth=signed_in)
seen_router = Router(tags=["meetings"], auth=signed_in)


class LaneOut(Schema):
    voice: int
    name: str
    bars: list[int]


class WorkOut(Schema):
    state: WorkState
    stage: str
    words: OurWords
    percent: int
    left: int | None
    message: OurWords


class PersonOut(Schema):
    id: int
    name: str
    email: str
    organisation: str
    has_account: bool = False


class RecordingOut(Schema):
    name: str
    size: int
    form: Recording.Form
    playable: bool
    withheld: bool
    picture: bool
    shown: bool
    timed: bool
    peaks: list[float]


class GapOut(Schema):
    at: float
    length: float | None
    reason: str


class SeerOut(Schema):
    """Somebody who sees a meeting. by_name: because they were let in, and not only with all members."""

    member: int
    name: str
    role: Role
    made_it: bool
    by_name: bool


class MeetingOut(Schema):
    id: UUID
    title: str
    started_at: datetime
    time_zone: str
    duration: float
    language: str
    place: Place
    series: str | None
    visibility: Visibility
    given_by: str | None
    people: list[PersonOut]
    receivers: list[PersonOut]
    """Who usually gets the minutes of its series, there or not; for those who may send them."""
    voices: list[VoiceOut]
    strip: list[LaneOut]
    recording: RecordingOut | None
    capture: UUID | None
    call: bool
    gaps: list[GapOut]
    work: WorkOut
    behind: WorkOut | None
    """What is still done on it though it is ready."""
    can: list[Can]
    seen_by: list[SeerOut]


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


class ZoneIn(Zoned):
    """time_zone: the asker's, for what is today."""

    time_zone: str = Query("UTC", max_length=64)


class AboutMeetingIn(Zoned):
    title: Annotated[Name, Field(min_length=1)]
    started_at: Moment
    time_zone: str = Field("UTC", max_length=64)
    people: list[Name] = Field([], max_length=200)
    series: Name = ""
    language: str = Field("", pattern=r"^([a-z]{2,3}(\+[a-z]{2,3})?)?$")
    visibility: Visibility | None = None

    def given(self, place: str, **more: Any) -> Given:
        """The same for the actions."""
        return Given(self.title, self.started_at, self.time_zone, self.people, self.series, self.language, place, self.visibility or "", **more)


class MeetingIn(AboutMeetingIn):
    upload: UUID
    more: list[UUID] = Field([], max_length=30)
    together: Recording.Together = Recording.Together.PARTS
    voices: int | None = Field(None, ge=1, le=30)
    terms: list[Annotated[Name, Field(max_length=80)]] = Field([], max_length=200)
    again: bool = False


class SampleIn(Zoned):
    title: Annotated[Name, Field(min_length=1)]
    time_zone: str = Field("UTC", max_length=64)


class MeetingPatch(Schema):
    title: Name | None = None
    started_at: Moment | None = None
    people: list[Name] | None = Field(None, max_length=200)
    series: Name | None = None
    visibility: Visibility | None = None
    readers: list[int] | None = Field(None, max_length=2000)


class CreatedOut(Schema):
    id: UUID


def lanes_of(meeting: Meeting, size: str) -> list[dict]:
    """The lanes of a meeting's strip, "small" for a row or "wide" for its page, with the names of their voices."""
    names = {voice.pk: voice.name for voice in meeting.voices.all()}
    lanes = meeting.strip.get(size, [])
    return [{"voice": lane["voice"], "name": names[lane["voice"]], "bars": lane["bars"]} for lane in lanes if lane["voice"] in names]


@router.post("", response={201: CreatedOut})
def give(request: HttpRequest, payload: MeetingIn) -> Answer:
    """Make a meeting of an upload that has arrived, or of several: parts of one meeting, or its tracks."""
    membership = membership_of(request)
    given = payload.given(Place.FILE, voices=payload.voices, terms=[term for term in payload.terms if term])
    if payload.more:
        return 201, {"id": take_uploads(membership, [payload.upload, *payload.more], given, payload.together).pk}
    return 201, {"id": take_upload(membership, payload.upload, given, again=payload.again).pk}


@router.post("/sample", response={201: CreatedOut})
def sample(request: HttpRequest, payload: SampleIn) -> Answer:
    """A short meeting to try things on, seen by nobody else: a recording that comes with the program is heard and read like any other."""
    given = Given(payload.title, timezone.now(), payload.time_zone, language="en", visibility=Visibility.MINE)
    return 201, {"id": give_sample(membership_of(request), given).pk}


@router.get("/{meeting_id}", response=MeetingOut)
def meeting(request: HttpRequest, meeting_id: UUID) -> Answer:
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
        "people": [_person(membership, person) for person in found.people.order_by("attendee__id")],
        "receivers": [_person(membership, person) for person in _receivers(membership, found)],
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
            "shown": shows_picture(recording),
            "timed": recording.facts.get("timed", True),
            "peaks": recording.peaks,
        },
        "capture": capture and capture.pk,
        # Taken in by the clerk, so that nothing can be put behind it from a device.
        "call": capture is not None and capture.participants.exists(),
        "gaps": gaps_of(capture) if capture else [],
        "work": work_on(found),
        "behind": behind(found),
        "can": sorted(rights_of(membership, found)),
        "seen_by": _seers(membership, found.created_by_id, found.visibility, found.readers.values_list("user", flat=True), found),
    }


def _receivers(membership: Membership, meeting: Meeting) -> Iterable[Person]:
    usual = usual_of(meeting) if may(membership, Can.SEND, meeting) else None
    return usual.receivers.order_by("name") if usual else ()


def _person(membership: Membership, person: Person) -> dict:
    """Somebody who was there; how they are reached is for members."""
    known = may(membership, Can.KNOW_TEAM)
    return {"id": person.pk, "name": person.name, "organisation": person.organisation, "email": person.email if known else "", "has_account": known and person.user_id is not None}


def _seers(
    membership: Membership, maker: int | None, visibility: str, readers: Iterable[int], meeting: Meeting | None = None
) -> list[dict]:
    """Who sees a meeting, in names, for members to know: whoever made it first, then those let in, then the rest."""
    if not may(membership, Can.KNOW_TEAM):
        return []
    let_in = set(readers)
    seers = [
        {
            "member": one.pk,
            "name": one.user.called,
            "role": one.role,
            "made_it": one.user_id == maker,
            "by_name": one.user_id in let_in,
        }
        for one in seen_by(membership.workspace_id, maker, visibility, let_in, meeting)
    ]
    return sorted(seers, key=lambda one: (not one["made_it"], not one["by_name"]))


class WouldSeeIn(Schema):
    """meeting: one that is to be changed; without, one that I would make. people: named as present; those with an account are let in
    where I make it, as are those who see the meetings of its series. readers: members let in by name, where it is changed."""

    meeting: UUID | None = None
    series: Name = ""
    visibility: Visibility
    people: list[Name] = Field([], max_length=200)
    readers: list[int] = Field([], max_length=2000)


@seen_router.post("/seen-by", response=list[SeerOut])
def would_see(request: HttpRequest, payload: WouldSeeIn) -> Answer:
    """Who would see a meeting, in names, before it is made or changed."""
    membership = membership_of(request)
    require(membership, Can.KNOW_TEAM)
    found = None
    if payload.meeting is None:
        maker: int | None = membership.user_id
        names = [folded(name) for name in payload.people]
        tied = Person.objects.filter(workspace=membership.workspace, folded__in=names, user__isnull=False)
        usual = Membership.objects.filter(workspace=membership.workspace, pk__in=Usual.objects.filter(series__workspace=membership.workspace, series__name=payload.series).values("readers"))
        readers = [*tied.values_list("user", flat=True), *usual.values_list("user", flat=True)]
    else:
        found = seen(request, payload.meeting)[1]
        maker = found.created_by_id
        chosen = Membership.objects.filter(workspace=membership.workspace, pk__in=payload.readers).values_list("user", flat=True)
        readers = list(chosen)
    return _seers(membership, maker, payload.visibility, readers, found)


@router.get("/{meeting_id}/progress", response=WorkOut)
def work(request: HttpRequest, meeting_id: UUID) -> Answer:
    """How the work on it stands."""
    return work_on(seen(request, meeting_id)[1])


@router.post("/{meeting_id}/progress/again", response=WorkOut)
def again(request: HttpRequest, meeting_id: UUID) -> Answer:
    """Try a stage that failed again; what was done before it stays done."""
    membership, found = seen(request, meeting_id)
    try_again(membership, found)
    return work_on(found)


@router.patch("/{meeting_id}", response=CreatedOut)
def change(request: HttpRequest, meeting_id: UUID, payload: MeetingPatch) -> Answer:
    """Change title, time, people, series, who may see it."""
    membership, found = seen(request, meeting_id)
    change_meeting(membership, found, **payload.dict(exclude_unset=True))
    return {"id": found.pk}


@router.delete("/{meeting_id}", response={204: None})
def remove(request: HttpRequest, meeting_id: UUID) -> Answer:
    """Take it out of the library; it can be put back."""
    remove_meeting(*seen(request, meeting_id))
    return 204, None


@router.post("/{meeting_id}/restore", response=CreatedOut)
def restore(request: HttpRequest, meeting_id: UUID) -> Answer:
    """Put it back."""
    membership = membership_of(request)
    found = visible_meetings(membership, removed=True).filter(pk=meeting_id).first()
    if found is None:
        raise Refused(404, "There is no such meeting to put back.")
    restore_meeting(membership, found)
    return {"id": found.pk}


class PersonPatch(Schema):
    name: Name | None = None
    email: str | None = Field(None, max_length=254)
    organisation: Name | None = None


people_router = Router(tags=["people"], auth=signed_in)


@people_router.patch("/{person_id}", response=PersonOut)
def person(request: HttpRequest, person_id: int, payload: PersonPatch) -> Answer:
    """Say how a person is called, reached, and whom they are from."""
    membership = membership_of(request)
    found = Person.objects.filter(pk=person_id, workspace=membership.workspace).first()
    if found is None:
        raise Refused(404, "There is no such person.")
    return change_person(membership, found, **payload.dict(exclude_unset=True))

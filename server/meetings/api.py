"""A meeting: what it is, its record, its minutes, the work on it."""

from __future__ import annotations

from datetime import date, datetime
from uuid import UUID
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from django.db import transaction
from django.db.models import Prefetch
from django.http import HttpRequest, HttpResponse, JsonResponse
from ninja import Router, Schema
from pydantic import AwareDatetime, Field, field_validator

from core.formats import json_record, subrip, webvtt_record
from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership
from server.audit.log import log
from server.capture.actions.take_upload import Given, take_upload
from server.capture.models import Upload
from server.meetings.actions.change import change_meeting
from server.meetings.actions.change_person import change_person
from server.meetings.actions.remove import remove_meeting, restore_meeting
from server.meetings.models import Meeting, Person, Place, Visibility
from server.minutes.actions.judge_finding import confirm, dismiss, set_done
from server.minutes.actions.write_line import add_line, correct_line, set_removed
from server.minutes.models import Finding, MinutesLine
from server.pipeline.models import StageRun
from server.pipeline.queries import work_on
from server.pipeline.stages import stages_of
from server.pipeline.tasks import queue
from server.problems import Refused, not_allowed
from server.record.actions.name_voice import name_voice
from server.record.keep import load_record
from server.record.models import Line, Voice
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


class VoiceOut(Schema):
    id: int
    label: str
    name: str
    named: bool


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
    work: WorkOut
    changeable: bool
    governable: bool


class LineOut(Schema):
    number: int
    start: float
    end: float
    text: str


class TurnOut(Schema):
    number: int
    voice: int
    start: float
    end: float
    lines: list[LineOut]


class RecordOut(Schema):
    turns: list[TurnOut]


class FindingOut(Schema):
    id: int
    kind: str
    text: str
    status: str
    confidence: float
    owner: str | None
    due: date | None
    done: bool
    start: float
    lines: list[int]


class MinutesLineOut(Schema):
    id: int
    section: str
    text: str
    hand: str | None
    hand_name: str | None
    lines: list[int]
    start: float | None
    finding: FindingOut | None
    removed: bool


class ChapterOut(Schema):
    title: str
    turn: int
    start: float


class MinutesOut(Schema):
    lines: list[MinutesLineOut]
    proposed: list[FindingOut]
    findings: list[FindingOut]
    chapters: list[ChapterOut]


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


class MeetingIn(Zoned):
    upload: UUID
    title: str = Field(min_length=1, max_length=200)
    started_at: AwareDatetime
    time_zone: str = "UTC"
    people: list[str] = Field([], max_length=200)
    series: str = Field("", max_length=200)
    language: str = Field("", pattern=r"^([a-z]{2,3})?$")
    visibility: Visibility = Visibility.PRESENT
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


def seen(request: HttpRequest, meeting_id: UUID) -> tuple[Membership, Meeting]:
    """The caller and the meeting, when they may see it; else nothing is said of whether it exists."""
    membership = membership_of(request)
    meeting = visible_meetings(membership).filter(pk=meeting_id).select_related("recording", "series", "created_by").first()
    if meeting is None:
        raise Refused(404, "There is no such meeting, or it is not shared with you.")
    return membership, meeting


def _line_of(request: HttpRequest, line_id: int) -> tuple[Membership, MinutesLine]:
    membership = membership_of(request)
    row = MinutesLine.objects.filter(pk=line_id, meeting__in=visible_meetings(membership)).select_related("meeting").first()
    if row is None:
        raise Refused(404, "This line of the minutes is gone; they were written anew. Look at them again.")
    return membership, row


def _finding_of(request: HttpRequest, finding_id: int) -> tuple[Membership, Finding]:
    membership = membership_of(request)
    row = Finding.objects.filter(pk=finding_id, meeting__in=visible_meetings(membership)).select_related("meeting").first()
    if row is None:
        raise Refused(404, "This is gone; the record was read anew. Look at the minutes again.")
    return membership, row


def _finding(row: Finding) -> dict:
    return {
        "id": row.pk,
        "kind": row.kind,
        "text": row.text,
        "status": row.status,
        "confidence": row.confidence,
        "owner": row.owner_name or None,
        "due": row.due,
        "done": row.done_at is not None,
        "start": row.start,
        "lines": sorted(line.number for line in row.lines.all()),
    }


def _minutes_line(row: MinutesLine) -> dict:
    lines = sorted(row.lines.all(), key=lambda line: line.number)
    return {
        "id": row.pk,
        "section": row.section,
        "text": row.text,
        "hand": row.hand_initials or None,
        "hand_name": row.hand.name if row.hand else None,
        "lines": [line.number for line in lines],
        "start": lines[0].start if lines else None,
        "finding": _finding(row.finding) if row.finding else None,
        "removed": row.removed_at is not None,
    }


@router.post("", response={201: CreatedOut})
def give(request: HttpRequest, payload: MeetingIn):
    """Make a meeting of an upload that has arrived."""
    membership = membership_of(request)
    upload = Upload.objects.filter(pk=payload.upload, user=request.user).first()
    if upload is None:
        raise Refused(404, "There is no such upload. Give the file again.")
    given = Given(
        payload.title,
        payload.started_at,
        payload.time_zone,
        payload.people,
        payload.series,
        payload.language,
        Place.FILE,
        payload.visibility,
    )
    return 201, {"id": take_upload(membership, upload, given, again=payload.again).pk}


@router.get("/{meeting_id}", response=MeetingOut)
def meeting(request: HttpRequest, meeting_id: UUID):
    """What it is, who is in it, its rain strip, how the work on it stands."""
    membership, found = seen(request, meeting_id)
    voices = list(found.voices.select_related("person").order_by("id"))
    recording = getattr(found, "recording", None)
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
        "given_by": found.created_by and (found.created_by.name or found.created_by.email),
        "people": list(found.people.order_by("attendee__id")),
        "strip": lanes_of(found, "wide"),
        "voices": [{"id": v.pk, "label": v.label, "name": v.name, "named": v.person_id is not None} for v in voices],
        "recording": recording
        and {"name": recording.name, "size": recording.size, "form": recording.form, "playable": bool(recording.listening)},
        "work": work_on(found),
        "changeable": may_change(membership, found),
        "governable": may_govern(membership, found),
    }


@router.get("/{meeting_id}/work", response=WorkOut)
def work(request: HttpRequest, meeting_id: UUID):
    """How the work on it stands."""
    return work_on(seen(request, meeting_id)[1])


@router.post("/{meeting_id}/work/again", response=WorkOut)
def try_again(request: HttpRequest, meeting_id: UUID):
    """Try a stage that failed again; what was done before it stays done."""
    membership, found = seen(request, meeting_id)
    if not may_change(membership, found):
        raise not_allowed("Guests cannot start work. Ask a member.")
    with transaction.atomic():
        failed = StageRun.objects.select_for_update().filter(meeting=found, state=StageRun.State.FAILED)
        names = [name for name in stages_of(found.recording) if name in set(failed.values_list("stage", flat=True))]
        failed.update(state=StageRun.State.WAITING, progress=0.0, message="")
        if names:
            queue(found, names[0])
            log(membership.workspace, membership.user, "try again", found, stage=names[0])
    return work_on(found)


@router.get("/{meeting_id}/record", response=RecordOut)
def record(request: HttpRequest, meeting_id: UUID):
    """Turns and lines, in order."""
    _, found = seen(request, meeting_id)
    turns: dict[int, dict] = {}
    rows = (
        Line.objects.filter(meeting=found)
        .order_by("number")
        .values_list("turn__number", "turn__voice_id", "turn__start", "turn__end", "number", "start", "end", "text")
    )
    for turn, voice, begins, ends, number, start, end, text in rows:
        turns.setdefault(turn, {"number": turn, "voice": voice, "start": begins, "end": ends, "lines": []})["lines"].append(
            {"number": number, "start": start, "end": end, "text": text}
        )
    # A three-hour record has thousands of lines; checking each against the schema takes longer than fetching them.
    return JsonResponse({"turns": list(turns.values())})


_EXPORTS = {
    "json": (json_record.dump, "application/json"),
    "vtt": (webvtt_record.dump, "text/vtt"),
    "srt": (subrip.dump, "application/x-subrip"),
}


@router.get("/{meeting_id}/record.{form}", response={200: str})
def record_file(request: HttpRequest, meeting_id: UUID, form: str):
    """The record as a file: json, vtt or srt."""
    membership, found = seen(request, meeting_id)
    if form not in _EXPORTS:
        raise Refused(404, f"The record comes as {', '.join(_EXPORTS)}.")
    dump, kind = _EXPORTS[form]
    log(membership.workspace, membership.user, "download record", found, form=form)
    return HttpResponse(
        dump(load_record(found, words=form == "json")),
        content_type=f"{kind}; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="record.{form}"'},
    )


_OF_MINUTES = ("decision", "action", "question")
# Evidence without its words and search vector, which nobody asks for here.
_LINES = Prefetch("lines", Line.objects.only("number", "start"))
_FINDING_LINES = Prefetch("finding__lines", Line.objects.only("number", "start"))


@router.get("/{meeting_id}/minutes", response=MinutesOut)
def minutes(request: HttpRequest, meeting_id: UUID):
    """The minutes, what is proposed, the findings for the strip, chapters."""
    _, found = seen(request, meeting_id)
    findings = [
        _finding(row) for row in Finding.objects.filter(meeting=found, kind__in=_OF_MINUTES).prefetch_related(_LINES).order_by("start")
    ]
    rows = MinutesLine.objects.filter(meeting=found).select_related("hand", "finding").prefetch_related(_LINES, _FINDING_LINES)
    return {
        "lines": [_minutes_line(row) for row in rows],
        "proposed": sorted(
            (f for f in findings if f["status"] == "proposed"),
            key=lambda f: -f["confidence"],
        ),
        "findings": [f for f in findings if f["status"] == "standing"],
        "chapters": list(found.chapters.order_by("start")),
    }


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


class NameIn(Schema):
    name: str = Field(max_length=120)


@router.post("/{meeting_id}/voices/{voice_id}/name", response=VoiceOut)
def name(request: HttpRequest, meeting_id: UUID, voice_id: int, payload: NameIn):
    """Whose voice it is; an empty name takes it back."""
    membership, found = seen(request, meeting_id)
    voice = Voice.objects.filter(pk=voice_id, meeting=found).select_related("meeting", "person").first()
    if voice is None:
        raise Refused(404, "There is no such voice in this meeting.")
    voice = name_voice(membership, voice, payload.name)
    return {"id": voice.pk, "label": voice.label, "name": voice.name, "named": voice.person_id is not None}


class NewLineIn(Schema):
    section: str
    text: str = Field(max_length=4000)
    lines: list[int] = []


class TextIn(Schema):
    text: str = Field(max_length=4000)


@router.post("/{meeting_id}/minutes/lines", response={201: MinutesLineOut})
def write(request: HttpRequest, meeting_id: UUID, payload: NewLineIn):
    """Add a line in my hand."""
    return 201, _minutes_line(add_line(*seen(request, meeting_id), payload.section, payload.text, payload.lines))


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


lines_router = Router(tags=["minutes"], auth=signed_in)


@lines_router.patch("/lines/{line_id}", response=MinutesLineOut)
def correct(request: HttpRequest, line_id: int, payload: TextIn):
    """Word a line anew; it is then in my hand."""
    membership, row = _line_of(request, line_id)
    return _minutes_line(correct_line(membership, row, payload.text))


@lines_router.delete("/lines/{line_id}", response=MinutesLineOut)
def take_out(request: HttpRequest, line_id: int):
    """Take a line out; it can be put back."""
    membership, row = _line_of(request, line_id)
    return _minutes_line(set_removed(membership, row, True))


@lines_router.post("/lines/{line_id}/restore", response=MinutesLineOut)
def put_back(request: HttpRequest, line_id: int):
    """Put a line back."""
    membership, row = _line_of(request, line_id)
    return _minutes_line(set_removed(membership, row, False))


class JudgementIn(Schema):
    done: bool | None = None
    confirmed: bool | None = None
    dismissed: bool | None = None


@lines_router.patch("/findings/{finding_id}", response=FindingOut)
def judge(request: HttpRequest, finding_id: int, payload: JudgementIn):
    """Say that an action is done, that a proposed finding is right, or that it is wrong."""
    membership, row = _finding_of(request, finding_id)
    if payload.done is not None:
        row = set_done(membership, row, payload.done)
    if payload.confirmed:
        row = confirm(membership, row)
    if payload.dismissed is not None:
        row = dismiss(membership, row, payload.dismissed)
    return _finding(row)

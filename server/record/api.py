"""The record of a meeting: to read, to take away, and whose voices are in it."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime
from uuid import UUID

from django.http import HttpRequest, HttpResponse, JsonResponse
from ninja import Query, Router, Schema

from core.formats.writers import MEDIA_TYPES, WRITERS
from core.planning.airtime import DEFINITIONS, airtime
from core.record.model import Word, timed_words
from core.record.review import unsure_spans
from core.record.timeline import Span
from core.voices.naming import propose_names
from server.accounts.current import membership_of, signed_in
from server.answers import Answer
from server.audit.log import log
from server.bounds import Name, Number, Seconds, Short
from server.convening.seen import seen
from server.copies import CopyState
from server.document import forms
from server.languages import OurWords
from server.meetings.attachment import attachment
from server.problems import Refused
from server.record.actions.copy_record import ask_copy
from server.record.actions.name_voice import name_voice
from server.record.actions.remember_voice import forget_voice, remember_voice
from server.record.keep import load_record
from server.record.models import KnownVoice, Line, Voice
from server.record.out import LONG, Wanted, is_long, part_of, record_file
from server.record.steps import of_row
from server.sharing.policy import Can, may
from server.sharing.visibility import listed_meetings

router = Router(tags=["record"], auth=signed_in)
LONGEST_WORDS = 600.0
"""Seconds whose words are given at a time."""
known_router = Router(tags=["voices"], auth=signed_in)


class VoiceOut(Schema):
    id: int
    label: str
    name: str
    named: bool
    recognised: bool
    known: bool


class LineOut(Schema):
    number: int
    start: float
    end: float
    text: str
    unsure: list[list[int]]
    voice_unsure: bool
    overlap: bool


class TurnOut(Schema):
    number: int
    voice: int
    start: float
    end: float
    language: str
    english: str
    written: bool
    lines: list[LineOut]


class StruckSpanOut(Schema):
    """Where something was struck, by whom and when."""

    start: float
    end: float
    by: str | None
    at: datetime


class RecordOut(Schema):
    turns: list[TurnOut]
    struck: list[StruckSpanOut]
    long: bool
    """Documents of it are made by a worker."""


class VoiceNameIn(Schema):
    name: Name


class ProposalOut(Schema):
    voice: int
    name: str
    lines: list[int]
    because: str


class RememberIn(Schema):
    consent: bool


class KnownVoiceOut(Schema):
    id: int
    name: str
    meeting: UUID | None
    at: datetime
    noted_by: str | None


def voice_out(voice: Voice) -> dict:
    """A voice as the API tells it."""
    return {
        "id": voice.pk,
        "label": voice.label,
        "name": voice.name,
        "named": voice.person_id is not None,
        "recognised": voice.recognised,
        "known": bool(voice.person and hasattr(voice.person, "known_voice")),
    }


@router.get("/{meeting_id}/record", response=RecordOut)
def record(request: HttpRequest, meeting_id: UUID) -> Answer:
    """Turns and lines, in order, and where something was struck."""
    _, found = seen(request, meeting_id)
    turns: dict[int, dict] = {}
    rows = (
        Line.objects.filter(meeting=found)
        .order_by("number")
        .values_list(
            "turn__number",
            "turn__voice_id",
            "turn__start",
            "turn__end",
            "turn__language",
            "turn__english",
            "turn__written",
            "number",
            "start",
            "end",
            "text",
            "words",
            "checked",
        )
    )
    for turn, voice, begins, ends, language, english, written, number, start, end, text, words, checked in rows:
        turns.setdefault(
            turn,
            {"number": turn, "voice": voice, "start": begins, "end": ends, "language": language, "english": english, "written": written, "lines": []},
        )["lines"].append({"number": number, "start": start, "end": end, "text": text, **_in_doubt(words, text, checked)})
    # A three-hour record has thousands of lines; checking each against the schema takes longer than fetching them.
    struck = [
        {"start": start, "end": end, "by": one.user and one.user.called, "at": one.at}
        for one in found.strikes.select_related("user")
        for start, end in one.spans
    ]
    return JsonResponse({"turns": list(turns.values()), "struck": struck, "long": len(rows) >= LONG})


def _in_doubt(kept: list, text: str, checked: bool) -> dict:
    words = [] if checked else [Word.unpacked(word) for word in kept]
    half = max(1, len(words) / 2)
    return {
        "unsure": unsure_spans(words, text) if words else [],
        "voice_unsure": sum(word.doubt for word in words) >= half,
        "overlap": sum(word.overlap for word in words) >= half,
    }


class LineWordsOut(Schema):
    line: int
    words: list[tuple[str, float, float]]


@router.get("/{meeting_id}/record/words", response=list[LineWordsOut])
def words_of(request: HttpRequest, meeting_id: UUID, start: Seconds, end: Seconds) -> Answer:
    """The words of the lines said between two seconds, each with its own; where they are not known, they share out the line's."""
    _, found = seen(request, meeting_id)
    if not 0 <= start < end <= start + LONGEST_WORDS:
        raise Refused(422, f"Ask for the words of up to {LONGEST_WORDS / 60:.0f} minutes.")
    rows = Line.objects.filter(meeting=found, start__lt=end, end__gt=start).order_by("number")
    said = [
        {"line": row.number, "words": [(word.text, round(word.start, 3), round(word.end, 3)) for word in timed_words(of_row(row))]}
        for row in rows
    ]
    # As with the record: checking every word against the schema takes longer than fetching them.
    return JsonResponse(said, safe=False)


class BetweenIn(Schema):
    """A part of a record, in seconds; of what is not given, all."""

    start: Seconds | None = None
    end: Seconds | None = None

    @property
    def part(self) -> Span | None:
        """What lies between; None where neither is given. Raises Refused where the part has no length."""
        if not (self.start or 0.0) < (self.end if self.end is not None else float("inf")):
            raise Refused(422, "A part of a record ends after it starts.")
        return part_of(self.start, self.end)


class WantedIn(BetweenIn):
    """What is shown of it."""

    speakers: bool = True
    times: bool = True
    joined: bool = True
    marks: bool = False
    captions: bool = False
    link: bool = False

    @property
    def wanted(self) -> Wanted:
        """For the writer. Raises Refused."""
        return Wanted(self.speakers, self.times, self.joined, self.marks, self.captions, self.link, self.part)


@router.get("/{meeting_id}/record.{form}", response={200: None}, openapi_extra=forms(MEDIA_TYPES[form] for form in WRITERS))
def record_export(request: HttpRequest, meeting_id: UUID, form: str, wanted: Query[WantedIn]) -> Answer:
    """The record, or what is said between two seconds of it, as txt, md, docx, pdf, vtt, srt, rttm, csv or json. Of a long one, docx and
    pdf take a while: 409, and `POST …/record-copies` has them made."""
    membership, found = seen(request, meeting_id)
    if form not in WRITERS:
        raise Refused(404, f"The record comes as {', '.join(WRITERS)}.")
    asked = wanted.wanted
    if is_long(found, form):
        raise Refused(409, "This record is long. Ask for the document first, and take it when it is ready.")
    data = record_file(found, form, asked)
    log(membership.workspace, membership.user, "download record", found, form=form)
    return HttpResponse(data, content_type=MEDIA_TYPES[form], headers=attachment(found, "record", form))


class RecordCopyIn(WantedIn):
    form: Short


class RecordCopyOut(Schema):
    id: int
    form: str
    state: CopyState
    progress: float
    message: OurWords


@router.post("/{meeting_id}/record-copies", response={202: RecordCopyOut})
def ask_for_copy(request: HttpRequest, meeting_id: UUID, payload: RecordCopyIn) -> Answer:
    """Ask for the record as a document, as it stands now; mine alone."""
    membership, found = seen(request, meeting_id)
    return 202, ask_copy(membership, found, payload.form, payload.wanted)


@router.get("/{meeting_id}/record-copies", response=list[RecordCopyOut])
def copies(request: HttpRequest, meeting_id: UUID) -> Answer:
    """Those that I asked for, and how far they are."""
    membership, found = seen(request, meeting_id)
    return found.record_copies.filter(user=membership.user).order_by("form")


@router.get("/{meeting_id}/record-copies/{copy_id}", response={200: None}, openapi_extra=forms(MEDIA_TYPES[form] for form in WRITERS))
def take_copy(request: HttpRequest, meeting_id: UUID, copy_id: Number) -> Answer:
    """One that is ready."""
    membership, found = seen(request, meeting_id)
    copy = found.record_copies.filter(pk=copy_id, user=membership.user, state=CopyState.READY).first()
    if copy is None:
        raise Refused(404, "There is no such document. Ask for it first, and take it when it is ready.")
    log(membership.workspace, membership.user, "download record", found, form=copy.form)
    with copy.file.open("rb") as file:
        return HttpResponse(file.read(), content_type=MEDIA_TYPES[copy.form], headers=attachment(found, "record", copy.form))


class AirOut(Schema):
    speaker: str
    seconds: float
    share: float
    turns: int
    longest: float
    pace: float
    questions: int
    interruptions: int


class AirtimeOut(Schema):
    people: list[AirOut]
    whole: float
    silence: float
    definitions: dict[str, str]


@router.get("/{meeting_id}/airtime", response=AirtimeOut)
def airtime_of(request: HttpRequest, meeting_id: UUID, part: Query[BetweenIn]) -> Answer:
    """Who spoke how much, over the meeting or a part of it, and what each figure counts."""
    _, found = seen(request, meeting_id)
    air = airtime(load_record(found), part.part)
    return {"people": list(air.people), "whole": air.whole.duration, "silence": air.silence, "definitions": DEFINITIONS}


class OwnAirOut(AirOut):
    meeting: UUID
    title: str
    started_at: datetime


@router.get("/{meeting_id}/airtime/series", response=list[OwnAirOut])
def own_airtime(request: HttpRequest, meeting_id: UUID) -> Answer:
    """One's own figures in every meeting of the series that one sees, in order; nobody else's."""
    membership, found = seen(request, meeting_id)
    if found.series is None:
        raise Refused(404, "This meeting is not part of a series. Name one in its settings.")
    figures = []
    for meeting in listed_meetings(membership).filter(series=found.series).order_by("started_at"):
        own = set(Voice.objects.filter(meeting=meeting, person__user=membership.user).values_list("person__name", flat=True))
        if own:
            heading = {"meeting": meeting.pk, "title": meeting.title, "started_at": meeting.started_at}
            figures += [{**asdict(one), **heading} for one in airtime(load_record(meeting)).people if one.speaker in own]
    return figures


@router.post("/{meeting_id}/voices/{voice_id}/name", response=VoiceOut)
def name(request: HttpRequest, meeting_id: UUID, voice_id: int, payload: VoiceNameIn) -> Answer:
    """Whose voice it is; an empty name takes it back."""
    membership, found = seen(request, meeting_id)
    voice = Voice.objects.filter(pk=voice_id, meeting=found).select_related("meeting", "person").first()
    if voice is None:
        raise Refused(404, "There is no such voice in this meeting.")
    voice = name_voice(membership, voice, payload.name)
    return voice_out(voice)


@router.get("/{meeting_id}/voices/proposals", response=list[ProposalOut])
def proposals(request: HttpRequest, meeting_id: UUID) -> Answer:
    """Who the voices that have no name may be, each with the lines that say so."""
    _, found = seen(request, meeting_id)
    voices = {voice.name: voice for voice in found.voices.select_related("person")}
    unnamed = [name for name, voice in voices.items() if voice.person is None]
    taken = {voice.person_id for voice in voices.values()}
    names = list(found.people.exclude(pk__in=taken - {None}).order_by("attendee__id").values_list("name", flat=True))
    numbers = dict(Line.objects.filter(meeting=found).values_list("start", "number"))
    return [
        {
            "voice": voices[proposal.voice].pk,
            "name": proposal.name,
            "lines": [numbers[line.start] for line in proposal.lines],
            "because": proposal.lines[0].text,
        }
        for proposal in propose_names(load_record(found), unnamed, names)
    ]


@router.post("/{meeting_id}/voices/{voice_id}/remember", response={204: None})
def remember(request: HttpRequest, meeting_id: UUID, voice_id: int, payload: RememberIn) -> Answer:
    """Keep what a named voice sounds like, with the person's consent."""
    membership, found = seen(request, meeting_id)
    voice = Voice.objects.filter(pk=voice_id, meeting=found).select_related("meeting", "person").first()
    if voice is None:
        raise Refused(404, "There is no such voice in this meeting.")
    remember_voice(membership, voice, payload.consent)
    return 204, None


@known_router.get("", response=list[KnownVoiceOut])
def known(request: HttpRequest) -> Answer:
    """The voices this workspace knows: whose, since when, and who noted the consent. What they sound like is not told."""
    membership = membership_of(request)
    kept = KnownVoice.objects.filter(person__workspace=membership.workspace)
    if not may(membership, Can.KNOW_TEAM):
        kept = kept.filter(person__user=membership.user)
    kept = kept.select_related("person", "consent_noted_by").order_by("person__name")
    return [
        {
            "id": one.pk,
            "name": one.person.name,
            "meeting": one.meeting_id,
            "at": one.at,
            "noted_by": one.consent_noted_by and one.consent_noted_by.called,
        }
        for one in kept
    ]


@known_router.delete("/{known_id}", response={204: None})
def forget(request: HttpRequest, known_id: int) -> Answer:
    """Forget a voice, for good."""
    membership = membership_of(request)
    one = KnownVoice.objects.filter(pk=known_id, person__workspace=membership.workspace).select_related("person").first()
    if one is None:
        raise Refused(404, "There is no such known voice.")
    forget_voice(membership, one)
    return 204, None

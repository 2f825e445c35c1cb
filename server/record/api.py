"""The record of a meeting: to read, to take away, and whose voices are in it."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

from django.http import HttpRequest, HttpResponse, JsonResponse
from ninja import Router, Schema
from pydantic import Field

from core.formats import json_record, subrip, webvtt_record
from core.record.model import Word
from core.record.review import unsure_spans
from core.voices.naming import propose_names
from server.accounts.current import membership_of, signed_in
from server.audit.log import log
from server.meetings.seen import seen
from server.problems import Refused
from server.record.actions import edit_record
from server.record.actions.name_voice import name_voice
from server.record.actions.remember_voice import forget_voice, remember_voice
from server.record.keep import load_record
from server.record.models import Edit, KnownVoice, Line, Voice

router = Router(tags=["record"], auth=signed_in)
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
    unsure: list[tuple[int, int]]
    voice_unsure: bool
    overlap: bool


class TurnOut(Schema):
    number: int
    voice: int
    start: float
    end: float
    language: str
    english: str
    lines: list[LineOut]


class RecordOut(Schema):
    turns: list[TurnOut]


class NameIn(Schema):
    name: str = Field(max_length=120)


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
def record(request: HttpRequest, meeting_id: UUID):
    """Turns and lines, in order."""
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
            "number",
            "start",
            "end",
            "text",
            "words",
            "checked",
        )
    )
    for turn, voice, begins, ends, language, english, number, start, end, text, words, checked in rows:
        turns.setdefault(
            turn, {"number": turn, "voice": voice, "start": begins, "end": ends, "language": language, "english": english, "lines": []}
        )["lines"].append({"number": number, "start": start, "end": end, "text": text, **_in_doubt(words, text, checked)})
    # A three-hour record has thousands of lines; checking each against the schema takes longer than fetching them.
    return JsonResponse({"turns": list(turns.values())})


def _in_doubt(kept: list, text: str, checked: bool) -> dict:
    words = [] if checked else [Word.unpacked(word) for word in kept]
    half = max(1, len(words) / 2)
    return {
        "unsure": unsure_spans(words, text) if words else [],
        "voice_unsure": sum(word.doubt for word in words) >= half,
        "overlap": sum(word.overlap for word in words) >= half,
    }


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


class EditIn(Schema):
    text: str = Field(max_length=4000)
    before: str = Field(max_length=8000)


class GiveIn(Schema):
    turns: list[int] = Field(min_length=1, max_length=5000)
    name: str = Field(max_length=120)


class SplitIn(Schema):
    line: int
    word: int = Field(0, ge=0)
    name: str = Field("", max_length=120)


class JoinIn(Schema):
    turn: int


class MergeIn(Schema):
    into: int


class ReplaceIn(Schema):
    text: str = Field(max_length=200)
    by: str = Field("", max_length=200)
    whole_words: bool = True
    match_case: bool = False
    places: list[tuple[int, int]] | None = None


class ChangedLineOut(Schema):
    line: int
    before: str
    after: str


class EditOut(Schema):
    number: int
    kind: str
    at: datetime
    by: str | None
    undone: bool
    lines: list[ChangedLineOut]
    turns: int


class FoundOut(Schema):
    line: int
    start: float
    text: str
    at: list[tuple[int, int]]


class HistoryOut(Schema):
    edits: list[EditOut]
    undo: bool
    redo: bool


def _edit(edit: Edit) -> dict:
    changed = [step for step in edit.steps if step["step"] == "line"]
    return {
        "number": edit.number,
        "kind": edit.kind,
        "at": edit.at,
        "by": edit.user and (edit.user.name or edit.user.email),
        "undone": edit.undone_at is not None,
        "lines": [{"line": step["line"], "before": step["from"][0], "after": step["to"][0]} for step in changed[:20]],
        "turns": sum(step["step"] == "voice" for step in edit.steps),
    }


@router.get("/{meeting_id}/edits", response=HistoryOut)
def edits(request: HttpRequest, meeting_id: UUID):
    """Who changed what in the record and when, the latest first; can the last be taken back, can one be made again."""
    _, found = seen(request, meeting_id)
    return {
        "edits": [_edit(edit) for edit in found.edits.select_related("user")[:100]],
        "undo": found.edits.filter(undone_at=None).exists(),
        "redo": found.edits.filter(undone_at__isnull=False, dropped=False).exists(),
    }


@router.put("/{meeting_id}/lines/{number}", response=EditOut)
def change_text(request: HttpRequest, meeting_id: UUID, number: int, payload: EditIn):
    """Put another text in a line's place; words that stay keep their times."""
    return _edit(edit_record.edit_line(*seen(request, meeting_id), number, payload.text, payload.before))


@router.post("/{meeting_id}/turns/give", response=EditOut)
def give(request: HttpRequest, meeting_id: UUID, payload: GiveIn):
    """Say who said some turns: a person, or a voice by its label."""
    return _edit(edit_record.give_turns(*seen(request, meeting_id), payload.turns, payload.name))


@router.post("/{meeting_id}/turns/split", response=EditOut)
def split(request: HttpRequest, meeting_id: UUID, payload: SplitIn):
    """Begin another turn at a word of a line."""
    return _edit(edit_record.split_turn(*seen(request, meeting_id), payload.line, payload.word, payload.name))


@router.post("/{meeting_id}/turns/join", response=EditOut)
def join(request: HttpRequest, meeting_id: UUID, payload: JoinIn):
    """Make one turn of a turn and the one after it."""
    return _edit(edit_record.join_turns(*seen(request, meeting_id), payload.turn))


@router.post("/{meeting_id}/voices/{voice_id}/merge", response=EditOut)
def merge(request: HttpRequest, meeting_id: UUID, voice_id: int, payload: MergeIn):
    """Two voices are one."""
    membership, found = seen(request, meeting_id)
    voices = {voice.pk: voice for voice in found.voices.select_related("person")}
    if voice_id not in voices or payload.into not in voices:
        raise Refused(404, "There is no such voice in this meeting.")
    return _edit(edit_record.merge_voices(membership, found, voices[voice_id], voices[payload.into]))


@router.get("/{meeting_id}/find", response=list[FoundOut])
def find(request: HttpRequest, meeting_id: UUID, text: str, whole_words: bool = True, match_case: bool = False):
    """Where a text stands in the record, line by line, with the characters at which it begins and ends."""
    _, found = seen(request, meeting_id)
    return [
        {"line": line.number, "start": line.start, "text": line.text, "at": [(hit.start, hit.end) for hit in hits]}
        for line, hits in edit_record.find_in_record(found, text, whole_words, match_case)
    ]


@router.post("/{meeting_id}/replace", response=EditOut)
def replace(request: HttpRequest, meeting_id: UUID, payload: ReplaceIn):
    """Replace a text everywhere, or at chosen places (number of a line, character)."""
    membership, found = seen(request, meeting_id)
    places = payload.places
    return _edit(edit_record.replace_text(membership, found, payload.text, payload.by, payload.whole_words, payload.match_case, places))


@router.post("/{meeting_id}/edits/undo", response=EditOut)
def undo(request: HttpRequest, meeting_id: UUID):
    """Take the last edit back."""
    return _edit(edit_record.undo(*seen(request, meeting_id)))


@router.post("/{meeting_id}/edits/redo", response=EditOut)
def redo(request: HttpRequest, meeting_id: UUID):
    """Make the edit again that was taken back last."""
    return _edit(edit_record.redo(*seen(request, meeting_id)))


@router.post("/{meeting_id}/voices/{voice_id}/name", response=VoiceOut)
def name(request: HttpRequest, meeting_id: UUID, voice_id: int, payload: NameIn):
    """Whose voice it is; an empty name takes it back."""
    membership, found = seen(request, meeting_id)
    voice = Voice.objects.filter(pk=voice_id, meeting=found).select_related("meeting", "person").first()
    if voice is None:
        raise Refused(404, "There is no such voice in this meeting.")
    voice = name_voice(membership, voice, payload.name)
    return voice_out(voice)


@router.get("/{meeting_id}/voices/proposals", response=list[ProposalOut])
def proposals(request: HttpRequest, meeting_id: UUID):
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
def remember(request: HttpRequest, meeting_id: UUID, voice_id: int, payload: RememberIn):
    """Keep what a named voice sounds like, with the person's consent."""
    membership, found = seen(request, meeting_id)
    voice = Voice.objects.filter(pk=voice_id, meeting=found).select_related("meeting", "person").first()
    if voice is None:
        raise Refused(404, "There is no such voice in this meeting.")
    remember_voice(membership, voice, payload.consent)
    return 204, None


@known_router.get("", response=list[KnownVoiceOut])
def known(request: HttpRequest):
    """The voices this workspace knows: whose, since when, and who noted the consent. What they sound like is not told."""
    workspace = membership_of(request).workspace
    kept = KnownVoice.objects.filter(person__workspace=workspace).select_related("person", "consent_noted_by").order_by("person__name")
    return [
        {
            "id": one.pk,
            "name": one.person.name,
            "meeting": one.meeting_id,
            "at": one.at,
            "noted_by": one.consent_noted_by and (one.consent_noted_by.name or one.consent_noted_by.email),
        }
        for one in kept
    ]


@known_router.delete("/{known_id}", response={204: None})
def forget(request: HttpRequest, known_id: int):
    """Forget a voice, for good."""
    membership = membership_of(request)
    one = KnownVoice.objects.filter(pk=known_id, person__workspace=membership.workspace).select_related("person").first()
    if one is None:
        raise Refused(404, "There is no such known voice.")
    forget_voice(membership, one)
    return 204, None

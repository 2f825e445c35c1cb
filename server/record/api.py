"""The record of a meeting: to read, to take away, and whose voices are in it."""

from __future__ import annotations

from uuid import UUID

from django.http import HttpRequest, HttpResponse, JsonResponse
from ninja import Router, Schema
from pydantic import Field

from core.formats import json_record, subrip, webvtt_record
from server.accounts.current import signed_in
from server.audit.log import log
from server.meetings.seen import seen
from server.problems import Refused
from server.record.actions.name_voice import name_voice
from server.record.keep import load_record
from server.record.models import Line, Voice

router = Router(tags=["record"], auth=signed_in)


class VoiceOut(Schema):
    id: int
    label: str
    name: str
    named: bool


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


class NameIn(Schema):
    name: str = Field(max_length=120)


def voice_out(voice: Voice) -> dict:
    """A voice as the API tells it."""
    return {"id": voice.pk, "label": voice.label, "name": voice.name, "named": voice.person_id is not None}


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


@router.post("/{meeting_id}/voices/{voice_id}/name", response=VoiceOut)
def name(request: HttpRequest, meeting_id: UUID, voice_id: int, payload: NameIn):
    """Whose voice it is; an empty name takes it back."""
    membership, found = seen(request, meeting_id)
    voice = Voice.objects.filter(pk=voice_id, meeting=found).select_related("meeting", "person").first()
    if voice is None:
        raise Refused(404, "There is no such voice in this meeting.")
    voice = name_voice(membership, voice, payload.name)
    return voice_out(voice)

"""Changes of a record by hand: made, found, taken back, made again, looked through."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from server.accounts.current import signed_in
from server.answers import Answer
from server.bounds import Name, Number, Short
from server.convening.seen import seen
from server.problems import Refused
from server.record.actions import edit_record
from server.record.models import Edit

router = Router(tags=["record"], auth=signed_in)


class EditIn(Schema):
    text: str = Field(max_length=4000)
    before: str = Field(max_length=8000)


class GiveIn(Schema):
    turns: list[Number] = Field(min_length=1, max_length=5000)
    name: Name


class SplitIn(Schema):
    line: Number
    word: Number = 0
    name: Name = ""


class JoinIn(Schema):
    turn: Number


class MergeIn(Schema):
    into: Number


class ReplaceIn(Schema):
    text: str = Field(max_length=200)
    by: str = Field("", max_length=200)
    whole_words: bool = True
    match_case: bool = False
    places: list[tuple[Number, Number]] | None = Field(None, max_length=20_000)


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
        "by": edit.user and edit.user.called,
        "undone": edit.undone_at is not None,
        "lines": [{"line": step["line"], "before": step["from"][0], "after": step["to"][0]} for step in changed[:20]],
        "turns": sum(step["step"] == "voice" for step in edit.steps),
    }


@router.get("/{meeting_id}/edits", response=HistoryOut)
def edits(request: HttpRequest, meeting_id: UUID) -> Answer:
    """Who changed what in the record and when, the latest first; can the last be taken back, can one be made again."""
    _, found = seen(request, meeting_id)
    return {
        "edits": [_edit(edit) for edit in found.edits.select_related("user")[:100]],
        "undo": found.edits.filter(undone_at=None).exists(),
        "redo": found.edits.filter(undone_at__isnull=False, dropped=False).exists(),
    }


@router.put("/{meeting_id}/lines/{number}", response=EditOut)
def change_text(request: HttpRequest, meeting_id: UUID, number: int, payload: EditIn) -> Answer:
    """Put another text in a line's place; words that stay keep their times."""
    return _edit(edit_record.edit_line(*seen(request, meeting_id), number, payload.text, payload.before))


@router.post("/{meeting_id}/turns/give", response=EditOut)
def give(request: HttpRequest, meeting_id: UUID, payload: GiveIn) -> Answer:
    """Say who said some turns: a person, or a voice by its label."""
    return _edit(edit_record.give_turns(*seen(request, meeting_id), payload.turns, payload.name))


@router.post("/{meeting_id}/turns/split", response=EditOut)
def split(request: HttpRequest, meeting_id: UUID, payload: SplitIn) -> Answer:
    """Begin another turn at a word of a line."""
    return _edit(edit_record.split_turn(*seen(request, meeting_id), payload.line, payload.word, payload.name))


@router.post("/{meeting_id}/turns/join", response=EditOut)
def join(request: HttpRequest, meeting_id: UUID, payload: JoinIn) -> Answer:
    """Make one turn of a turn and the one after it."""
    return _edit(edit_record.join_turns(*seen(request, meeting_id), payload.turn))


@router.post("/{meeting_id}/voices/{voice_id}/merge", response=EditOut)
def merge(request: HttpRequest, meeting_id: UUID, voice_id: int, payload: MergeIn) -> Answer:
    """Two voices are one."""
    membership, found = seen(request, meeting_id)
    voices = {voice.pk: voice for voice in found.voices.select_related("person")}
    if voice_id not in voices or payload.into not in voices:
        raise Refused(404, "There is no such voice in this meeting.")
    return _edit(edit_record.merge_voices(membership, found, voices[voice_id], voices[payload.into]))


@router.get("/{meeting_id}/find", response=list[FoundOut])
def find(request: HttpRequest, meeting_id: UUID, text: Short, whole_words: bool = True, match_case: bool = False) -> Answer:
    """Where a text stands in the record, line by line, with the characters at which it begins and ends."""
    _, found = seen(request, meeting_id)
    return [
        {"line": line.number, "start": line.start, "text": line.text, "at": [(hit.start, hit.end) for hit in hits]}
        for line, hits in edit_record.find_in_record(found, text, whole_words, match_case)
    ]


@router.post("/{meeting_id}/replace", response=EditOut)
def replace(request: HttpRequest, meeting_id: UUID, payload: ReplaceIn) -> Answer:
    """Replace a text everywhere, or at chosen places (number of a line, character)."""
    membership, found = seen(request, meeting_id)
    places = payload.places
    return _edit(edit_record.replace_text(membership, found, payload.text, payload.by, payload.whole_words, payload.match_case, places))


@router.post("/{meeting_id}/edits/undo", response=EditOut)
def undo(request: HttpRequest, meeting_id: UUID) -> Answer:
    """Take the last edit back."""
    return _edit(edit_record.undo(*seen(request, meeting_id)))


@router.post("/{meeting_id}/edits/redo", response=EditOut)
def redo(request: HttpRequest, meeting_id: UUID) -> Answer:
    """Make the edit again that was taken back last."""
    return _edit(edit_record.redo(*seen(request, meeting_id)))

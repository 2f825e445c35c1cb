"""Meanwhile: notes, marks, jotted actions, and the gist of the last minutes for someone who lost the thread."""

from __future__ import annotations

from typing import TypeVar
from uuid import UUID

from django.db.models import Q
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from core.minutes.notes import beside
from core.reading import read
from core.reading.base import Said, all_said
from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership
from server.answers import Answer
from server.bounds import Day, Name, Number, Seconds
from server.convening.seen import seen
from server.notes.actions.write_note import change_note, jot_action, remove_mark, set_mark, write_note
from server.notes.models import Mark, Note
from server.pipeline.ear import encoder
from server.problems import Refused
from server.record.keep import load_record
from server.record.live import live_record, live_turns
from server.sharing.visibility import visible_meetings

router = Router(tags=["notes"], auth=signed_in)
"""As part of a meeting."""
one_router = Router(tags=["notes"], auth=signed_in)
"""A note, a mark by themselves."""


class BesideOut(Schema):
    number: int
    speaker: str
    text: str
    start: float


class DiffersOut(Schema):
    note: str
    record: str


class NoteOut(Schema):
    id: int
    text: str
    at: float | None
    shared: bool
    mine: bool
    by: str
    initials: str
    beside: list[BesideOut]
    adds: list[str]
    differs: list[DiffersOut]


class MarkOut(Schema):
    id: int
    kind: str
    start: float
    end: float
    by: str | None


class NotesOut(Schema):
    notes: list[NoteOut]
    marks: list[MarkOut]
    kinds: list[str]


class NoteIn(Schema):
    text: str = Field(max_length=4000)
    at: Seconds | None = None
    shared: bool = False


class NotePatch(Schema):
    text: str | None = Field(None, max_length=4000)
    shared: bool | None = None
    removed: bool | None = None


class MarkIn(Schema):
    kind: Name
    start: Seconds
    end: Seconds


class RemovedIn(Schema):
    removed: bool


class JotIn(Schema):
    text: str = Field(max_length=1000)
    owner: Name = ""
    due: Day | None = None
    at: Seconds = 0.0
    lines: list[Number] = Field([], max_length=200)


class MadeOut(Schema):
    id: int


class GistLineOut(Schema):
    text: str
    start: float


class LatelyOut(Schema):
    since: float
    lines: list[GistLineOut]


@router.get("/{meeting_id}/notes", response=NotesOut)
def notes(request: HttpRequest, meeting_id: UUID) -> Answer:
    """My notes, the shared ones, and the marks, each with its time; beside a note the lines it refers to, what they add, and where they differ."""
    _, found = seen(request, meeting_id)
    said = all_said(load_record(found)) if found.notes.exists() else []
    mine_or_shared = Note.objects.filter(Q(user=request.user) | Q(shared=True), meeting=found, removed_at=None).select_related("user")
    return {
        "notes": [
            {
                "id": note.pk,
                "text": note.text,
                "at": note.at,
                "shared": note.shared,
                "mine": note.user_id == request.user.pk,
                "by": note.user.called,
                "initials": note.user.initials,
                **_beside(note, said),
            }
            for note in mine_or_shared
        ],
        "marks": [
            {
                "id": mark.pk,
                "kind": mark.kind,
                "start": mark.start,
                "end": mark.end,
                "by": mark.user and mark.user.called,
            }
            for mark in Mark.objects.filter(meeting=found, removed_at=None).select_related("user")
        ],
        "kinds": found.workspace.mark_kinds,
    }


def _beside(note: Note, said: list[Said]) -> dict:
    found = beside(note.text, note.at, said)
    lines = [{"number": one.index + 1, "speaker": one.speaker, "text": one.text, "start": one.line.start} for one in found.lines]
    return {"beside": lines, "adds": list(found.adds), "differs": [{"note": mine, "record": theirs} for mine, theirs in found.differs]}


@router.post("/{meeting_id}/notes", response={201: MadeOut})
def write(request: HttpRequest, meeting_id: UUID, payload: NoteIn) -> Answer:
    """Write a note: private until shared."""
    return 201, write_note(*seen(request, meeting_id), payload.text, payload.at, payload.shared)


@router.post("/{meeting_id}/marks", response={201: MadeOut})
def mark(request: HttpRequest, meeting_id: UUID, payload: MarkIn) -> Answer:
    """Flag a passage."""
    return 201, set_mark(*seen(request, meeting_id), payload.kind, payload.start, payload.end)


@router.post("/{meeting_id}/actions", response={201: MadeOut})
def jot(request: HttpRequest, meeting_id: UUID, payload: JotIn) -> Answer:
    """Jot down an action, with owner and date."""
    return 201, jot_action(*seen(request, meeting_id), payload.text, payload.owner, payload.due, payload.at, payload.lines)


@router.get("/{meeting_id}/lately", response=LatelyOut)
def lately(request: HttpRequest, meeting_id: UUID, minutes: Seconds = 5.0) -> Answer:
    """The gist of the last minutes of the live record, each sentence with the time of the line it rests on; 0 minutes means from the beginning."""
    _, found = seen(request, meeting_id)
    if not hasattr(found, "capture"):
        raise Refused(404, "This meeting is not being captured here. Read its minutes.")
    last = found.capture.lines.filter(settled=True).order_by("-end").values_list("end", flat=True).first() or 0.0
    since = max(0.0, last - minutes * 60) if minutes > 0 else 0.0
    record = live_record(found, since)
    reading = read(record, encoder(), turns=live_turns(found, record), brief=True)
    stated = [finding for finding in reading.findings if finding.kind in ("decision", "action") and finding.status == "standing"]
    said = [(sentence.text, sentence.said[0].line.start) for sentence in reading.gist]
    said += [(finding.text, finding.start) for finding in stated if finding.text not in {text for text, _ in said}]
    return {"since": since, "lines": [{"text": text, "start": start} for text, start in sorted(said, key=lambda one: one[1])]}


Row = TypeVar("Row", Note, Mark)


def _own(request: HttpRequest, model: type[Row], key: int) -> tuple[Membership, Row]:
    membership = membership_of(request)
    found = model.objects.select_related("meeting").filter(pk=key, meeting__in=visible_meetings(membership)).first()
    if found is None or isinstance(found, Note) and not found.shared and found.user_id != request.user.pk:
        raise Refused(404, "There is no such note or mark.")
    return membership, found


@one_router.patch("/{note_id}", response=MadeOut)
def reword(request: HttpRequest, note_id: int, payload: NotePatch) -> Answer:
    """Reword, share, remove or put back a note of mine."""
    return change_note(*_own(request, Note, note_id), payload.text, payload.shared, payload.removed)


@one_router.patch("/marks/{mark_id}", response={204: None})
def unmark(request: HttpRequest, mark_id: int, payload: RemovedIn) -> Answer:
    """Take a mark off, or put it back."""
    remove_mark(*_own(request, Mark, mark_id), payload.removed)
    return 204, None

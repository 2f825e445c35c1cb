"""The ledger."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal
from uuid import UUID
from zoneinfo import ZoneInfo

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Query, Router, Schema

from core.ledger.matter import subject_of
from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership
from server.answers import Answer
from server.bounds import Day, Number, Short
from server.convening.api import Zoned, ZoneIn
from server.convening.seen import seen
from server.document import forms
from server.ledger.actions.judge_step import join, judge, part, tick_off
from server.ledger.models import MatterKind, Step, StepKind, StepState
from server.ledger.outward import FORMATS, written
from server.ledger.queries import Entry, View, Wanted, carried_into, entry_of, ledger, step_of, worded
from server.sharing.policy import Can, rights_of

router = Router(tags=["ledger"], auth=signed_in)
meeting_router = Router(tags=["ledger"], auth=signed_in)
"""Of a meeting."""


class LedgerIn(Zoned):
    """person: whose actions. since: for what was changed. time_zone: the asker's, for what is overdue."""

    time_zone: str = Query("UTC", max_length=64)
    view: View = View.OPEN
    mine: bool = False
    nobody: bool = False
    person: Number | None = None
    series: Number | None = None
    words: Short = ""
    since: Day | None = None

    def read(self) -> Wanted:
        """As the ledger takes it."""
        today = timezone.now().astimezone(ZoneInfo(self.time_zone)).date()
        return Wanted(self.view, today, self.mine, self.nobody, self.person, self.series, self.words.strip(), self.since)


class QuoteOut(Schema):
    """A line that a step rests on. line: its number in the record."""

    line: int
    start: float
    who: str
    text: str


class LedgerStepOut(Schema):
    """settles: its finding says how the matter stands, so that it can be a matter of its own."""

    id: int
    kind: StepKind
    state: StepState
    by: str
    meeting: UUID
    title: str
    started_at: datetime
    text: str
    settles: bool
    quotes: list[QuoteOut]


class LedgerMatterOut(Schema):
    """A matter, as its last meeting left it. finding: the key by which it is ticked, given and dated. closed: how it ended. can: what I can do in the meeting it is of. asked: the step that
    waits for somebody to say whether it is done, or dropped, by it."""

    id: int
    kind: MatterKind
    subject: str
    text: str
    finding: int
    meeting: UUID
    series: str
    owner: str | None
    mine: bool
    due: date | None
    closed: Literal["done", "dropped"] | None
    asked: int | None
    can: list[Can]
    steps: list[LedgerStepOut]


class LedgerOut(Schema):
    matters: list[LedgerMatterOut]
    next: str | None


class JudgeStepIn(Schema):
    """was: what was seen there."""

    was: StepState
    now: StepState


class TickOffIn(Schema):
    """now: how it ended; null where it has not after all."""

    now: Literal["done", "dropped"] | None


class JoinMatterIn(Schema):
    matter: Number


def step_out(step: Step) -> dict:
    """A step as the API gives it."""
    lines = sorted(step.lines.all(), key=lambda line: line.number)
    return {
        "id": step.pk,
        "kind": step.kind,
        "state": step.state,
        "by": step.judged_by.called if step.judged_by else "",
        "meeting": step.meeting_id,
        "title": step.meeting.title,
        "started_at": step.meeting.started_at,
        "text": worded(step),
        "settles": step.finding_id is not None,
        "quotes": [{"line": line.number, "start": line.start, "who": line.turn.voice.name, "text": line.text} for line in lines],
    }


def entry_out(entry: Entry, membership: Membership) -> dict:
    """A matter as the API gives it."""
    finding = entry.current.finding
    assert finding is not None  # it is by this that the step is the current one
    text = worded(entry.current)
    return {
        "id": entry.matter.pk,
        "kind": entry.matter.kind,
        "subject": subject_of(worded(next((step for step in entry.steps if step.finding), entry.current))),
        "text": text,
        "finding": finding.pk,
        "meeting": entry.current.meeting_id,
        "series": entry.current.meeting.series.name if entry.current.meeting.series else "",
        "owner": finding.owner_name or None,
        "mine": finding.owner is not None and finding.owner.user_id == membership.user_id,
        "due": finding.due,
        "closed": entry.closed,
        "asked": entry.asked.pk if entry.asked else None,
        "can": sorted(rights_of(membership, entry.current.meeting)),
        "steps": [step_out(step) for step in entry.steps],
    }


@meeting_router.get("/{meeting_id}/carried", response=list[LedgerMatterOut])
def carried(request: HttpRequest, meeting_id: UUID, zone: Query[ZoneIn]) -> Answer:
    """What the earlier meetings of its series have left open, as far as I see them, with what has been ticked off in this one."""
    membership, found = seen(request, meeting_id)
    today = timezone.now().astimezone(ZoneInfo(zone.time_zone)).date()
    return [entry_out(entry, membership) for entry in carried_into(membership, found, today)]


@meeting_router.post("/{meeting_id}/carried/{matter_id}", response=LedgerMatterOut)
def tick_off_matter(request: HttpRequest, meeting_id: UUID, matter_id: Number, payload: TickOffIn) -> Answer:
    """While the meeting runs: it is done, or given up, now; or not after all."""
    membership, found = seen(request, meeting_id)
    entry = entry_of(membership, matter_id)
    tick_off(membership, found, entry.matter, StepKind(payload.now) if payload.now else None)
    return entry_out(entry_of(membership, matter_id), membership)


@router.get("/ledger", response=LedgerOut)
def matters(request: HttpRequest, wanted: Query[LedgerIn], cursor: Short = "") -> Answer:
    """A page of decisions and actions across the meetings that I may see, with what became of them."""
    membership = membership_of(request)
    found, following = ledger(membership, wanted.read(), cursor)
    return {"matters": [entry_out(entry, membership) for entry in found], "next": following}


@router.get("/ledger/out/{form}", response={200: None}, openapi_extra=forms(FORMATS.values()))
def ledger_out(request: HttpRequest, form: Literal["csv", "md", "ics"], wanted: Query[LedgerIn]) -> HttpResponse:
    """The same as a file: a table, a text, or tasks for a calendar (RFC 5545)."""
    membership = membership_of(request)
    answer = HttpResponse(written(form, membership, wanted.read()), content_type=FORMATS[form])
    answer["Content-Disposition"] = f'attachment; filename="ledger.{form}"'
    return answer


@router.get("/ledger/{matter_id}", response=LedgerMatterOut)
def matter(request: HttpRequest, matter_id: Number) -> Answer:
    """One matter, as far as I see it."""
    membership = membership_of(request)
    return entry_out(entry_of(membership, matter_id), membership)


@router.post("/ledger/steps/{step_id}", response=LedgerMatterOut)
def judge_a_step(request: HttpRequest, step_id: Number, payload: JudgeStepIn) -> Answer:
    """Say that it is right, or wrong, or take that back."""
    membership = membership_of(request)
    step = judge(membership, step_of(membership, step_id), payload.was, payload.now)
    return entry_out(entry_of(membership, step.matter_id), membership)


@router.post("/ledger/steps/{step_id}/part", response=LedgerMatterOut)
def part_a_step(request: HttpRequest, step_id: Number) -> Answer:
    """Take what is settled there as a matter of its own."""
    membership = membership_of(request)
    return entry_out(entry_of(membership, part(membership, step_of(membership, step_id)).pk), membership)


@router.post("/ledger/steps/{step_id}/join", response=LedgerMatterOut)
def join_a_step(request: HttpRequest, step_id: Number, payload: JoinMatterIn) -> Answer:
    """Take what is settled there as another matter, settled anew."""
    membership = membership_of(request)
    into = entry_of(membership, payload.matter).matter
    return entry_out(entry_of(membership, join(membership, step_of(membership, step_id), into).pk), membership)

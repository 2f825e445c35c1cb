"""The minutes of a meeting: what was drawn, what people wrote, what they say of it."""

from __future__ import annotations

from datetime import date
from uuid import UUID

from django.db.models import Prefetch
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership
from server.meetings.seen import seen
from server.minutes.actions.judge_finding import confirm, dismiss, set_done
from server.minutes.actions.write_line import add_line, correct_line, set_removed
from server.minutes.models import Finding, MinutesLine
from server.problems import Refused
from server.record.models import Line
from server.sharing.visibility import visible_meetings

router = Router(tags=["minutes"], auth=signed_in)
"""Minutes as part of a meeting."""
lines_router = Router(tags=["minutes"], auth=signed_in)
"""A line, and a finding, by themselves."""


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

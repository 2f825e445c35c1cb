"""Questions put to the library, and their answers."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID
from zoneinfo import ZoneInfo

from django.db.models import Q, QuerySet
from django.http import HttpRequest
from django.utils import timezone
from ninja import Query, Router, Schema
from pydantic import Field

from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership
from server.answers import Answer
from server.bounds import Number, Short
from server.calendars.queries import Entry
from server.convening.api import ZoneIn
from server.cursors import cut, moment_of, read_cursor
from server.library.actions.inquire import change_inquiry, inquire
from server.library.api import NarrowIn, narrow_out
from server.library.asking import Told, answer
from server.library.models import Inquiry
from server.problems import Refused
from server.sharing.policy import Can, may

router = Router(tags=["library"], auth=signed_in)
_PAGE = 20


class InquiryIn(Schema):
    """after: the question that this one goes on from; it is then put to the same part of the library."""

    text: Annotated[str, Field(max_length=400)]
    wanted: NarrowIn
    after: Number | None = None


class InquiryPatch(Schema):
    shared: bool | None = None
    removed: bool | None = None


class InquiryOut(Schema):
    """by: who asked. wanted: the part of the library it is put to."""

    id: int
    text: str
    wanted: NarrowIn
    after: int | None
    shared: bool
    mine: bool
    by: str
    asked_at: datetime


class InquiriesOut(Schema):
    rows: list[InquiryOut]
    next: str | None


class AnsweredLineOut(Schema):
    meeting: UUID
    title: str
    started_at: datetime
    speaker: str
    text: str
    start: float
    lines: list[int]


class AnsweredDayOut(Schema):
    """A meeting that is planned, was held, or both. people: who was there."""

    title: str
    start: datetime
    end: datetime
    all_day: bool
    meeting: UUID | None
    planned: int | None
    people: list[str]


class InquiryAnswerOut(Schema):
    """asks: for lines, for what is on days, for what was missed on them. course: in the order in which it was said, else the best first. times,
    meetings: how often, in how many of them, where that was asked. Nothing at all: no meeting says."""

    asks: Literal["lines", "on", "missed"]
    course: bool
    opening: str
    times: int | None
    meetings: int
    lines: list[AnsweredLineOut]
    days: list[AnsweredDayOut]


def _asked(membership: Membership) -> QuerySet[Inquiry]:
    """Mine, and what colleagues share, which guests do not see."""
    rule = Q(membership=membership.pk)
    if may(membership, Can.SEE_SHARED):
        rule |= Q(shared=True)
    return Inquiry.objects.filter(rule, membership__workspace=membership.workspace_id).select_related("membership__user", "after__after__after__after")


def _one(request: HttpRequest, inquiry_id: int) -> tuple[Membership, Inquiry]:
    membership = membership_of(request)
    inquiry = _asked(membership).filter(pk=inquiry_id).first()
    if inquiry is None:
        raise Refused(404, "There is no such question.")
    return membership, inquiry


def _out(membership: Membership, inquiry: Inquiry) -> dict:
    return {
        "id": inquiry.pk,
        "text": inquiry.text,
        "wanted": narrow_out(inquiry.wanted),
        "after": inquiry.after_id,
        "shared": inquiry.shared,
        "mine": inquiry.membership_id == membership.pk,
        "by": inquiry.membership.user.called,
        "asked_at": inquiry.asked_at,
    }


@router.get("", response=InquiriesOut)
def inquiries(request: HttpRequest, cursor: Short = "") -> Answer:
    """My questions to the library and those that are shared, the latest first."""
    membership = membership_of(request)
    asked = _asked(membership).filter(removed_at=None).order_by("-asked_at", "-pk")
    if cursor:
        moment, key = read_cursor(cursor, moment_of, int, "questions")
        asked = asked.filter(Q(asked_at__lt=moment) | Q(asked_at=moment, pk__lt=key))
    rows, following = cut(asked, _PAGE, "asked_at")
    return {"rows": [_out(membership, one) for one in rows], "next": following}


@router.post("", response={201: InquiryOut})
def put_inquiry(request: HttpRequest, payload: InquiryIn) -> Answer:
    """Ask all that I may see, or the part of it that is wanted."""
    membership = membership_of(request)
    before = _asked(membership).filter(pk=payload.after, removed_at=None).first() if payload.after else None
    return 201, _out(membership, inquire(membership, payload.text, payload.wanted.read(), before))


@router.get("/{inquiry_id}/answer", response=InquiryAnswerOut)
def inquiry_answer(request: HttpRequest, inquiry_id: Number, zone: Query[ZoneIn]) -> Answer:
    """Found anew, in what I may see: lines of meetings, each with which and when."""
    return _answered(answer(*_one(request, inquiry_id), timezone.now(), ZoneInfo(zone.time_zone)))


@router.patch("/{inquiry_id}", response={204: None})
def patch_inquiry(request: HttpRequest, inquiry_id: Number, payload: InquiryPatch) -> Answer:
    """Share a question of mine, or not any more; remove it, or put it back."""
    membership, inquiry = _one(request, inquiry_id)
    change_inquiry(membership, inquiry, payload.shared, payload.removed)
    return 204, None


def _answered(told: Told) -> dict:
    return {
        "asks": told.asks,
        "course": told.course,
        "times": told.times,
        "meetings": told.meetings,
        "opening": told.opening,
        "lines": [
            {
                "meeting": one.meeting.pk,
                "title": one.meeting.title,
                "started_at": one.meeting.started_at,
                "speaker": one.speaker,
                "text": one.text,
                "start": one.start,
                "lines": one.lines,
            }
            for one in told.cited
        ],
        "days": [_day(entry) for entry in told.days],
    }


def _day(entry: Entry) -> dict:
    planned, meeting = entry.planned, entry.meeting
    return {
        "title": meeting.title if meeting else planned.title if planned else "",
        "start": entry.start,
        "end": entry.end,
        "all_day": bool(planned and planned.all_day),
        "meeting": meeting and meeting.pk,
        "planned": planned and planned.pk,
        "people": [person.name for person in meeting.people.all()] if meeting else [],
    }

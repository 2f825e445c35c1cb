"""What is new, on Today, and how one hears of it by mail."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated
from uuid import UUID
from zoneinfo import ZoneInfo

from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Schema
from pydantic import Field

from server.accounts.current import membership_of, signed_in
from server.answers import Answer
from server.convening.api import Zoned
from server.library.actions.wish_digest import look_at_news, wish_digest
from server.library.models import Digest, Often
from server.library.news import news, since_of
from server.library.queries import first_line
from server.minutes.models import Finding

router = Router(tags=["library"], auth=signed_in)


class DigestIn(Zoned):
    """hour: of the time zone. weekday: 0 is Monday; of a digest that comes every week."""

    often: Often
    hour: Annotated[int, Field(ge=0, le=23)] = 8
    weekday: Annotated[int, Field(ge=0, le=6)] = 0
    time_zone: str = Field("UTC", max_length=64)


class NewMeetingOut(Schema):
    id: UUID
    title: str
    started_at: datetime


class NewFindingOut(Schema):
    text: str
    due: date | None
    meeting: UUID
    title: str
    line: int


class MissedOut(NewMeetingOut):
    """gist: its first sentences. named: in how many places my name was said."""

    gist: list[str]
    named: int


class NewsOut(Schema):
    """since: when I last said that I had seen what was new, or a fortnight ago."""

    since: datetime
    meetings: list[NewMeetingOut]
    decisions: list[NewFindingOut]
    given: list[NewFindingOut]
    missed: list[MissedOut]


@router.get("/news", response=NewsOut)
def what_is_new(request: HttpRequest) -> Answer:
    """What became readable since I last looked: meetings, what they decided and gave me to do, and what I missed."""
    membership, now = membership_of(request), timezone.now()
    found = news(membership, since_of(membership, now), now, ZoneInfo("UTC"))
    return {
        "since": found.since,
        "meetings": found.meetings,
        "decisions": [_finding(*one) for one in found.decisions],
        "given": [_finding(*one) for one in found.given],
        "missed": [
            {"id": one.meeting.pk, "title": one.meeting.title, "started_at": one.meeting.started_at, "gist": one.gist, "named": one.named} for one in found.missed
        ],
    }


@router.post("/news/seen", response={204: None})
def seen_news(request: HttpRequest) -> Answer:
    """I have seen it: what comes after now is new."""
    look_at_news(membership_of(request))
    return 204, None


@router.get("/digest", response=DigestIn)
def digest(request: HttpRequest) -> Answer:
    """How I hear of it by mail."""
    membership = membership_of(request)
    return Digest.objects.filter(membership=membership).first() or Digest(membership=membership)


@router.put("/digest", response=DigestIn)
def put_digest(request: HttpRequest, payload: DigestIn) -> Answer:
    """Say how I want to hear of it by mail."""
    return wish_digest(membership_of(request), payload.often, payload.hour, payload.weekday, payload.time_zone)


def _finding(finding: Finding, text: str) -> dict:
    return {"text": text, "due": finding.due, "meeting": finding.meeting_id, "title": finding.meeting.title, "line": first_line(finding)}

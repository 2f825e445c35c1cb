"""What becomes of minutes: files, a mail, a memo."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import Field

from core.formats.drawing import to_png, to_svg
from core.formats.talk_map import PAGE
from core.formats.writers import MEDIA_TYPES
from core.minutes.memo import heading_of, memo
from core.reading.base import all_said
from core.reading.passages import SUBJECTS
from server.accounts.current import signed_in
from server.answers import Answer
from server.audit.log import log
from server.bounds import Number, Short
from server.convening.seen import seen
from server.document import forms
from server.languages import alongside, translated
from server.meetings.attachment import attachment
from server.minutes.actions import send_mail
from server.minutes.export import FORMS, map_drawn, minutes_file
from server.minutes.queries import load_reading
from server.problems import Refused
from server.record.keep import load_record

router = Router(tags=["minutes"], auth=signed_in)
"""Of a meeting."""
kinds_router = Router(tags=["minutes"], auth=signed_in)
"""Of all."""


@router.get("/{meeting_id}/minutes.{form}", response={200: None}, openapi_extra=forms(MEDIA_TYPES[form] for form in FORMS))
def minutes_export(request: HttpRequest, meeting_id: UUID, form: str) -> Answer:
    """The minutes as md, txt, docx, pdf or html, as they stand now."""
    membership, found = seen(request, meeting_id)
    if form not in FORMS:
        raise Refused(404, f"Minutes come as {', '.join(FORMS)}.")
    data = minutes_file(found, form)
    log(membership.workspace, membership.user, "download minutes", found, form=form)
    return HttpResponse(data, content_type=MEDIA_TYPES[form], headers=attachment(found, "minutes", form))


class StrokeOut(Schema):
    """A line through points, filled where it has no width; `at`: the second of the record it stands for."""

    points: list[list[float]]
    colour: str
    width: float
    dashed: bool
    at: float | None


class MapWordsOut(Schema):
    x: float
    y: float
    text: str
    face: str
    size: float
    colour: str
    at: float | None


class MapOut(Schema):
    """width, height: in points. told: the same in words."""

    width: float
    height: float
    strokes: list[StrokeOut]
    words: list[MapWordsOut]
    told: str


_MAPS = {"svg": "image/svg+xml", "png": "image/png"}
NARROWEST = 240.0


@router.get("/{meeting_id}/map", response=MapOut)
def talk_map(request: HttpRequest, meeting_id: UUID, width: Annotated[float, Query(ge=NARROWEST, le=2000)] = PAGE[0]) -> Answer:
    """The map of the talk, so wide, to be drawn and pressed."""
    _, found = seen(request, meeting_id)
    return map_drawn(found, load_record(found), width, None)


@router.get("/{meeting_id}/map.{form}", response={200: None}, openapi_extra=forms(_MAPS.values()))
def map_export(request: HttpRequest, meeting_id: UUID, form: str) -> Answer:
    """The map of the talk as svg or png, a page."""
    membership, found = seen(request, meeting_id)
    if form not in _MAPS:
        raise Refused(404, f"The map comes as {', '.join(_MAPS)}.")
    with alongside(found.language):
        drawing = map_drawn(found, load_record(found))
    data = to_svg(drawing).encode() if form == "svg" else to_png(drawing, settings.FONTS)
    log(membership.workspace, membership.user, "download map", found, form=form)
    return HttpResponse(data, content_type=_MAPS[form], headers=attachment(found, "map", form))


class DraftIn(Schema):
    lines: list[Number] = Field(max_length=2000)
    people: list[Number] = Field([], max_length=200)
    tone: str = "friendly"


class MailOut(Schema):
    subject: str
    body: str


class MailIn(Schema):
    people: list[Number] = Field(max_length=200)
    subject: str = Field(max_length=300)
    body: str = Field(max_length=20_000)


class SentOut(Schema):
    to: list[str]


@router.post("/{meeting_id}/mail/draft", response=MailOut)
def draft_mail(request: HttpRequest, meeting_id: UUID, payload: DraftIn) -> Answer:
    """Draft a mail of chosen lines of the minutes; nothing is sent."""
    return send_mail.draft(*seen(request, meeting_id), payload.lines, payload.people, payload.tone)


@router.post("/{meeting_id}/mail", response=SentOut)
def mail(request: HttpRequest, meeting_id: UUID, payload: MailIn) -> Answer:
    """Send a mail as it is worded; answers go to me."""
    return {"to": send_mail.send(*seen(request, meeting_id), payload.people, payload.subject, payload.body)}


class MemoLineOut(Schema):
    text: str
    start: float
    lines: list[int]


class MemoOut(Schema):
    heading: str
    lines: list[MemoLineOut]


class KindOut(Schema):
    kind: str
    heading: str


@router.get("/{meeting_id}/memo", response=MemoOut)
def gather(request: HttpRequest, meeting_id: UUID, kind: Short = "", about: Short = "", speaker: Short = "") -> Answer:
    """All of one kind of thing across the meeting, about something, by somebody: whichever is given, with citations."""
    _, found = seen(request, meeting_id)
    record = load_record(found)
    lines = all_said(record)
    gathered = memo(record, lines, load_reading(found, record).findings, kind, about, speaker)
    return {
        "heading": " · ".join(part for part in (translated(heading_of(kind)), about, speaker) if part),
        "lines": [{"text": one.text, "start": one.said[0].line.start, "lines": [said.index + 1 for said in one.said]} for one in gathered],
    }


@kinds_router.get("/kinds", response=list[KindOut])
def kinds(request: HttpRequest) -> Answer:
    """What can be gathered in a memo, and go into a section of a template."""
    return [{"kind": kind, "heading": translated(heading_of(kind))} for kind in (*("decision", "action", "question", "date", "figure"), *SUBJECTS)]

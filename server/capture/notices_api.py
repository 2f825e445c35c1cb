"""Notice and consent: who was told that a meeting is captured and how, and what was answered."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from ninja import Router, Schema
from pydantic import Field

from server.accounts.current import anybody, signed_in
from server.answers import Answer
from server.bounds import Name
from server.capture.actions.give_notice import answer_notice, give_notice, note_consent
from server.capture.models import Capture, Consent, Notice
from server.capture.notices import SPOKEN, qr, read_out, texts_of
from server.capture.queries import CaptureState, state_of
from server.convening.seen import seen
from server.counting import counted
from server.document import answers
from server.problems import Refused

router = Router(tags=["capture"], auth=signed_in)
page_router = Router(tags=["notice"], auth=anybody)
"""The page that people in the room see: whoever has its address."""


class NoticeIn(Schema):
    how: Notice.How
    language: str = Field("", max_length=12)


class ConsentIn(Schema):
    name: Annotated[Name, Field(max_length=120)]
    agreed: bool


class NoticeOut(Schema):
    how: Notice.How
    language: str
    by: str | None
    at: datetime


class ConsentOut(Schema):
    name: str
    agreed: bool
    noted_by: str | None
    at: datetime


class NoticesOut(Schema):
    texts: dict[str, str]
    spoken: list[str]
    page: str | None
    given: list[NoticeOut]
    answers: list[ConsentOut]
    all_must_agree: bool


class PageOut(Schema):
    workspace: str
    title: str
    state: CaptureState
    texts: dict[str, str]


@router.get("/{meeting_id}/notices", response=NoticesOut)
def notices(request: HttpRequest, meeting_id: UUID) -> Answer:
    """The notice in each language, who was told and how, and what was answered."""
    _, found = seen(request, meeting_id)
    capture = getattr(found, "capture", None)
    return {
        "texts": texts_of(found.workspace),
        "spoken": list(SPOKEN),
        "page": capture and f"/notice/{capture.notice_token}",
        "given": [
            {"how": one.how, "language": one.language, "by": one.user and one.user.called, "at": one.at}
            for one in Notice.objects.filter(meeting=found).select_related("user").order_by("at")
        ],
        "answers": [
            {
                "name": one.name,
                "agreed": one.agreed,
                "noted_by": one.noted_by and one.noted_by.called,
                "at": one.at,
            }
            for one in Consent.objects.filter(meeting=found).select_related("noted_by").order_by("at", "id")
        ],
        "all_must_agree": found.workspace.consent_of_all,
    }


@router.post("/{meeting_id}/notices", response={201: None})
def notify(request: HttpRequest, meeting_id: UUID, payload: NoticeIn) -> Answer:
    """Note that people were told."""
    give_notice(*seen(request, meeting_id), payload.how, payload.language)
    return 201, None


@router.post("/{meeting_id}/consents", response={201: None})
def consent(request: HttpRequest, meeting_id: UUID, payload: ConsentIn) -> Answer:
    """Note what somebody said aloud."""
    note_consent(*seen(request, meeting_id), payload.name, payload.agreed)
    return 201, None


@router.get("/{meeting_id}/notice.wav", response={200: None}, openapi_extra=answers("audio/wav"))
def spoken(request: HttpRequest, meeting_id: UUID, language: str = "en") -> Answer:
    """The notice, read out."""
    _, found = seen(request, meeting_id)
    if language not in SPOKEN:
        raise Refused(422, f"The notice can be read out in {', '.join(SPOKEN)}. Show it in the other languages.")
    return HttpResponse(
        read_out(texts_of(found.workspace)[language]), content_type="audio/wav", headers={"Cache-Control": "private, max-age=3600"}
    )


def _noticed(token: str) -> Capture:
    found = Capture.objects.select_related("meeting__workspace").filter(notice_token=token, meeting__removed_at=None).first()
    if found is None:
        raise Refused(404, "This notice is no longer shown. Ask whoever captures the meeting.")
    return found


@page_router.get("/{token}", response=PageOut)
def page(request: HttpRequest, token: str) -> Answer:
    """What people in the room see: the notice, and whether the meeting is on the record now. Nothing of what is said."""
    get_token(request)  # with which the page may answer
    found = _noticed(token)
    return {
        "workspace": found.meeting.workspace.name,
        "title": found.meeting.title,
        "state": state_of(found),
        "texts": texts_of(found.meeting.workspace),
    }


@page_router.post("/{token}", response={201: None})
def answer(request: HttpRequest, token: str, payload: ConsentIn) -> Answer:
    """Agree or object. Open to whoever has the address while the meeting is captured; thirty answers an hour from one place."""
    found = _noticed(token)
    if found.stopped_at:
        raise Refused(409, "The capture has ended. Tell whoever made it what you would like done.")
    if counted(f"notice-{request.META.get('REMOTE_ADDR')}", 3600) > 30:
        raise Refused(429, "Too many answers from here. Tell whoever captures the meeting.")
    answer_notice(found.meeting, payload.name, payload.agreed)
    return 201, None


@page_router.get("/{token}/qr.svg", response={200: None}, openapi_extra=answers("image/svg+xml"))
def code(request: HttpRequest, token: str) -> Answer:
    """The address of the page as a QR code."""
    _noticed(token)
    return HttpResponse(qr(request.build_absolute_uri(f"/notice/{token}")), content_type="image/svg+xml")

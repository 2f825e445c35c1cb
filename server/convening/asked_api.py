"""Asking to see a meeting whose address one was given."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema

from server.accounts.current import membership_of, signed_in
from server.answers import Answer
from server.bounds import Number, Short
from server.convening.actions.ask_to_see import answer_request, ask_to_see, requests_for
from server.meetings.models import Visibility
from server.problems import Refused

router = Router(tags=["meetings"], auth=signed_in)


class AskToSeeIn(Schema):
    meeting: UUID
    words: Short = ""


class AskedToSeeOut(Schema):
    """widens: the meeting is seen by nobody by name yet; letting somebody in changes that."""

    id: int
    name: str
    email: str
    words: str
    at: datetime
    meeting: UUID
    meeting_title: str
    widens: bool


class LetInIn(Schema):
    grant: bool


@router.post("", response={204: None})
def ask(request: HttpRequest, payload: AskToSeeIn) -> Answer:
    """Ask whoever made it. The answer is the same whether there is such a meeting or not."""
    ask_to_see(membership_of(request), payload.meeting, payload.words)
    return 204, None


@router.get("", response=list[AskedToSeeOut])
def asked(request: HttpRequest) -> Answer:
    """Who asks to see a meeting that I govern."""
    found = requests_for(membership_of(request))
    return [
        {
            "id": one.pk,
            "name": one.membership.user.called,
            "email": one.membership.user.email,
            "words": one.words,
            "at": one.at,
            "meeting": one.meeting_id,
            "meeting_title": one.meeting.title,
            "widens": one.meeting.visibility in (Visibility.MINE, Visibility.SHELF),
        }
        for one in found[:100]
    ]


@router.post("/{request_id}", response={204: None})
def answer(request: HttpRequest, request_id: Number, payload: LetInIn) -> Answer:
    """Let them in, or not."""
    membership = membership_of(request)
    found = requests_for(membership).filter(pk=request_id).first()
    if found is None:
        raise Refused(404, "There is no such question, or it was answered.")
    answer_request(membership, found, grant=payload.grant)
    return 204, None

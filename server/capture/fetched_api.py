"""Files fetched from an address."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from server.accounts.current import membership_of, signed_in
from server.answers import Answer
from server.capture.actions.fetch_recording import ask_fetch
from server.capture.models import Fetched, FetchedState
from server.convening.api import AboutMeetingIn
from server.languages import OurWords
from server.meetings.models import Place
from server.problems import Refused

router = Router(tags=["meetings"], auth=signed_in)


class FetchIn(AboutMeetingIn):
    """address: of a recording or a transcript."""

    address: Annotated[str, Field(min_length=1, max_length=2000)]


class FetchedOut(Schema):
    """words: what is in the way. meeting: what it became."""

    id: UUID
    state: FetchedState
    words: OurWords
    asked_at: datetime
    meeting: UUID | None


def _fetched(row: Fetched) -> dict:
    return {"id": row.pk, "state": row.state, "words": row.words, "asked_at": row.asked_at, "meeting": row.meeting_id}


@router.post("", response={202: FetchedOut})
def fetch(request: HttpRequest, payload: FetchIn) -> Answer:
    """Make a meeting of what lies at an address. It is fetched by and by."""
    return 202, _fetched(ask_fetch(membership_of(request), payload.address, payload.given(Place.FILE)))


@router.get("/{fetched_id}", response=FetchedOut)
def how_far(request: HttpRequest, fetched_id: UUID) -> Answer:
    """What became of it."""
    found = membership_of(request).fetched.filter(pk=fetched_id).first()
    if found is None:
        raise Refused(404, "Nothing of that key is fetched for you.")
    return _fetched(found)

"""Telephone systems: connected by a member, and where they tell of a call."""

from __future__ import annotations

import time
from datetime import datetime
from typing import Annotated
from uuid import UUID

from django.conf import settings
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from server.accounts.current import membership_of, signed_in
from server.answers import Answer
from server.bounds import Moment, Name
from server.languages import OurWords
from server.meetings.models import Visibility
from server.problems import Refused
from server.sealing import unseal
from server.signed import check
from server.telephone.actions.connect import connect_dialer, drop_dialer
from server.telephone.actions.ring import note_call
from server.telephone.models import Dialer, Rang, RangState

router = Router(tags=["telephone"], auth=signed_in)
told_router = Router(tags=["telephone"])
"""For telephone systems: they sign what they send."""
SHOWN = 20


class DialerIn(Schema):
    name: Annotated[Name, Field(min_length=1, max_length=120)]
    visibility: Visibility = Visibility.MINE


class RangOut(Schema):
    begun_at: datetime
    people: list[str]
    state: RangState
    words: OurWords
    meeting: UUID | None


class DialerOut(Schema):
    """address: where it tells of calls."""

    id: UUID
    name: str
    address: str
    visibility: Visibility
    calls: list[RangOut]


class DialerMadeOut(DialerOut):
    """secret: what it signs with, told once."""

    secret: str


class OnTheLineIn(Schema):
    name: Name = ""
    number: Name = ""


class CallIn(Schema):
    """A call that was recorded. call: its key at the telephone system. recording: the address that it can be fetched from."""

    call: str = Field(min_length=1, max_length=200)
    begun_at: Moment
    caller: OnTheLineIn
    called: OnTheLineIn
    recording: str = Field(min_length=1, max_length=2000, pattern=r"^https?://")


def _dialer(dialer: Dialer) -> dict:
    calls = dialer.calls.all()[:SHOWN]
    address = f"{settings.BASE_URL}/api/telephone/{dialer.pk}/calls"
    return {"id": dialer.pk, "name": dialer.name, "address": address, "visibility": dialer.visibility, "calls": [_rang(one) for one in calls]}


def _rang(call: Rang) -> dict:
    return {"begun_at": call.begun_at, "people": call.people, "state": call.state, "words": call.words, "meeting": call.meeting_id}


@router.get("", response=list[DialerOut])
def dialers(request: HttpRequest) -> Answer:
    """Mine, each with what it told of lately."""
    return [_dialer(one) for one in membership_of(request).dialers.all()]


@router.post("", response={201: DialerMadeOut})
def add_dialer(request: HttpRequest, payload: DialerIn) -> Answer:
    """Connect one. The secret is told once."""
    dialer, secret = connect_dialer(membership_of(request), payload.name, payload.visibility)
    return 201, {**_dialer(dialer), "secret": secret}


@router.delete("/{dialer_id}", response={204: None})
def drop(request: HttpRequest, dialer_id: UUID) -> Answer:
    """Take it away. Meetings that came of it stay."""
    membership = membership_of(request)
    found = membership.dialers.filter(pk=dialer_id).first()
    if found is None:
        raise Refused(404, "That is no telephone system of yours (any more).")
    drop_dialer(membership, found)
    return 204, None


@told_router.post("/{dialer_id}/calls", response={202: None}, auth=None)
def call_told(request: HttpRequest, dialer_id: UUID, payload: CallIn) -> Answer:
    """A call was recorded: a message signed as Standard Webhooks has it. The same call again changes nothing."""
    dialer = Dialer.objects.filter(pk=dialer_id).select_related("membership__user").first()
    if dialer is None:
        raise Refused(404, "Nothing is connected here (any more).")
    check(unseal(dialer.secret), request.headers, request.body, time.time())
    people = [payload.caller.name or payload.caller.number, payload.called.name or payload.called.number]
    note_call(dialer, payload.call, payload.begun_at, people, payload.recording)
    return 202, None

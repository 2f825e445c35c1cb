"""The clerk's address, and what I sent there."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership
from server.answers import Answer
from server.bounds import Number
from server.languages import OurWords
from server.letterbox.actions.list_sender import drop_sender, list_sender
from server.letterbox.actions.renew import renew_address
from server.sharing.policy import Can, require

router = Router(tags=["letterbox"], auth=signed_in)
SHOWN = 20


class LetterOut(Schema):
    """goes: the clerk goes, or went. words: what came of it."""

    title: str
    at: datetime
    goes: bool
    words: OurWords


class SenderOut(Schema):
    """An address from which mail counts as mine."""

    id: int
    address: str


class SenderIn(Schema):
    address: Annotated[str, Field(max_length=254, pattern=r"^[^@\s]+@[^@\s]+$")]


class LetterboxOut(Schema):
    """address: "" where this installation takes no mail in. letters: mine, the latest first."""

    address: str
    letters: list[LetterOut]
    senders: list[SenderOut]


def _box(membership: Membership) -> dict:
    return {"address": membership.workspace.clerk_address, "letters": membership.letters.all()[:SHOWN], "senders": membership.senders.all()}


@router.get("", response=LetterboxOut)
def letterbox(request: HttpRequest) -> Answer:
    """By which address the clerk is invited, and what I sent there lately."""
    membership = membership_of(request)
    require(membership, Can.ADD)
    return _box(membership)


@router.post("/renew", response=LetterboxOut)
def renew(request: HttpRequest) -> Answer:
    """Give it another address; the old one is refused from now on."""
    membership = membership_of(request)
    membership.workspace = renew_address(membership)
    return _box(membership)


@router.post("/senders", response=LetterboxOut)
def add_sender(request: HttpRequest, payload: SenderIn) -> Answer:
    """Mail from this address counts as mine: such as a recorder's."""
    membership = membership_of(request)
    list_sender(membership, payload.address)
    return _box(membership)


@router.delete("/senders/{sender_id}", response=LetterboxOut)
def remove_sender(request: HttpRequest, sender_id: Number) -> Answer:
    """Not any more."""
    membership = membership_of(request)
    drop_sender(membership, sender_id)
    return _box(membership)

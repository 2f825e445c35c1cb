"""What words a workspace's minutes."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from server.accounts.current import membership_of, signed_in
from server.answers import Answer
from server.minutes.actions.own_writer import drop_writer, is_allowed, keep_writer, try_writer
from server.minutes.models import OwnWriter
from server.pipeline.ear import has_writer
from server.sharing.policy import Can, require

router = Router(tags=["workspace"], auth=signed_in)


class WriterOut(Schema):
    """built_in: is there one on this machine? allowed: the addresses this server goes to. works: is the one that is named among them?"""

    built_in: bool
    allowed: list[str]
    address: str
    model: str
    has_key: bool
    works: bool


class WriterIn(Schema):
    """key: not given, the one there is stays."""

    address: str = Field(max_length=300)
    model: str = Field(max_length=120)
    key: str | None = Field(None, max_length=400)


class TrialOut(Schema):
    """held: would that be stated?"""

    text: str
    held: bool


def _out(kept: OwnWriter | None) -> dict:
    return {
        "built_in": has_writer(),
        "allowed": settings.WRITERS,
        "address": kept.address if kept else "",
        "model": kept.model if kept else "",
        "has_key": bool(kept and kept.key),
        "works": bool(kept and is_allowed(kept.address)),
    }


@router.get("", response=WriterOut)
def writer(request: HttpRequest) -> Answer:
    """What words minutes here."""
    membership = membership_of(request)
    require(membership, Can.MANAGE)
    return _out(OwnWriter.objects.filter(workspace=membership.workspace).first())


@router.put("", response=WriterOut)
def keep(request: HttpRequest, payload: WriterIn) -> Answer:
    """Have a model elsewhere word minutes, in the chat-completions form."""
    return _out(keep_writer(membership_of(request), payload.address, payload.model, payload.key))


@router.delete("", response=WriterOut)
def drop(request: HttpRequest) -> Answer:
    """Have the one that is built in again."""
    drop_writer(membership_of(request))
    return _out(None)


@router.post("/try", response=TrialOut)
def trial(request: HttpRequest) -> Answer:
    """What it makes of three made-up turns."""
    text, held = try_writer(membership_of(request))
    return {"text": text, "held": held}

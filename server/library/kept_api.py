"""Searches that one keeps."""

from __future__ import annotations

from typing import Annotated

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership
from server.answers import Answer
from server.bounds import Name, Number, Short
from server.library.actions.keep_search import keep_search, let_go_of_search, see_kept
from server.library.api import NarrowIn, narrow_out
from server.library.kept import new_of
from server.library.models import KeptSearch
from server.problems import Refused

router = Router(tags=["library"], auth=signed_in)


class KeptSearchIn(Schema):
    """tells: by mail, when something new matches."""

    name: Annotated[Name, Field(min_length=1, max_length=120)]
    words: Short = ""
    wanted: NarrowIn
    tells: bool = False


class KeptSearchOut(Schema):
    """new: meetings that match and that could be read only after I last looked."""

    id: int
    name: str
    words: str
    wanted: NarrowIn
    tells: bool
    new: int


def _kept(kept: KeptSearch) -> dict:
    new = len(new_of(kept, kept.seen_at))
    return {"id": kept.pk, "name": kept.name, "words": kept.words, "wanted": narrow_out(kept.wanted), "tells": kept.tells, "new": new}


def _own(request: HttpRequest, kept_id: int) -> tuple[Membership, KeptSearch]:
    membership = membership_of(request)
    kept = membership.kept_searches.filter(pk=kept_id).first()
    if kept is None:
        raise Refused(404, "You keep no such search (any more).")
    return membership, kept


@router.get("", response=list[KeptSearchOut])
def kept_searches(request: HttpRequest) -> Answer:
    """Mine, each with how much is new."""
    return [_kept(one) for one in membership_of(request).kept_searches.select_related("membership__user", "membership__workspace")]


@router.post("", response={201: KeptSearchOut})
def keep(request: HttpRequest, payload: KeptSearchIn) -> Answer:
    """Keep one. One of the same name becomes this one."""
    kept = keep_search(membership_of(request), payload.name, payload.words, payload.wanted.read(), tells=payload.tells)
    return 201, _kept(kept)


@router.post("/{kept_id}/seen", response={204: None})
def seen_kept(request: HttpRequest, kept_id: Number) -> Answer:
    """I have looked at what it finds."""
    see_kept(*_own(request, kept_id))
    return 204, None


@router.delete("/{kept_id}", response={204: None})
def let_go(request: HttpRequest, kept_id: Number) -> Answer:
    """It is kept no more."""
    let_go_of_search(*_own(request, kept_id))
    return 204, None

"""Excerpts and reels."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from core.record.excerpt import around
from core.record.timeline import Span
from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership, name_of
from server.excerpts.actions.cut_excerpt import change_excerpt, cut_excerpt
from server.excerpts.actions.make_reel import change_reel, make_reel
from server.excerpts.models import Excerpt, Reel
from server.excerpts.queries import said_in, visible_excerpts, visible_reels
from server.meetings.seen import seen
from server.problems import Refused
from server.record.keep import spoken
from server.sharing.visibility import visible_meetings

meeting_router = Router(tags=["excerpts"], auth=signed_in)
"""As part of a meeting."""
router = Router(tags=["excerpts"], auth=signed_in)
reels_router = Router(tags=["reels"], auth=signed_in)


class SaidOut(Schema):
    speaker: str
    text: str
    start: float
    end: float


class ExcerptOut(Schema):
    """`meeting` only where the caller may see it: an excerpt gives nothing else away."""

    id: UUID
    title: str
    by: str
    mine: bool
    at: datetime
    length: float
    seen: str
    chosen: list[str]
    playable: bool
    meeting: UUID | None
    meeting_title: str | None
    start: float | None


class OneExcerptOut(ExcerptOut):
    said: list[SaidOut]


class ExcerptIn(Schema):
    """Without `start` and `end`: about half a minute around `at`."""

    title: str = Field("", max_length=200)
    start: float | None = None
    end: float | None = None
    at: float | None = None


class ExcerptPatch(Schema):
    title: str | None = Field(None, max_length=200)
    start: float | None = None
    end: float | None = None
    seen: Excerpt.Seen | None = None
    chosen: list[str] | None = Field(None, max_length=200)
    removed: bool | None = None


class ReelOut(Schema):
    id: int
    title: str
    by: str
    mine: bool
    at: datetime
    length: float
    excerpts: list[ExcerptOut]


class ReelIn(Schema):
    title: str = Field(max_length=200)
    excerpts: list[UUID] = Field([], max_length=200)


class ReelPatch(Schema):
    title: str | None = Field(None, max_length=200)
    excerpts: list[UUID] | None = Field(None, max_length=200)
    removed: bool | None = None


def _excerpt(membership: Membership, excerpt: Excerpt, open_meetings: set) -> dict:
    mine = excerpt.user_id == membership.user_id
    theirs = excerpt.meeting_id in open_meetings
    return {
        "id": excerpt.pk,
        "title": excerpt.title,
        "by": name_of(excerpt.user),
        "mine": mine,
        "at": excerpt.at,
        "length": excerpt.end - excerpt.start,
        "seen": excerpt.seen,
        "chosen": [name_of(user) for user in excerpt.chosen.all()] if mine else [],
        "playable": bool(excerpt.meeting.recording.listening) and not excerpt.meeting.recording.withheld,
        "meeting": excerpt.meeting_id if theirs else None,
        "meeting_title": excerpt.meeting.title if theirs else None,
        "start": excerpt.start if theirs else None,
    }


def _several(membership: Membership, excerpts: list[Excerpt]) -> list[dict]:
    keys = {excerpt.meeting_id for excerpt in excerpts}
    open_meetings = set(visible_meetings(membership).filter(pk__in=keys).values_list("pk", flat=True))
    return [_excerpt(membership, excerpt, open_meetings) for excerpt in excerpts]


def _one(membership: Membership, excerpt: Excerpt) -> dict:
    return {**_several(membership, [excerpt])[0], "said": said_in(excerpt)}


def _found(request: HttpRequest, excerpt_id: UUID, *, removed: bool | None = None) -> tuple[Membership, Excerpt]:
    membership = membership_of(request)
    for gone in (False, True) if removed is not None else (False,):
        if found := visible_excerpts(membership, removed=gone).filter(pk=excerpt_id).first():
            return membership, found
    raise Refused(404, "There is no such excerpt, or it is not shared with you.")


@meeting_router.get("/{meeting_id}/excerpts", response=list[ExcerptOut])
def of_meeting(request: HttpRequest, meeting_id: UUID):
    """The excerpts of a meeting."""
    membership, found = seen(request, meeting_id)
    return _several(membership, list(visible_excerpts(membership).filter(meeting=found).prefetch_related("chosen")))


@meeting_router.post("/{meeting_id}/excerpts", response={201: OneExcerptOut})
def cut(request: HttpRequest, meeting_id: UUID, payload: ExcerptIn):
    """Cut an excerpt: a passage, or about half a minute around a moment."""
    membership, found = seen(request, meeting_id)
    if payload.start is not None and payload.end is not None:
        span = Span(payload.start, min(payload.end, found.duration))
    elif payload.at is not None:
        span = around([said for _, said in spoken(found)], payload.at, found.duration)
    else:
        raise Refused(422, "Say which passage: from and to, or around which moment.")
    return 201, _one(membership, cut_excerpt(membership, found, payload.title, span))


@router.get("", response=list[ExcerptOut])
def excerpts(request: HttpRequest):
    """Excerpts that I cut or that are shared with me, the latest first."""
    membership = membership_of(request)
    return _several(membership, list(visible_excerpts(membership).prefetch_related("chosen")[:200]))


@router.get("/{excerpt_id}", response=OneExcerptOut)
def excerpt(request: HttpRequest, excerpt_id: UUID):
    """An excerpt, with what is said in it."""
    return _one(*_found(request, excerpt_id))


@router.patch("/{excerpt_id}", response=OneExcerptOut)
def change(request: HttpRequest, excerpt_id: UUID, payload: ExcerptPatch):
    """Title, trim, share, remove or put back."""
    membership, found = _found(request, excerpt_id, removed=payload.removed)
    span = None
    if payload.start is not None or payload.end is not None:
        start = found.start if payload.start is None else payload.start
        span = Span(start, found.end if payload.end is None else payload.end)
    changed = change_excerpt(
        membership, found, title=payload.title, span=span, seen=payload.seen, chosen=payload.chosen, removed=payload.removed
    )
    return _one(membership, changed)


def _reel(membership: Membership, reel: Reel) -> dict:
    excerpts = [part.excerpt for part in reel.parts.all()]
    return {
        "id": reel.pk,
        "title": reel.title,
        "by": name_of(reel.user),
        "mine": reel.user_id == membership.user_id,
        "at": reel.at,
        "length": sum(excerpt.end - excerpt.start for excerpt in excerpts),
        "excerpts": _several(membership, excerpts),
    }


def _reel_found(request: HttpRequest, reel_id: int, removed: bool | None = None) -> tuple[Membership, Reel]:
    membership = membership_of(request)
    found = visible_reels(membership).filter(pk=reel_id).first()
    if found is None and removed is False:
        found = Reel.objects.filter(pk=reel_id, user=membership.user_id, workspace=membership.workspace_id).first()
    if found is None:
        raise Refused(404, "There is no such reel, or nothing in it is shared with you.")
    return membership, found


@reels_router.get("", response=list[ReelOut])
def reels(request: HttpRequest):
    """My reels, and those of others that hold something I may hear."""
    membership = membership_of(request)
    return [_reel(membership, reel) for reel in visible_reels(membership)]


@reels_router.get("/{reel_id}", response=ReelOut)
def reel(request: HttpRequest, reel_id: int):
    """A reel: the excerpts of it that I may hear, in order."""
    membership, found = _reel_found(request, reel_id)
    return _reel(membership, found)


@reels_router.post("", response={201: ReelOut})
def make(request: HttpRequest, payload: ReelIn):
    """Put excerpts in an order."""
    membership = membership_of(request)
    made = make_reel(membership, payload.title, payload.excerpts)
    return 201, _reel(membership, visible_reels(membership).get(pk=made.pk))


@reels_router.patch("/{reel_id}", response=ReelOut)
def change_one(request: HttpRequest, reel_id: int, payload: ReelPatch):
    """Title it, set what it plays and in which order, remove it or put it back."""
    membership, found = _reel_found(request, reel_id, payload.removed)
    change_reel(membership, found, payload.title, payload.excerpts, payload.removed)
    return _reel(membership, visible_reels(membership).filter(pk=found.pk).first() or found)

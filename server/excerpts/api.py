"""Excerpts and sequences."""

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
from server.answers import Answer
from server.bounds import Name, Seconds
from server.convening.seen import seen
from server.excerpts.actions.cut_excerpt import change_excerpt, cut_excerpt
from server.excerpts.actions.make_sequence import change_sequence, make_sequence
from server.excerpts.models import Excerpt, Sequence
from server.excerpts.queries import said_in, visible_excerpts, visible_sequences
from server.problems import Refused
from server.record.keep import spoken
from server.sharing.visibility import visible_meetings

meeting_router = Router(tags=["excerpts"], auth=signed_in)
"""As part of a meeting."""
router = Router(tags=["excerpts"], auth=signed_in)
sequences_router = Router(tags=["sequences"], auth=signed_in)


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
    seen: Excerpt.Seen
    chosen: list[str]
    playable: bool
    meeting: UUID | None
    meeting_title: str | None
    start: float | None


class OneExcerptOut(ExcerptOut):
    said: list[SaidOut]


class ExcerptIn(Schema):
    """Without `start` and `end`: about half a minute around `at`."""

    title: Name = ""
    start: Seconds | None = None
    end: Seconds | None = None
    at: Seconds | None = None


class ExcerptPatch(Schema):
    title: Name | None = None
    start: Seconds | None = None
    end: Seconds | None = None
    seen: Excerpt.Seen | None = None
    chosen: list[str] | None = Field(None, max_length=200)
    removed: bool | None = None


class SequenceOut(Schema):
    id: int
    title: str
    by: str
    mine: bool
    at: datetime
    length: float
    excerpts: list[ExcerptOut]


class SequenceIn(Schema):
    title: Name
    excerpts: list[UUID] = Field([], max_length=200)


class SequencePatch(Schema):
    title: Name | None = None
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
def of_meeting(request: HttpRequest, meeting_id: UUID) -> Answer:
    """The excerpts of a meeting."""
    membership, found = seen(request, meeting_id)
    return _several(membership, list(visible_excerpts(membership).filter(meeting=found).prefetch_related("chosen")))


@meeting_router.post("/{meeting_id}/excerpts", response={201: OneExcerptOut})
def cut(request: HttpRequest, meeting_id: UUID, payload: ExcerptIn) -> Answer:
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
def excerpts(request: HttpRequest) -> Answer:
    """Excerpts that I cut or that are shared with me, the latest first."""
    membership = membership_of(request)
    return _several(membership, list(visible_excerpts(membership).prefetch_related("chosen")[:200]))


@router.get("/{excerpt_id}", response=OneExcerptOut)
def excerpt(request: HttpRequest, excerpt_id: UUID) -> Answer:
    """An excerpt, with what is said in it."""
    return _one(*_found(request, excerpt_id))


@router.patch("/{excerpt_id}", response=OneExcerptOut)
def change(request: HttpRequest, excerpt_id: UUID, payload: ExcerptPatch) -> Answer:
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


def _sequence(membership: Membership, sequence: Sequence) -> dict:
    excerpts = [part.excerpt for part in sequence.parts.all()]
    return {
        "id": sequence.pk,
        "title": sequence.title,
        "by": name_of(sequence.user),
        "mine": sequence.user_id == membership.user_id,
        "at": sequence.at,
        "length": sum(excerpt.end - excerpt.start for excerpt in excerpts),
        "excerpts": _several(membership, excerpts),
    }


def _sequence_found(request: HttpRequest, sequence_id: int, removed: bool | None = None) -> tuple[Membership, Sequence]:
    membership = membership_of(request)
    found = visible_sequences(membership).filter(pk=sequence_id).first()
    if found is None and removed is False:
        found = Sequence.objects.filter(pk=sequence_id, user=membership.user_id, workspace=membership.workspace_id).first()
    if found is None:
        raise Refused(404, "There is no such sequence, or nothing in it is shared with you.")
    return membership, found


@sequences_router.get("", response=list[SequenceOut])
def sequences(request: HttpRequest) -> Answer:
    """My sequences, and those of others that hold something I may hear."""
    membership = membership_of(request)
    return [_sequence(membership, sequence) for sequence in visible_sequences(membership)]


@sequences_router.get("/{sequence_id}", response=SequenceOut)
def sequence(request: HttpRequest, sequence_id: int) -> Answer:
    """A sequence: the excerpts of it that I may hear, in order."""
    membership, found = _sequence_found(request, sequence_id)
    return _sequence(membership, found)


@sequences_router.post("", response={201: SequenceOut})
def make(request: HttpRequest, payload: SequenceIn) -> Answer:
    """Put excerpts in an order."""
    membership = membership_of(request)
    made = make_sequence(membership, payload.title, payload.excerpts)
    return 201, _sequence(membership, visible_sequences(membership).get(pk=made.pk))


@sequences_router.patch("/{sequence_id}", response=SequenceOut)
def change_one(request: HttpRequest, sequence_id: int, payload: SequencePatch) -> Answer:
    """Title it, set what it plays and in which order, remove it or put it back."""
    membership, found = _sequence_found(request, sequence_id, payload.removed)
    change_sequence(membership, found, payload.title, payload.excerpts, payload.removed)
    return _sequence(membership, visible_sequences(membership).filter(pk=found.pk).first() or found)

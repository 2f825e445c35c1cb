"""Strike a passage: what would go, and taking it out for good."""

from __future__ import annotations

from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from core.record.timeline import Span
from server.accounts.current import signed_in
from server.answers import Answer
from server.bounds import Number, Seconds
from server.convening.seen import seen
from server.purging import Resting
from server.record.actions import strike as act

router = Router(tags=["record"], auth=signed_in)


class ChosenIn(Schema):
    """Words, from one to another: (number of a line, index of a word or -1 for its last); or seconds; or all of a voice."""

    first: tuple[Number, int] | None = None
    last: tuple[Number, int] | None = None
    start: Seconds | None = None
    end: Seconds | None = None
    voice: Number | None = None

    def chosen(self) -> act.Chosen:
        """The same for the action."""
        span = Span(self.start, self.end) if self.start is not None and self.end is not None else None
        return act.Chosen(self.first, self.last, span, self.voice)


class StrikePassageIn(ChosenIn):
    name: str = Field(max_length=200)
    before: str
    take_own: bool = True


class RestingOut(Schema):
    kind: str
    text: str
    hand: str | None


class PreviewOut(Schema):
    text: str
    words: int
    seconds: float
    files: bool
    drawn: list[RestingOut]
    own: list[RestingOut]
    counts: dict[str, int]


class StrikeOut(Schema):
    words: int
    seconds: float


def _resting(one: Resting) -> dict:
    return {"kind": one.kind, "text": one.text, "hand": one.initials or None}


@router.post("/{meeting_id}/strike/preview", response=PreviewOut)
def preview(request: HttpRequest, meeting_id: UUID, payload: ChosenIn) -> Answer:
    """What would go, and what rests on it."""
    membership, found = seen(request, meeting_id)
    would = act.preview(membership, found, payload.chosen())
    return {
        "text": would.text,
        "words": would.cut.words,
        "seconds": min(would.cut.seconds, found.duration),
        "files": bool(found.recording.original),
        "drawn": [_resting(one) for one in would.rests.drawn],
        "own": [_resting(one) for one in would.rests.own],
        "counts": dict(would.rests.counts),
    }


@router.post("/{meeting_id}/strike", response=StrikeOut)
def strike(request: HttpRequest, meeting_id: UUID, payload: StrikePassageIn) -> Answer:
    """Strike it, under one's own name. It cannot be undone."""
    membership, found = seen(request, meeting_id)
    made = act.strike(membership, found, payload.chosen(), payload.name, payload.before, payload.take_own)
    return {"words": made.words, "seconds": sum(end - start for start, end in made.spans)}

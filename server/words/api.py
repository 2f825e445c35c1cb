"""The word list of a workspace; words of a record put right; the review walk."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from core.record.review import doubts
from server.accounts.current import membership_of, signed_in
from server.answers import Answer
from server.bounds import Name, Number, Prose
from server.convening.seen import seen
from server.problems import Refused
from server.record.actions.fix_words import confirm_words, fix_words, take_back
from server.record.keep import load_record
from server.record.models import Line
from server.sharing.policy import Can, require
from server.words.actions.list_term import decline_offer, list_term, unlist_term
from server.words.models import ListedTerm
from server.words.queries import offers

router = Router(tags=["words"], auth=signed_in)
record_router = Router(tags=["words"], auth=signed_in)


class TermIn(Schema):
    text: Annotated[Name, Field(max_length=80)]
    sounds: list[Name] = Field([], max_length=10)
    mistaken: list[Name] = Field([], max_length=20)


class TermOut(TermIn):
    id: int


class OfferOut(Schema):
    heard: str
    meant: str
    times: int


class WordsOut(Schema):
    terms: list[TermOut]
    offers: list[OfferOut]


class DeclineIn(Schema):
    heard: Prose
    meant: Prose


class FixIn(Schema):
    first: Number
    last: Number
    text: str = Field(max_length=500)
    before: str = Field(max_length=2000)


class WordOut(Schema):
    text: str
    start: float
    end: float
    probability: float
    heard: str


class DoubtOut(Schema):
    line: int
    turn: int
    start: float
    end: float
    text: str
    voice: str
    reasons: list[str]
    words: list[WordOut]


@router.get("", response=WordsOut)
def words(request: HttpRequest) -> Answer:
    """The workspace's words, and what is offered for the list."""
    membership = membership_of(request)
    require(membership, Can.KNOW_TEAM)
    return {"terms": list(ListedTerm.objects.filter(workspace=membership.workspace)), "offers": offers(membership)}


@router.post("", response={201: TermOut})
def add(request: HttpRequest, payload: TermIn) -> Answer:
    """Put a word on the list, or say more of one that is there."""
    return 201, list_term(membership_of(request), payload.text, payload.sounds, payload.mistaken)


@router.delete("/{term_id}", response={204: None})
def remove(request: HttpRequest, term_id: int) -> Answer:
    """Take a word off the list."""
    membership = membership_of(request)
    term = ListedTerm.objects.filter(workspace=membership.workspace, pk=term_id).first()
    if term is None:
        raise Refused(404, "There is no such word on the list.")
    unlist_term(membership, term)
    return 204, None


@router.post("/offers/declined", response={204: None})
def decline(request: HttpRequest, payload: DeclineIn) -> Answer:
    """Do not offer this for the list again."""
    decline_offer(membership_of(request), payload.heard, payload.meant)
    return 204, None


@record_router.get("/{meeting_id}/review", response=list[DoubtOut])
def review(request: HttpRequest, meeting_id: UUID) -> Answer:
    """The lines most likely wrong, those first where listening pays most; not those that somebody has found right."""
    _, found = seen(request, meeting_id)
    checked = set(Line.objects.filter(meeting=found, checked=True).values_list("start", flat=True))
    record = load_record(found, words=True)
    place = {id(line): (turn, index) for turn in record.turns for index, line in enumerate(turn.lines)}
    numbers = dict(Line.objects.filter(meeting=found).values_list("start", "number"))
    out = []
    for doubt in doubts(record):
        if doubt.line.start in checked:
            continue
        turn = place[id(doubt.line)][0]
        out.append(
            {
                "line": numbers[doubt.line.start],
                "turn": turn.id,
                "start": doubt.line.start,
                "end": doubt.line.end,
                "text": doubt.line.text,
                "voice": turn.speaker,
                "reasons": list(doubt.reasons),
                "words": [
                    {"text": w.text, "start": w.start, "end": w.end, "probability": w.probability, "heard": w.heard}
                    for w in doubt.line.words
                ],
            }
        )
    return out


@record_router.post("/{meeting_id}/lines/{number}/words", response={204: None})
def fix(request: HttpRequest, meeting_id: UUID, number: int, payload: FixIn) -> Answer:
    """Put words of a line right."""
    fix_words(*seen(request, meeting_id), number, payload.first, payload.last, payload.text, payload.before)
    return 204, None


@record_router.delete("/{meeting_id}/lines/{number}/words/{index}/correction", response={204: None})
def uncorrect(request: HttpRequest, meeting_id: UUID, number: int, index: int) -> Answer:
    """Put back what was heard where the word list put a term in its place."""
    take_back(*seen(request, meeting_id), number, index)
    return 204, None


@record_router.post("/{meeting_id}/lines/{number}/right", response={204: None})
def right(request: HttpRequest, meeting_id: UUID, number: int) -> Answer:
    """A line was heard again and is right."""
    confirm_words(*seen(request, meeting_id), number)
    return 204, None

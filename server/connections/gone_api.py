"""What went where, is put aside, lies there; and sending by hand."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal
from uuid import UUID

from django.db.models import Q
from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership
from server.answers import Answer
from server.bounds import Name, Number, Short
from server.connections.actions.send import say_where, say_which, send, send_again, take_back
from server.connections.kinds import KINDS
from server.connections.models import Delivery, DeliveryState, Happened, Placed, Subject
from server.connections.queries import (
    connection_of,
    connections_of,
    deliveries_for,
    left_behind,
    placed_of,
    takers,
)
from server.convening.seen import seen
from server.cursors import cut, moment_of, read_cursor
from server.languages import OurWords
from server.ledger.models import Step, StepState
from server.problems import Refused
from server.sharing.policy import Can, may, require
from server.sharing.visibility import listed_meetings

router = Router(tags=["connections"], auth=signed_in)
meeting_router = Router(tags=["connections"], auth=signed_in)
"""Of a meeting."""
PAGE = 50


class SendThereIn(Schema):
    """key: which of its subject: of minutes and records the meeting's, of actions and decisions the matter's, of excerpts their own."""

    subject: Subject
    key: Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[0-9a-f-]+$")]
    target: Annotated[str, Field(max_length=200)] = ""
    target_name: Name = ""


class DeliveryOut(Schema):
    """why: "" by hand, by `by`; else by the rule for a series, a shelf, or all. said: what the other side answered last. words: of what it is, where I may see that. again: when it is tried again."""

    id: UUID
    connection: UUID
    connection_name: str
    subject: Subject
    happened: Happened
    words: str
    meeting: UUID | None
    title: str
    target_name: str
    by: str
    by_rule: bool
    rule: str
    state: DeliveryState
    tries: int
    said: OurWords
    places: list[PlaceOut]
    queued_at: datetime
    sent_at: datetime | None
    again: datetime | None


class DeliveriesOut(Schema):
    deliveries: list[DeliveryOut]
    next: str | None


class DeliveriesIn(Schema):
    """connection, meeting, state: of which."""

    connection: UUID | None = None
    meeting: UUID | None = None
    state: DeliveryState | None = None


class ClashOut(Schema):
    """What both sides have changed: how it stands here, and there."""

    what: Literal["state", "owner", "due"]
    here: str | None
    there: str | None


class PlacedOut(Schema):
    """What lies there. left: why it lies there, though it should be gone. recalls: it can be taken back."""

    id: int
    connection: UUID
    connection_name: str
    subject: Subject
    key: str
    words: str
    meeting: UUID | None
    target_name: str
    address: str
    placed_at: datetime | None
    clashes: list[ClashOut]
    left: str
    recalls: bool


class GoneWhereOut(Schema):
    """takers: to which connections something can be sent from here. placed: what lies where. left: what could not be taken back."""

    takers: list[TakerOut]
    placed: list[PlacedOut]
    left: list[PlacedOut]


class TakerOut(Schema):
    id: UUID
    name: str
    kind: str
    takes: list[Subject]
    aims: bool


class PlaceOut(Schema):
    """Where it may go there. what: the address of somebody who was there, or its domain."""

    what: str
    key: str
    name: str


class WhereIn(Schema):
    """Which of the places is meant, for each address; each is remembered."""

    places: list[PlaceOut] = Field(min_length=1, max_length=50)


class WhichIn(Schema):
    what: Literal["state", "owner", "due"]
    keep: Literal["here", "there"]


GoneWhereOut.model_rebuild()


@router.get("/deliveries", response=DeliveriesOut)
def deliveries(request: HttpRequest, asked: Query[DeliveriesIn], cursor: Short = "") -> Answer:
    """What went where, the latest first."""
    membership = membership_of(request)
    require(membership, Can.SEND)
    rows = deliveries_for(membership).order_by("-queued_at", "-id")
    if asked.connection:
        rows = rows.filter(connection=asked.connection)
    if asked.meeting:
        rows = rows.filter(meeting=asked.meeting)
    if asked.state:
        rows = rows.filter(state=asked.state)
    if cursor:
        at, key = read_cursor(cursor, moment_of, UUID, "deliveries")
        rows = rows.filter(queued_at__lte=at).exclude(queued_at=at, pk__gte=key)
    page, following = cut(rows, PAGE, "queued_at")
    return {"deliveries": list(_told(page, membership)), "next": following}


@router.post("/deliveries/{delivery_id}/again", response=DeliveryOut)
def again(request: HttpRequest, delivery_id: UUID) -> Answer:
    """Send once more what was put aside."""
    membership = membership_of(request)
    found = deliveries_for(membership).filter(pk=delivery_id).first()
    if found is None or found.connection.dropped_at:
        raise Refused(404, "There is no such delivery, or its connection was taken away.")
    send_again(membership, found)
    found.refresh_from_db()
    return next(iter(_told([found], membership)))


@router.post("/deliveries/{delivery_id}/where", response=DeliveryOut)
def where(request: HttpRequest, delivery_id: UUID, payload: WhereIn) -> Answer:
    """Say where it goes there, of several that may be meant."""
    membership = membership_of(request)
    found = deliveries_for(membership).filter(pk=delivery_id).first()
    if found is None or found.connection.dropped_at:
        raise Refused(404, "There is no such delivery, or its connection was taken away.")
    say_where(membership, found, [(one.what, one.key) for one in payload.places])
    found.refresh_from_db()
    return next(iter(_told([found], membership)))


@router.post("/placed/{placed_id}/take-back", response={202: None})
def take_it_back(request: HttpRequest, placed_id: Number) -> Answer:
    """Have it removed there."""
    membership = membership_of(request)
    take_back(membership, _placed_of(membership, placed_id))
    return 202, None


@router.post("/placed/{placed_id}/which", response={204: None})
def which_counts(request: HttpRequest, placed_id: Number, payload: WhichIn) -> Answer:
    """Where both sides have changed something, say which counts."""
    membership = membership_of(request)
    say_which(membership, _placed_of(membership, placed_id), payload.what, payload.keep)
    return 204, None


@router.post("/{connection_id}/send", response={202: DeliveryOut})
def send_by_hand(request: HttpRequest, connection_id: UUID, payload: SendThereIn) -> Answer:
    """Send something by hand."""
    membership = membership_of(request)
    made = send(membership, connection_of(membership, connection_id), payload.subject, _key(payload), payload.target, payload.target_name)
    return 202, next(iter(_told([made], membership)))


@router.post("/{connection_id}/again", response={202: None})
def all_again(request: HttpRequest, connection_id: UUID) -> Answer:
    """Send once more all that was put aside."""
    membership = membership_of(request)
    found = connection_of(membership, connection_id, to_change=True)
    for one in found.deliveries.filter(state=DeliveryState.ASIDE).select_related("connection", "meeting").order_by("queued_at"):
        try:
            send_again(membership, one)
        except Refused:
            continue  # a later one waits to go there already
    return 202, None


@router.get("/{connection_id}/placed", response=list[PlacedOut])
def lies_there(request: HttpRequest, connection_id: UUID, only: Literal["", "clash", "left"] = "") -> Answer:
    """What lies there, the latest first; only what clashes, or could not be taken back."""
    membership = membership_of(request)
    found = connection_of(membership, connection_id)
    rows = found.placed.filter(gone_at=None, placed_at__isnull=False).select_related("connection")
    if found.membership_id is None:
        rows = rows.filter(meeting__in=listed_meetings(membership))
    rows = rows.exclude(clash={}) if only == "clash" else rows.exclude(left="") if only == "left" else rows
    return list(_lying(list(rows[: 4 * PAGE]), membership))


@meeting_router.get("/{meeting_id}/gone-where", response=GoneWhereOut)
def gone_where(request: HttpRequest, meeting_id: UUID) -> Answer:
    """To where something of a meeting can be sent, and what lies where."""
    membership, found = seen(request, meeting_id)
    able = {one.pk: one for subject in Subject for one in takers(membership, subject)} if may(membership, Can.SEND, found) else {}
    return {
        "takers": [{"id": one.pk, "name": one.name, "kind": one.kind, "takes": sorted(KINDS[one.kind].takes), "aims": KINDS[one.kind].aims} for one in able.values()],
        "placed": list(_lying(list(placed_of(membership, found)), membership)),
        "left": list(_lying(list(left_behind(found)), membership)) if may(membership, Can.GOVERN, found) else [],
    }


def _key(payload: SendThereIn) -> str:
    try:
        return payload.key if payload.subject in (Subject.ACTION, Subject.DECISION) and int(payload.key) < 2**62 else str(UUID(payload.key))
    except ValueError as error:
        raise Refused(422, "That is no key of such a thing.") from error


def _placed_of(membership: Membership, key: int) -> Placed:
    seen_there = Q(connection__membership=membership.pk) | Q(meeting__in=listed_meetings(membership))
    found = Placed.objects.filter(seen_there, pk=key, connection__in=connections_of(membership)).select_related("connection", "meeting__workspace").first()
    if found is None:
        raise Refused(404, "There is nothing of that there (any more), or it is not shared with you.")
    return found


def _words(rows: list[tuple[str, str]], membership: Membership) -> dict[tuple[str, str], str]:
    """Subject and key → in words, of actions and decisions in meetings that somebody sees."""
    keys = [int(key) for subject, key in rows if subject in (Subject.ACTION, Subject.DECISION)]
    seen_steps = Step.objects.filter(matter__in=keys, finding__isnull=False, meeting__in=listed_meetings(membership)).exclude(state=StepState.REFUSED)
    said = {str(matter): text for matter, text in seen_steps.order_by("meeting__started_at", "pk").values_list("matter", "finding__text")}
    return {(subject, key): said.get(key, "") for subject, key in rows}


def _told(rows: list[Delivery], membership: Membership) -> Any:
    words = _words([(one.subject, one.key) for one in rows], membership)
    titles = dict(listed_meetings(membership).filter(pk__in=[one.meeting_id for one in rows if one.meeting_id]).values_list("pk", "title"))
    for one in rows:
        rule = one.rule
        title = titles.get(one.meeting_id) if one.meeting_id else None
        told = {name: getattr(one, name) for name in ("id", "subject", "happened", "target_name", "state", "tries", "said", "queued_at", "sent_at")}
        yield {
            **told,
            "connection": one.connection_id,
            "connection_name": one.connection.name,
            "words": words[one.subject, one.key],
            "meeting": None if title is None else one.meeting_id,
            "title": title or "",
            "by": one.by.called if one.by else "",
            "by_rule": rule is not None,
            "rule": (rule.series and rule.series.name or rule.shelf and rule.shelf.name or "") if rule else "",
            "again": one.next_at,
            "places": [{"what": what, "key": key, "name": name} for what, key, name in one.choices] if one.state == DeliveryState.ASKED else [],
        }


def _lying(rows: list[Placed], membership: Membership) -> Any:
    words = _words([(one.subject, one.key) for one in rows], membership)
    for one in rows:
        told = {name: getattr(one, name) for name in ("id", "subject", "key", "target_name", "address", "placed_at", "left")}
        yield {
            **told,
            "connection": one.connection_id,
            "connection_name": one.connection.name,
            "words": words[one.subject, one.key],
            "meeting": one.meeting_id,
            "clashes": [{"what": what, **sides} for what, sides in one.clash.items()],
            "recalls": KINDS[one.connection.kind].recalls and one.connection.dropped_at is None,
        }

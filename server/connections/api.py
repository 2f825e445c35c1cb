"""Connections: what there is to connect, what is connected, what goes by rule and by hand, what went where."""

from __future__ import annotations

import json
import time
from collections import defaultdict
from collections.abc import Iterable
from datetime import datetime
from typing import Annotated, Any, Literal
from uuid import UUID

from django.db import IntegrityError, transaction
from django.db.models import Count, Q
from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from core.problems import InputProblem
from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership
from server.answers import Answer
from server.bounds import Name, Number, Short
from server.connections.actions.connect import change_connection, check_connection, connect, drop_connection
from server.connections.actions.rule import add_rule, drop_rule
from server.connections.actions.send import say_where, say_which, send, send_again, take_back
from server.connections.kinds import KINDS
from server.connections.kinds.base import Message
from server.connections.models import AnswerState, Connection, Delivery, DeliveryState, FieldAnswer, Happened, Heard, Placed, Rule, Subject
from server.connections.queries import (
    changes,
    connection_of,
    connections_of,
    deliveries_for,
    left_behind,
    open_kind,
    placed_of,
    takers,
)
from server.connections.taking import take
from server.convening.seen import seen
from server.cursors import cut, moment_of, read_cursor
from server.languages import OurWords
from server.ledger.models import Step, StepState
from server.problems import Refused
from server.sealing import unseal
from server.sharing.policy import Can, may, require
from server.sharing.visibility import listed_meetings
from server.signed import check

router = Router(tags=["connections"], auth=signed_in)
meeting_router = Router(tags=["connections"], auth=signed_in)
"""Of a meeting."""
told_router = Router(tags=["connections"])
"""For other sides: they sign what they send."""
PAGE = 50


class OutsideKindOut(Schema):
    """A kind of outside system. form: JSON schema of what it asks for; fields with `secret` are kept sealed, and never given out. recalls: it takes back what it was given."""

    name: str
    title: str
    about: str
    form: dict[str, Any]
    takes: list[Subject]
    aims: bool
    places: bool
    fills: bool
    gives: bool
    recalls: bool


class RuleOut(Schema):
    """What goes by itself: of meetings that meet all it names."""

    id: int
    subjects: list[Subject]
    series: str | None
    shelf: str | None
    template: str
    people: list[str]
    target: str
    target_name: str


class ConnectionOut(Schema):
    """everybody: it is the workspace's. can_change: I may change it. given: its settings, but for secrets. waiting, aside: how much is on its way, and how much was put aside. clashes: how much was changed on both sides."""

    id: UUID
    kind: str
    title: str
    name: str
    everybody: bool
    can_change: bool
    given: dict[str, Any]
    trouble: OurWords
    looked_at: datetime | None
    rules: list[RuleOut]
    waiting: int
    asked: int
    aside: int
    clashes: int
    to_confirm: int


class ConnectIn(Schema):
    """everybody: for the workspace; else for me alone. given: as the kind's form asks."""

    kind: Short
    name: Name = ""
    everybody: bool = False
    given: dict[str, Any] = Field(default_factory=dict, max_length=40)


class ConnectedOut(ConnectionOut):
    """said: what the other side says of itself."""

    said: OurWords


class ChangeConnectionIn(Schema):
    """given: all settings anew; a secret that is left out stays as it is."""

    name: Name | None = None
    given: dict[str, Any] | None = Field(None, max_length=40)


class CheckedOut(Schema):
    """said: what the other side says, "" where there is trouble."""

    said: OurWords
    trouble: OurWords


class RuleIn(Schema):
    """series, shelf, people: keys. template: the kind of meeting. target: where it goes there, where there are several places."""

    subjects: list[Subject] = Field(min_length=1, max_length=8)
    series: Number | None = None
    shelf: Number | None = None
    template: Short = ""
    people: list[Number] = Field(default_factory=list, max_length=50)
    target: Annotated[str, Field(max_length=200)] = ""
    target_name: Name = ""


class TargetOut(Schema):
    key: str
    name: str
    kind: str


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


def _connections(rows: Iterable[Connection], membership: Membership) -> list[dict]:
    """As the API gives them; how much waits is counted for all of them at once."""
    found = list(rows)
    of_these = {"connection__in": [one.pk for one in found]}
    states = (DeliveryState.WAITING, DeliveryState.ASKED, DeliveryState.ASIDE)
    deliveries = Delivery.objects.filter(state__in=states, **of_these).values_list("connection", "state").annotate(many=Count("pk"))
    counts: dict[tuple[UUID, str], int] = {(key, state): many for key, state, many in deliveries}
    clashes = dict(Placed.objects.filter(gone_at=None, **of_these).exclude(clash={}).values_list("connection").annotate(many=Count("pk")))
    rules: dict[UUID, list[Rule]] = defaultdict(list)
    for rule in Rule.objects.filter(**of_these).select_related("series", "shelf").prefetch_related("people"):
        rules[rule.connection_id].append(rule)
    open_answers = FieldAnswer.objects.filter(state=AnswerState.PROPOSED, question__connection__in=of_these["connection__in"], meeting__in=listed_meetings(membership))
    to_confirm = dict(open_answers.values_list("question__connection").annotate(many=Count("pk")))
    return [
        {
            "id": one.pk,
            "kind": one.kind,
            "title": KINDS[one.kind].title,
            "name": one.name,
            "everybody": one.membership_id is None,
            "can_change": changes(membership, one),
            "given": one.settings if changes(membership, one) else {},
            "trouble": one.trouble,
            "looked_at": one.looked_at,
            "rules": [_rule(rule) for rule in rules[one.pk]],
            "waiting": counts.get((one.pk, DeliveryState.WAITING), 0),
            "asked": counts.get((one.pk, DeliveryState.ASKED), 0),
            "aside": counts.get((one.pk, DeliveryState.ASIDE), 0),
            "clashes": clashes.get(one.pk, 0),
            "to_confirm": to_confirm.get(one.pk, 0),
        }
        for one in found
    ]


def _connection(connection: Connection, membership: Membership) -> dict:
    return _connections([connection], membership)[0]


def _rule(rule: Rule) -> dict:
    told = {name: getattr(rule, name) for name in ("id", "subjects", "template", "target", "target_name")}
    return {**told, "series": rule.series and rule.series.name, "shelf": rule.shelf and rule.shelf.name, "people": [one.name for one in rule.people.all()]}


@router.get("/kinds", response=list[OutsideKindOut])
def kinds(request: HttpRequest) -> Answer:
    """What can be connected, and what each asks for."""
    membership_of(request)
    return [
        {"name": kind.name, "title": kind.title, "about": kind.about, "form": kind.asks.model_json_schema(), "takes": sorted(kind.takes), "aims": kind.aims, "places": kind.places, "fills": kind.fills, "gives": kind.gives, "recalls": kind.recalls}
        for kind in KINDS.values()
    ]


@router.get("", response=list[ConnectionOut])
def connections(request: HttpRequest) -> Answer:
    """Mine, and the workspace's."""
    membership = membership_of(request)
    require(membership, Can.SEND)
    return _connections(connections_of(membership), membership)


@router.post("", response={201: ConnectedOut})
def add(request: HttpRequest, payload: ConnectIn) -> Answer:
    """Connect one. The other side is asked at once whether all is well."""
    membership = membership_of(request)
    made, said = connect(membership, payload.kind, payload.name, payload.given, everybody=payload.everybody)
    made.refresh_from_db()
    return 201, {**_connection(made, membership), "said": said}


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


@router.get("/{connection_id}", response=ConnectionOut)
def one_connection(request: HttpRequest, connection_id: UUID) -> Answer:
    """One of them."""
    membership = membership_of(request)
    return _connection(connection_of(membership, connection_id), membership)


@router.patch("/{connection_id}", response=ConnectedOut)
def change(request: HttpRequest, connection_id: UUID, payload: ChangeConnectionIn) -> Answer:
    """Another name, other settings."""
    membership = membership_of(request)
    found = connection_of(membership, connection_id, to_change=True)
    said = change_connection(membership, found, payload.name, payload.given)
    found.refresh_from_db()
    return {**_connection(found, membership), "said": said}


@router.post("/{connection_id}/check", response=CheckedOut)
def check_it(request: HttpRequest, connection_id: UUID) -> Answer:
    """Ask the other side whether all is well."""
    membership = membership_of(request)
    found = connection_of(membership, connection_id, to_change=True)
    return {"said": check_connection(membership, found), "trouble": found.trouble}


@router.delete("/{connection_id}", response={204: None})
def drop(request: HttpRequest, connection_id: UUID) -> Answer:
    """Take it away. What went there stays there."""
    membership = membership_of(request)
    drop_connection(membership, connection_of(membership, connection_id, to_change=True))
    return 204, None


@router.get("/{connection_id}/targets", response=list[TargetOut])
def targets(request: HttpRequest, connection_id: UUID) -> Answer:
    """Where something can go there."""
    membership = membership_of(request)
    require(membership, Can.SEND)
    found = open_kind(connection_of(membership, connection_id)).targets()
    return [{"key": one.key, "name": one.name, "kind": one.kind} for one in found]


@router.post("/{connection_id}/rules", response={201: RuleOut})
def add_a_rule(request: HttpRequest, connection_id: UUID, payload: RuleIn) -> Answer:
    """Say what goes by itself, of meetings that are ready from now on."""
    membership = membership_of(request)
    found = connection_of(membership, connection_id, to_change=True)
    asked = payload.dict()
    return 201, _rule(add_rule(membership, found, asked.pop("subjects"), **asked))


@router.delete("/{connection_id}/rules/{rule_id}", response={204: None})
def drop_a_rule(request: HttpRequest, connection_id: UUID, rule_id: Number) -> Answer:
    """Not by itself any more. What went stays there."""
    membership = membership_of(request)
    rule = connection_of(membership, connection_id, to_change=True).rules.filter(pk=rule_id).select_related("connection").first()
    if rule is None:
        raise Refused(404, "There is no such rule (any more).")
    drop_rule(membership, rule)
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


@told_router.post("/{connection_id}/told", response={202: None}, auth=None)
def told(request: HttpRequest, connection_id: UUID) -> Answer:
    """What has become there of something: a message signed as Standard Webhooks has it. The same message again changes nothing."""
    found = Connection.objects.filter(pk=connection_id, dropped_at=None).select_related("workspace", "membership__user", "membership__workspace", "made_by__user", "made_by__workspace").first()
    if found is None:
        raise Refused(404, "Nothing is connected here (any more).")
    key = check(unseal(found.signing), request.headers, request.body, time.time())
    try:
        body = json.loads(request.body)
    except ValueError as error:
        raise InputProblem("This message is no JSON.") from error
    if Heard.objects.filter(connection=found, key=key).exists():
        return 202, None
    news = open_kind(found).receive(Message({name.lower(): value for name, value in request.headers.items()}, body))
    take(found, news)
    try:
        with transaction.atomic():
            Heard.objects.create(connection=found, key=key)
    except IntegrityError:
        pass  # it came twice at once, and was taken twice, which changes nothing
    return 202, None


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



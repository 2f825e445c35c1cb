"""Connections: what there is to connect, what is connected, and what goes by rule."""

from __future__ import annotations

import json
import time
from collections import defaultdict
from collections.abc import Iterable
from datetime import datetime
from typing import Annotated, Any
from uuid import UUID

from django.db import IntegrityError, transaction
from django.db.models import Count
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from core.problems import InputProblem
from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership
from server.answers import Answer
from server.bounds import Name, Number, Short
from server.connections.actions.connect import change_connection, check_connection, connect, drop_connection
from server.connections.actions.rule import add_rule, drop_rule
from server.connections.kinds import KINDS
from server.connections.kinds.base import Message
from server.connections.models import AnswerState, Connection, Delivery, DeliveryState, FieldAnswer, Heard, Placed, Rule, Subject
from server.connections.queries import (
    changes,
    connection_of,
    connections_of,
    open_kind,
)
from server.connections.taking import take
from server.languages import OurWords
from server.problems import Refused
from server.sealing import unseal
from server.sharing.policy import Can, require
from server.sharing.visibility import listed_meetings
from server.signed import check

router = Router(tags=["connections"], auth=signed_in)
told_router = Router(tags=["connections"])
"""For other sides: they sign what they send."""


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

"""Connect an outside system, change what is said of it, try it, and take it away."""

from __future__ import annotations

import json
from contextlib import suppress
from typing import Any

from django.conf import settings as django_settings
from django.utils import timezone
from pydantic import ValidationError

from core.problems import InputProblem
from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.connections.keep import keep
from server.connections.kinds import KINDS
from server.connections.kinds.base import Settings
from server.connections.models import Connection, Delivery, DeliveryState
from server.connections.queries import open_kind, right_over, secrets_of
from server.outward import settled
from server.problems import Refused
from server.sealing import seal, unseal
from server.sharing.policy import Can, require
from server.signed import new_secret

MOST = 40
"""Connections of a workspace or a member."""


def connect(membership: Membership, kind: str, name: str, given: dict[str, Any], *, everybody: bool) -> tuple[Connection, str]:
    """Connect one: of the workspace (everybody), or one's own. The other side is asked at once, so that what is wrong is said here. Returns
    it, and what the other side says of itself. Raises Refused."""
    right = Can.MANAGE if everybody else Can.SEND
    require(membership, right)
    if kind not in KINDS:
        raise Refused(422, "There is no such kind of connection here.")
    there = Connection.objects.filter(workspace=membership.workspace, membership=None if everybody else membership, dropped_at=None)
    if there.count() >= MOST:
        raise Refused(409, f"There are {MOST} connections already, which is as many as there can be. Take one away first.")
    connection = Connection(
        workspace=membership.workspace,
        membership=None if everybody else membership,
        made_by=membership,
        kind=kind,
        name=one_line(name)[:120] or KINDS[kind].title,
        signing=seal(new_secret()),
        next_at=timezone.now(),
    )
    said = _set(connection, given, {})
    with acting(membership, right, "connect", kind=kind, connection=connection.name, everybody=everybody):
        keep(connection)
    subscribe(connection)
    return connection, said


def change_connection(membership: Membership, connection: Connection, name: str | None, given: dict[str, Any] | None) -> str:
    """Another name, other settings; a secret that is not given stays as it is. What was put aside is not sent again by itself. Raises Refused."""
    said = ""
    if given is not None:
        said = _set(connection, given, secrets_of(connection))
        connection.trouble, connection.fails, connection.told_at, connection.next_at = "", 0, None, timezone.now()
    with acting(membership, right_over(connection), "change connection", kind=connection.kind, connection=connection.name):
        if name is not None:
            connection.name = one_line(name)[:120] or connection.name
        keep(connection)
    if given is not None:
        subscribe(connection)
    return said


def check_connection(membership: Membership, connection: Connection) -> str:
    """Ask the other side whether all is well; what it says of itself. Raises Refused."""
    with acting(membership, right_over(connection), "try connection", kind=connection.kind, connection=connection.name):
        try:
            said = open_kind(connection).check()
        except InputProblem as problem:
            Connection.objects.filter(pk=connection.pk).update(trouble=str(problem))
            said = ""
        else:
            Connection.objects.filter(pk=connection.pk).update(trouble="", fails=0)
    connection.refresh_from_db()
    return said


def drop_connection(membership: Membership, connection: Connection) -> None:
    """Take it away. What went there stays there; that it went is kept, its credentials are not. It cannot be undone: it can be connected anew."""
    with acting(membership, right_over(connection), "drop connection", kind=connection.kind, connection=connection.name):
        kind = open_kind(connection)
        Delivery.objects.filter(connection=connection, state=DeliveryState.WAITING).update(state=DeliveryState.DROPPED, said="The connection was taken away.")
        connection.rules.all().delete()
        Connection.objects.filter(pk=connection.pk).update(dropped_at=timezone.now(), settings={}, secrets="", signing="", claim=None, cursor="", trouble="")
    with suppress(InputProblem):  # what it tells from now on is refused in any case
        kind.unsubscribe(told_at(connection))


def hand_over(sender: object, membership: Membership, heir: Membership | None, **_: object) -> None:
    """Whoever leaves takes their own connections along; those of the workspace go on in the heir's name."""
    Connection.objects.filter(made_by=membership, membership=None).update(made_by=heir)


def told_at(connection: Connection) -> str:
    """Where the other side tells of what is new there."""
    return f"{django_settings.BASE_URL}/api/connections/{connection.pk}/told"


def _set(connection: Connection, given: dict[str, Any], before: dict[str, Any]) -> str:
    """Settings that are asked for, and work. Raises Refused."""
    kind = KINDS[connection.kind]
    fields = kind.asks.model_json_schema()["properties"]
    secret = {name for name, field in fields.items() if field.get("secret")}
    known = {name: value for name, value in given.items() if name in fields and not (name in secret and not value)}
    try:
        checked = kind.asks.model_validate({**{name: value for name, value in before.items() if name in secret}, **known})
        _settle_addresses(checked, fields, secret=bool(secret))
    except ValidationError as error:
        wrong = [{"field": str(one["loc"][-1]) if one["loc"] else "", "detail": one["msg"]} for one in error.errors()]
        said = "; ".join(f"{fields.get(one['field'], {}).get('title', one['field'])}: {one['detail']}" for one in wrong)
        raise Refused(422, f"Some of what was given cannot be used. {said}", errors=wrong) from error
    except InputProblem as problem:
        raise Refused(422, str(problem)) from problem
    values = checked.model_dump(mode="json")
    connection.settings = {name: value for name, value in values.items() if name not in secret}
    connection.secrets = seal(json.dumps({name: value for name, value in values.items() if name in secret}))
    opened = kind(checked)
    try:
        said = opened.check()
        claim = opened.claims()
    except InputProblem as problem:
        raise Refused(422, str(problem)) from problem
    connection.claim = f"{connection.kind} {claim}"[:600] if claim else None
    return said


def _settle_addresses(checked: Settings, fields: dict[str, Any], *, secret: bool) -> None:
    for name, field in fields.items():
        if field.get("format") == "uri" and (value := getattr(checked, name)):
            setattr(checked, name, settled(value, secret=secret))


def subscribe(connection: Connection) -> None:
    """Where the other side can tell of what is new, it is asked to; where that comes to nothing, it is asked every few minutes instead."""
    try:
        open_kind(connection).subscribe(told_at(connection), unseal(connection.signing))
    except InputProblem as problem:
        Connection.objects.filter(pk=connection.pk).update(trouble=f"It does not tell of what is new by itself ({problem}). It is asked every few minutes.")

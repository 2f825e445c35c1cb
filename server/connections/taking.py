"""What has become elsewhere of something that was delivered, and is taken into the ledger: state, owner, day.

Told by comparing three: how it stands here, there, and when both last agreed. What changed on one side is taken by the other; where both
have changed, both are kept, and a person says which counts.
"""

from __future__ import annotations

import logging
from collections.abc import Sequence
from datetime import date
from typing import Any

from django.db import transaction
from django.utils import timezone
from django.utils.crypto import salted_hmac
from ninja import Schema

from core.text import folded, one_line
from server.accounts.models import Membership
from server.audit.log import log
from server.connections.kinds.base import News
from server.connections.models import Connection, Placed
from server.connections.queries import side_of
from server.connections.subjects import THINGS
from server.connections.subjects.matters import entry
from server.meetings.models import Person
from server.minutes.actions.judge_finding import set_done
from server.minutes.actions.keep_action import give, put_to
from server.minutes.models import Finding
from server.problems import Refused
from server.sharing.policy import Can, may

logger = logging.getLogger("server.connections")

FIELDS = ("state", "owner", "due")
"""What comes back of an action."""
_STATES = ("open", "done", "dropped")


def digest_of(contents: Schema) -> str:
    """By which it is told whether something else is to be said: with this server's key, so that nobody guesses words by it."""
    return salted_hmac("placed", contents.model_dump_json()).hexdigest()


def agreed_of(contents: Schema) -> dict[str, str | None]:
    """What can come back of it, as it stands here."""
    said = contents.model_dump(mode="json")
    owner = said.get("owner") or {}
    return {"state": said["state"], "owner": owner.get("name"), "due": said.get("due")} if "owner" in said else {}


def take(connection: Connection, news: Sequence[News]) -> None:
    """Take in what is new there. What is not ours is passed over; the same again changes nothing."""
    for one in news:
        with transaction.atomic():
            placed = Placed.objects.select_for_update(of=("self",)).select_related("behalf__user", "behalf__workspace", "meeting").filter(connection=connection, remote=one.remote, gone_at=None).first()
            if placed is None:
                continue
            if one.gone:
                # A person's doing there: the action stays here, and is not put there again by itself.
                Placed.objects.filter(pk=placed.pk).update(gone_at=timezone.now(), clash={}, left="")
                log(connection.workspace, None, "gone there", placed.meeting, connection=connection.name, subject=placed.subject)
                continue
            _take(connection, placed, one)


def _take(connection: Connection, placed: Placed, news: News) -> None:
    side = placed.behalf or side_of(connection)
    composed = THINGS[placed.subject].compose(side, placed.key)
    if composed is None:
        return
    _, contents = composed
    in_step = placed.digest == digest_of(contents)
    here, there = agreed_of(contents), _said(connection, news)
    agreed, clash = dict(placed.agreed), dict(placed.clash)
    for name in [name for name in FIELDS if name in there]:
        if there[name] == here.get(name):
            agreed[name] = there[name]
            clash.pop(name, None)
        elif there[name] == agreed.get(name):
            clash.pop(name, None)
        elif here.get(name) == agreed.get(name) and _apply(connection, side, placed, name, there[name]):
            agreed[name] = there[name]
            clash.pop(name, None)
        else:
            clash[name] = {"here": here.get(name), "there": there[name]}
    changed: dict[str, Any] = {"agreed": agreed, "clash": clash}
    if news.mark:
        changed["mark"] = news.mark[:400]
    if in_step and not clash and (now := THINGS[placed.subject].compose(side, placed.key)):
        changed["digest"] = digest_of(now[1])
    Placed.objects.filter(pk=placed.pk).update(**changed)


def _said(connection: Connection, news: News) -> dict[str, str | None]:
    said: dict[str, str | None] = {}
    if news.state in _STATES:
        said["state"] = news.state
    if news.owner is not None or news.address is not None:
        said["owner"] = _called(connection, news.owner or "", news.address or "") or None
    if news.says_due:
        said["due"] = news.due.isoformat() if news.due else None
    return said


def _called(connection: Connection, name: str, address: str) -> str:
    """How whoever is meant there is called here: the person of that address, else of that name, else as they are called there."""
    people = Person.objects.filter(workspace=connection.workspace_id)
    if address and (found := people.filter(user__email__iexact=address).first() or people.filter(email__iexact=address).first()):
        return found.name
    known = people.filter(folded=folded(one_line(name)[:120])).first() if name else None
    return known.name if known else one_line(name)[:120]


def actor_of(connection: Connection) -> Membership | None:
    """In whose name it is done: whose the connection is, or whoever made it for the workspace; None where they are gone."""
    return connection.membership or connection.made_by


def _apply(connection: Connection, side: Membership, placed: Placed, name: str, value: str | None) -> bool:
    """Do it here. False where it cannot be done: then a person decides."""
    found, actor = entry(side, placed.key), actor_of(connection)
    if found is None or found.current.finding is None or actor is None or not may(actor, Can.CHANGE, found.current.meeting):
        return False
    try:
        with transaction.atomic():
            _set(actor, found.current.finding, name, value)
    except Refused as refused:
        logger.warning("connection %s: what was said there could not be done here (%s)", connection.pk, refused.detail)
        return False
    log(connection.workspace, None, "taken from connection", placed.meeting, connection=connection.name, what=name)
    return True


def _set(actor: Membership, finding: Finding, name: str, value: str | None) -> None:
    if name == "state":
        set_done(actor, finding, value != "open", given_up=value == "dropped")
    elif name == "owner":
        give(actor, finding, finding.owner_name or None, value)
    else:
        put_to(actor, finding, finding.due, date.fromisoformat(value) if value else None)


def settle_clash(membership: Membership, connection: Connection, placed: Placed, name: str, keep: str) -> None:
    """A person says which counts, of one of FIELDS: "here" or "there"; in the transaction that is open. Raises Refused."""
    clash = dict(placed.clash)
    if name not in clash:
        raise Refused(409, "Somebody has said which counts meanwhile. Look at it again.")
    there = clash.pop(name)["there"]
    agreed = {**placed.agreed, name: there}
    if keep == "there":
        found = entry(membership, placed.key)
        if found is None or found.current.finding is None:
            raise Refused(404, "There is no such action (any more), or its meeting is not shared with you.")
        _set(membership, found.current.finding, name, there)
    # Whatever it is here now, it is sent: what lies there may be something else again.
    Placed.objects.filter(pk=placed.pk).update(clash=clash, agreed=agreed, digest="")

"""Where what a meeting says goes, at an other side where that depends on who was there: from their addresses, as it has them, or as somebody has said."""

from __future__ import annotations

from dataclasses import dataclass

from core.planning.free_mail import domain_of
from server.accounts.models import Membership
from server.connections.kinds.base import Kind, Target
from server.connections.models import Connection, Known
from server.meetings.models import Meeting
from server.minutes.actions.send_mail import address_of


@dataclass(frozen=True)
class Placing:
    """Where it goes; and, of which address it is not clear, between which places."""

    targets: tuple[Target, ...]
    unclear: tuple[tuple[str, Target], ...]


def outside_addresses(meeting: Meeting) -> list[str]:
    """The addresses of those who were there and are not of the workspace, in order, in small letters."""
    members = Membership.objects.filter(workspace=meeting.workspace_id)
    of_us = {one.user_id for one in members if not one.from_outside}
    people = meeting.people.select_related("user").order_by("attendee__id")
    return list(dict.fromkeys(address.lower() for one in people if one.user_id not in of_us and (address := address_of(one))))


def placing(connection: Connection, kind: Kind, meeting: Meeting) -> Placing:
    """Raises InputProblem."""
    said = {one.what: Target(one.target, one.target_name) for one in connection.known.all()}
    targets: dict[str, Target] = {}
    unclear: list[tuple[str, Target]] = []
    for address in outside_addresses(meeting):
        domain = domain_of(address)
        found = [said[address]] if address in said else [said[domain]] if domain in said else list(kind.place(address))
        if len(found) == 1:
            targets.setdefault(found[0].key, found[0])
        unclear += [(address, one) for one in found] if len(found) > 1 else []
    return Placing(tuple(targets.values()), tuple(unclear))


def remember(connection: Connection, membership: Membership, what: str, target: Target) -> None:
    """Somebody says where what has to do with an address goes."""
    Known.objects.update_or_create(connection=connection, what=what[:254].lower(), defaults={"target": target.key, "target_name": target.name[:200], "said_by": membership.user})

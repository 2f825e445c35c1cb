"""Send something by hand, send it again, take it back, and say which side counts."""

from __future__ import annotations

from collections.abc import Sequence

from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.connections.kinds import KINDS
from server.connections.kinds.base import Target
from server.connections.models import Connection, Delivery, DeliveryState, Happened, Placed, Subject
from server.connections.placing import remember
from server.connections.queries import seen_by_all
from server.connections.rules import queue_attempt, queue_delivery, queue_settling
from server.connections.subjects import THINGS
from server.connections.taking import settle_clash
from server.notify import Part
from server.problems import Refused
from server.sharing.policy import Can, require


def send(membership: Membership, connection: Connection, subject: Subject, key: str, target: str, target_name: str) -> Delivery:
    """By one who sees it and may send. To a connection of the workspace, what not all of it sees is sent by who governs its meeting. Raises Refused."""
    kind = KINDS[connection.kind]
    if subject not in kind.takes:
        raise Refused(422, f"{kind.title} does not take this. It takes {', '.join(sorted(kind.takes))}.")
    composed = THINGS[subject].compose(membership, key)
    if composed is None:
        raise Refused(404, "There is nothing to send: it is not there (any more), or is not shared with you.")
    if kind.aims and not target:
        raise Refused(422, "Choose where it goes there.")
    meeting = composed[0]
    with acting(membership, Can.SEND, "send to connection", meeting, tells=(Part.MEETING,), connection=connection.name, subject=subject):
        if connection.membership_id is None and not seen_by_all(meeting):
            require(membership, Can.GOVERN, meeting)
        target, target_name = target[:200], one_line(target_name)[:200]
        where = {"connection": connection, "subject": subject, "key": key, "target": target}
        # What goes by hand is put together as whoever sends it sees it; what they may not see later does not go on by it.
        placed, fresh = Placed.objects.get_or_create(**where, defaults={"meeting": meeting, "target_name": target_name, "behalf": membership})
        if not fresh and placed.gone_at:
            Placed.objects.filter(pk=placed.pk).update(remote="", gone_at=None, placed_at=None, left="", digest="", behalf=membership)
        made = queue_delivery(connection, meeting, subject, key, Happened.MADE, target, target_name, by=membership.user)
        return made or Delivery.objects.get(**where, state=DeliveryState.WAITING, begun_at=None)


def send_again(membership: Membership, delivery: Delivery) -> Delivery:
    """What was put aside. It goes with the same key, so that it is not there twice. Raises Refused."""
    with acting(membership, Can.SEND, "send again", delivery.meeting, connection=delivery.connection.name, subject=delivery.subject):
        found = Delivery.objects.select_for_update().filter(pk=delivery.pk, state=DeliveryState.ASIDE).first()
        if found is None:
            raise Refused(409, "This is not put aside (any more).")
        where = {"connection": found.connection, "subject": found.subject, "key": found.key, "target": found.target}
        if Delivery.objects.filter(**where, state=DeliveryState.WAITING, begun_at=None).exists():
            raise Refused(409, "A later one waits to go there already.")
        placed = Placed.objects.filter(**where)
        placed.update(left="")
        if found.happened != Happened.GONE:
            placed.filter(gone_at__isnull=False).update(remote="", gone_at=None, placed_at=None, digest="")
        found.state, found.tries, found.begun_at, found.next_at = DeliveryState.WAITING, 0, None, None
        found.save()
        queue_attempt(found)
    return found


def say_where(membership: Membership, delivery: Delivery, places: Sequence[tuple[str, str]]) -> None:
    """Which of the places is meant, by an address of somebody who was there and the place's key; it is remembered. Raises Refused."""
    with acting(membership, Can.SEND, "say where", delivery.meeting, connection=delivery.connection.name):
        found = Delivery.objects.select_for_update().filter(pk=delivery.pk, state=DeliveryState.ASKED).first()
        if found is None:
            raise Refused(409, "Somebody has said so meanwhile.")
        offered = {(what, key): name for what, key, name in found.choices}
        if {what for what, _ in places} != {what for what, _, _ in found.choices} or not set(places) <= set(offered):
            raise Refused(422, "Say for each address which of the places is meant.")
        for what, key in places:
            remember(delivery.connection, membership, what, Target(key, offered[what, key]))
        found.state, found.choices, found.tries, found.begun_at = DeliveryState.WAITING, [], 0, None
        found.save()
        queue_attempt(found)


def take_back(membership: Membership, placed: Placed) -> None:
    """Have it removed there. It is not put there again by itself. Raises Refused."""
    with acting(membership, Can.SEND, "take back from connection", placed.meeting, connection=placed.connection.name, subject=placed.subject):
        if not KINDS[placed.connection.kind].recalls:
            raise Refused(409, f"{KINDS[placed.connection.kind].title} takes nothing back. Ask whoever has it there.")
        if not placed.remote or placed.gone_at:
            raise Refused(409, "There is nothing of it there (any more).")
        Placed.objects.filter(pk=placed.pk).update(left="")
        queue_delivery(placed.connection, placed.meeting, placed.subject, placed.key, Happened.GONE, placed.target, placed.target_name, by=membership.user)


def say_which(membership: Membership, placed: Placed, name: str, keep: str) -> None:
    """Where both sides have changed something, say which counts: "here" or "there". Raises Refused."""
    with acting(membership, Can.CHANGE, "settle clash", placed.meeting, connection=placed.connection.name, what=name, keep=keep):
        placed = Placed.objects.select_for_update(of=("self",)).select_related("connection", "meeting").get(pk=placed.pk)
        settle_clash(membership, placed.connection, placed, name, keep)
        if placed.meeting_id:
            queue_settling(placed.meeting_id, soon=0)



"""Addresses from which mail counts as a member's own."""

from __future__ import annotations

from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.letterbox.models import Sender
from server.problems import Refused
from server.sharing.policy import Can

MOST = 20


def list_sender(membership: Membership, address: str) -> Sender:
    """By one who may give recordings. Of members' own addresses none: they write for themselves. Raises Refused."""
    with acting(membership, Can.ADD, "list sender"):
        address = one_line(address).lower()
        if Membership.objects.filter(workspace=membership.workspace, user__email__iexact=address).exists():
            raise Refused(409, "That is a member's own address. What they send counts as theirs.")
        if Sender.objects.filter(membership__workspace=membership.workspace, address=address).exclude(membership=membership).exists():
            raise Refused(409, "What comes from that address counts as somebody else's already.")
        if membership.senders.count() >= MOST:
            raise Refused(409, f"{MOST} addresses are listed, which is as many as there can be.")
        return Sender.objects.get_or_create(membership=membership, address=address)[0]


def drop_sender(membership: Membership, key: int) -> None:
    """Mail from there has no effect any more."""
    with acting(membership, Can.ADD, "drop sender"):
        membership.senders.filter(pk=key).delete()

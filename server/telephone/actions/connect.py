"""Connect a telephone system, and let go of it."""

from __future__ import annotations

from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.problems import Refused
from server.sealing import seal
from server.sharing.policy import Can
from server.signed import new_secret
from server.telephone.models import Dialer

MOST = 20
"""Of one member."""


def connect_dialer(membership: Membership, name: str, visibility: str) -> tuple[Dialer, str]:
    """The row, and the secret that it signs with: shown once, and kept sealed. Raises Refused."""
    with acting(membership, Can.ADD, "connect telephone"):
        if membership.dialers.count() >= MOST:
            raise Refused(409, f"{MOST} telephone systems are connected, which is as many as there can be. Take one away first.")
        secret = new_secret()
        dialer = Dialer.objects.create(membership=membership, name=one_line(name)[:120], secret=seal(secret), visibility=visibility)
    return dialer, secret


def drop_dialer(membership: Membership, dialer: Dialer) -> None:
    """Nothing comes from it any more. Meetings that came of it stay."""
    with acting(membership, Can.ADD, "drop telephone"):
        dialer.delete()

"""Take an invitation back."""

from __future__ import annotations

from server.accounts.models import Invitation, Membership
from server.acting import acting
from server.sharing.policy import Can


def withdraw(membership: Membership, invitation_id: int) -> None:
    """The way in is closed; nothing happens where it was taken up already. Raises Refused."""
    with acting(membership, Can.MANAGE, "withdraw invitation"):
        Invitation.objects.filter(pk=invitation_id, workspace=membership.workspace, accepted_at=None).delete()

"""Take an invitation back."""

from __future__ import annotations

from django.db import transaction

from server.accounts.models import Invitation, Membership
from server.audit.log import log
from server.problems import not_allowed


def withdraw(membership: Membership, invitation_id: int) -> None:
    """The way in is closed; nothing happens where it was taken up already. Raises Refused."""
    if not membership.manages:
        raise not_allowed("Only owners and admins take invitations back.")
    with transaction.atomic():
        Invitation.objects.filter(pk=invitation_id, workspace=membership.workspace, accepted_at=None).delete()
        log(membership.workspace, membership.user, "withdraw invitation")

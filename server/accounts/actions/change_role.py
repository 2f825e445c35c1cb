"""Give a member another role."""

from __future__ import annotations

from django.db import transaction

from server.accounts.models import Membership, Role
from server.audit.log import log
from server.problems import Refused, not_allowed


def change_role(membership: Membership, member: Membership, role: str) -> Membership:
    """Apply the role. Raises Refused; a workspace keeps at least one owner."""
    if not membership.manages or Role.OWNER in (member.role, role) and membership.role != Role.OWNER:
        raise not_allowed("Only owners and admins change roles, and only owners make or unmake owners.")
    with transaction.atomic():
        # The owners' rows are locked, so that two of them cannot unmake each other at once.
        owners = Membership.objects.select_for_update().filter(workspace=membership.workspace, role=Role.OWNER)
        if member.role == Role.OWNER and role != Role.OWNER and len(owners) == 1:
            raise Refused(409, "This is the only owner. Make somebody else an owner first.")
        member.role = role
        member.save(update_fields=["role"])
        log(membership.workspace, membership.user, "role", member=member.user.email, role=role)
    return member

"""Give a member another role."""

from __future__ import annotations

from server.accounts.models import Membership, Role
from server.acting import acting
from server.problems import Refused
from server.sharing.policy import Can, require


def change_role(membership: Membership, member: Membership, role: str) -> Membership:
    """Apply the role. Raises Refused; a workspace keeps at least one owner."""
    with acting(membership, Can.MANAGE, "role", member=member.user.email, role=role):
        if Role.OWNER in (member.role, role):
            require(membership, Can.CROWN)
        # The owners' rows are locked, so that two of them cannot unmake each other at once.
        owners = Membership.objects.select_for_update().filter(workspace=membership.workspace, role=Role.OWNER)
        if member.role == Role.OWNER and role != Role.OWNER and len(owners) == 1:
            raise Refused(409, "This is the only owner. Make somebody else an owner first.")
        member.role = role
        member.save(update_fields=["role"])
    return member

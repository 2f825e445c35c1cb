"""Another address for the clerk."""

from __future__ import annotations

from server.accounts.models import Membership, Workspace, new_clerk_key
from server.acting import acting
from server.sharing.policy import Can


def renew_address(membership: Membership) -> Workspace:
    """What is sent to the old one is refused from now on; events that have it among their attendees ask for no clerk any more. Raises Refused."""
    with acting(membership, Can.MANAGE, "renew the clerk's address"):
        workspace = Workspace.objects.select_for_update(no_key=True).get(pk=membership.workspace_id)
        workspace.clerk_key = new_clerk_key()
        workspace.save(update_fields=["clerk_key"])
    return workspace

"""Take somebody's place in a workspace away, or give one's own up."""

from __future__ import annotations

from server.accounts.models import Membership, Role
from server.accounts.signals import leaving
from server.acting import acting
from server.problems import Refused
from server.removals.ledger import note_removal, replays
from server.sharing.policy import Can, may, require


def remove_member(membership: Membership, member: Membership, heir: Membership | None) -> None:
    """They see nothing of the workspace from now on. heir: a member to whom their meetings, excerpts and shelves go; None: these stay as they
    are. Links that they gave lead nowhere any more. Raises Refused; a workspace keeps at least one owner."""
    leaves = member.pk == membership.pk
    with acting(membership, None if leaves else Can.MANAGE, "leave" if leaves else "remove member", member=member.user.email, handed_over=heir is not None):
        owners = list(Membership.objects.select_for_update().filter(workspace=membership.workspace, role=Role.OWNER))
        if may(member, Can.CROWN):
            if not leaves:
                require(membership, Can.CROWN)
            if len(owners) == 1:
                raise Refused(409, "This is the only owner. Make somebody else an owner first.")
        if heir and (heir.pk == member.pk or heir.workspace_id != member.workspace_id or not may(heir, Can.ADD)):
            raise Refused(422, "What was theirs goes to another member of this workspace, who is no guest. Choose one.")
        note_removal("member", workspace=member.workspace_id, user=member.user_id, heir=heir and heir.user_id)
        _remove(member, heir)


def _remove(member: Membership, heir: Membership | None) -> None:
    leaving.send(Membership, membership=member, heir=heir)
    member.delete()


@replays("member")
def _remove_again(facts: dict) -> None:
    places = {one.user_id: one for one in Membership.objects.filter(workspace=facts["workspace"], user__in=[facts["user"], facts["heir"]])}
    if member := places.get(facts["user"]):
        _remove(member, places.get(facts["heir"]))

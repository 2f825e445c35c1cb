"""Say what is usual of one's own meetings, or of all of the workspace."""

from __future__ import annotations

from server.accounts.models import Membership
from server.acting import acting
from server.meetings.models import OwnCustom, WorkspaceCustom
from server.sharing.policy import Can


def say_own(membership: Membership, *, visibility: str, goes_to: str, going: str) -> None:
    """Of meetings that I make; those that are there already stay as they are. Raises Refused."""
    with acting(membership, Can.ADD, "say own custom"):
        OwnCustom.objects.update_or_create(membership=membership, defaults={"visibility": visibility, "goes_to": goes_to, "going": going})


def say_workspace(membership: Membership, *, visibility: str, goes_to: str, going: str) -> None:
    """Of everybody's, where neither they nor the series say otherwise. Raises Refused."""
    with acting(membership, Can.MANAGE, "say custom", visibility=visibility, goes_to=goes_to, going=going):
        WorkspaceCustom.objects.update_or_create(
            workspace=membership.workspace, defaults={"visibility": visibility, "goes_to": goes_to, "going": going}
        )

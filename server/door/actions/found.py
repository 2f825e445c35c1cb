"""Make a workspace of one's own."""

from __future__ import annotations

from django.conf import settings
from django.db import transaction

from core.text import one_line
from server.accounts.models import Membership, Role, User, Workspace
from server.accounts.signals import joined
from server.acting import acting
from server.problems import Refused, not_allowed
from server.sharing.policy import Can, may


def may_found(user: User) -> bool:
    """May they make a workspace: where sign-up is open, where there is none yet, or if they add meetings to one already."""
    if settings.SIGN_UP_OPEN or not Workspace.objects.exists():
        return True
    return any(may(one, Can.ADD) for one in Membership.objects.filter(user=user))


def found(user: User, name: str) -> Membership:
    """A new workspace with this user as its owner. Raises Refused without a name, or where a guest may not."""
    if not may_found(user):
        raise not_allowed("New workspaces are not open to guests here. Ask whoever runs this server.")
    if not one_line(name):
        raise Refused(422, "Give the workspace a name.")
    with transaction.atomic():
        workspace = Workspace.objects.create(name=one_line(name)[:120])
        membership = Membership.objects.create(user=user, workspace=workspace, role=Role.OWNER)
        with acting(membership, None, "found"):
            joined.send(Membership, user=user, workspace=workspace)
    return membership

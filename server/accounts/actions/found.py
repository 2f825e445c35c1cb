"""Make a workspace of one's own."""

from django.db import transaction

from server.accounts.actions.accept import link_person
from server.accounts.models import Membership, Role, User, Workspace
from server.audit.log import log
from server.problems import Refused


def found(user: User, name: str) -> Membership:
    """A new workspace with this user as its owner. Raises Refused without a name."""
    if not name.strip():
        raise Refused(422, "Give the workspace a name.")
    with transaction.atomic():
        workspace = Workspace.objects.create(name=name.strip()[:120])
        membership = Membership.objects.create(user=user, workspace=workspace, role=Role.OWNER)
        link_person(user, workspace)
        log(workspace, user, "found")
    return membership

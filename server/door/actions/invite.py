"""Offer somebody a place in a workspace, by mail."""

from __future__ import annotations

from functools import partial

from django.conf import settings
from django.utils import timezone

from server.accounts.models import Invitation, Membership, Role
from server.acting import acting
from server.languages import LONG_DAY, at
from server.mail.post import post
from server.mail.wording import Kind
from server.problems import Refused
from server.sharing.policy import Can, require


def invite(membership: Membership, email: str, role: str) -> Invitation:
    """Invite an address; an invitation that is still open is replaced. Raises Refused."""
    with acting(membership, Can.MANAGE, "invite", email=email, role=role):
        if role == Role.OWNER:
            require(membership, Can.CROWN)
        email = email.strip().lower()
        if Membership.objects.filter(workspace=membership.workspace, user__email=email).exists():
            raise Refused(409, f"{email} is in this workspace already.")
        Invitation.objects.filter(workspace=membership.workspace, email=email, accepted_at=None).delete()
        invitation = Invitation.objects.create(workspace=membership.workspace, email=email, role=role, invited_by=membership.user)
        post(
            Kind.INVITATION,
            email,
            workspace=membership.workspace,
            by=membership.user,
            link=f"{settings.BASE_URL}/invited/{invitation.token}",
            by_name=membership.user.called,
            workspace_name=membership.workspace.name,
            until=partial(at, invitation.ends_at, LONG_DAY),
        )
    return invitation


def find_invitation(token: str, *, lock: bool = False) -> Invitation:
    """The open invitation with this token; locked, so that it is taken up once. Raises Refused when there is none or it has ended."""
    found = Invitation.objects.select_related("workspace").filter(token=token, accepted_at=None, ends_at__gt=timezone.now())
    invitation = (found.select_for_update(of=("self",)) if lock else found).first()
    if invitation is None:
        raise Refused(404, "This invitation has ended or was used. Ask whoever sent it for a new one.")
    return invitation

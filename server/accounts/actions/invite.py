"""Offer somebody a place in a workspace, by mail."""

from django.conf import settings
from django.core.mail import send_mail
from django.db import transaction
from django.utils import timezone

from server.accounts.models import Invitation, Membership, Role
from server.audit.log import log
from server.problems import Refused, not_allowed


def invite(membership: Membership, email: str, role: str) -> Invitation:
    """Invite an address; an invitation that is still open is replaced. Raises Refused."""
    if not membership.manages:
        raise not_allowed("Only owners and admins invite people. Ask one of them.")
    if role == Role.OWNER and membership.role != Role.OWNER:
        raise not_allowed("Only an owner makes owners.")
    email = email.strip().lower()
    if Membership.objects.filter(workspace=membership.workspace, user__email=email).exists():
        raise Refused(409, f"{email} is in this workspace already.")
    with transaction.atomic():
        Invitation.objects.filter(workspace=membership.workspace, email=email, accepted_at=None).delete()
        invitation = Invitation.objects.create(workspace=membership.workspace, email=email, role=role, invited_by=membership.user)
        log(membership.workspace, membership.user, "invite", email=email, role=role)
    inviter = membership.user.called
    send_mail(
        f"{inviter} invites you to {membership.workspace.name}",
        f"{inviter} invites you to read and search the meetings of {membership.workspace.name} in Aftershower.\n\n"
        f"{settings.BASE_URL}/invited/{invitation.token}\n\nThe way in is open until {invitation.ends_at:%-d %B %Y}.\n",
        None,
        [email],
        fail_silently=True,
    )
    return invitation


def find_invitation(token: str) -> Invitation:
    """The open invitation with this token. Raises Refused when there is none or it has ended."""
    invitation = Invitation.objects.select_related("workspace").filter(token=token, accepted_at=None, ends_at__gt=timezone.now()).first()
    if invitation is None:
        raise Refused(404, "This invitation has ended or was used. Ask whoever sent it for a new one.")
    return invitation

"""Take up an invitation."""

from __future__ import annotations

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import transaction
from django.utils import timezone

from core.text import one_line
from server.accounts.models import Membership, User
from server.accounts.signals import joined
from server.acting import acting
from server.door.actions.invite import find_invitation
from server.problems import Refused


def accept(token: str, name: str, password: str, signed_in: User | None) -> User:
    """Join the workspace, as the user who is signed in or as a new one. Raises Refused.

    Whoever has an account signs in first: a link alone must not open somebody else's account.
    """
    invitation = find_invitation(token)
    user = User.objects.filter(email=invitation.email.lower()).first()
    if user is not None and user != signed_in:
        raise Refused(409, f"{invitation.email} has an account already. Sign in with it, then open the invitation again.")
    with transaction.atomic():
        invitation = find_invitation(token, lock=True)
        if user is None:
            try:
                validate_password(password, User(email=invitation.email, name=name))
            except ValidationError as error:
                raise Refused(422, " ".join(error.messages)) from error
            user = User.objects.create_user(invitation.email, password, name=one_line(name))
        membership, _ = Membership.objects.get_or_create(
            user=user, workspace=invitation.workspace, defaults={"role": invitation.role}
        )
        with acting(membership, None, "join", role=membership.role):
            joined.send(Membership, user=user, workspace=invitation.workspace)
            invitation.accepted_at = timezone.now()
            invitation.save(update_fields=["accepted_at"])
    return user

"""Say more of a person: how they are called, reached, and whom they are from."""

from __future__ import annotations

from django.core.exceptions import ValidationError
from django.core.validators import validate_email

from core.text import folded, one_line
from server.accounts.models import Membership
from server.acting import acting
from server.meetings.models import Person
from server.problems import Refused, not_allowed
from server.sharing.policy import Can, may


def change_person(
    membership: Membership, person: Person, *, name: str | None = None, email: str | None = None, organisation: str | None = None
) -> Person:
    """Apply what is given and leave the rest. Raises Refused.

    An address that somebody types is where mail goes, and ties nobody to an account: only an account's own accepted invitation does. The
    name of somebody with an account is set by themselves or by who manages the workspace, their address by nobody here.
    """
    with acting(membership, Can.ARRANGE, "change person") as act:
        person = Person.objects.select_for_update().get(pk=person.pk)
        if name is not None and one_line(name) != person.name:
            if person.user_id not in (None, membership.user_id) and not may(membership, Can.MANAGE):
                raise not_allowed(f"{person.name} has an account. Ask them, or an admin, to change the name.")
            person.name = one_line(name)[:120]
            if not person.name:
                raise Refused(422, "A person needs a name.")
            if Person.objects.filter(workspace=membership.workspace, folded=folded(person.name)).exclude(pk=person.pk).exists():
                raise Refused(409, f"There is somebody called {person.name} already. Use that name in the meeting instead.")
        if organisation is not None:
            person.organisation = one_line(organisation)[:120]
        if email is not None and email.strip().lower() != person.email.lower():
            _check_address(membership, person, email.strip())
            person.email = email.strip()
        person.save()
        act.note(person=person.pk)
    return person


def _check_address(membership: Membership, person: Person, email: str) -> None:
    if person.user_id:
        raise Refused(409, f"{person.name} signs in with {person.email}. That address is changed by nobody else.")
    if not email:
        return
    try:
        validate_email(email)
    except ValidationError as error:
        raise Refused(422, f"{email!r} is no e-mail address.") from error
    if member := Membership.objects.filter(workspace=membership.workspace, user__email__iexact=email).select_related("user").first():
        raise Refused(409, f"That is the address of {member.user.called}. Use their own name in the meeting.")
    if Person.objects.filter(workspace=membership.workspace, email__iexact=email).exclude(pk=person.pk).exists():
        raise Refused(409, f"{email} is somebody else of this workspace already.")

"""Say more of a person: how they are called, reached, and whom they are from."""

from __future__ import annotations

from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.db import transaction

from server.accounts.models import Membership
from server.audit.log import log
from server.meetings.models import Person
from server.problems import Refused, not_allowed


def change_person(
    membership: Membership, person: Person, *, name: str | None = None, email: str | None = None, organisation: str | None = None
) -> Person:
    """Apply what is given and leave the rest. Raises Refused.

    A person with the address of a member is that member, who then finds the meetings in which they were.
    """
    if not membership.writes:
        raise not_allowed("Guests read; they do not change people.")
    if name is not None:
        person.name = name.strip()
        if not person.name:
            raise Refused(422, "A person needs a name.")
        if Person.objects.filter(workspace=membership.workspace, name=person.name).exclude(pk=person.pk).exists():
            raise Refused(409, f"There is somebody called {person.name} already. Use that name in the meeting instead.")
    if organisation is not None:
        person.organisation = organisation.strip()
    if email is not None:
        person.email = email.strip()
        try:
            if person.email:
                validate_email(person.email)
        except ValidationError as error:
            raise Refused(422, f"{person.email!r} is no e-mail address.") from error
        member = (
            Membership.objects.filter(workspace=membership.workspace, user__email__iexact=person.email).first() if person.email else None
        )
        if member and Person.objects.filter(workspace=membership.workspace, user=member.user).exclude(pk=person.pk).exists():
            raise Refused(409, f"{person.email} is somebody else of this workspace already.")
        person.user = member and member.user
    with transaction.atomic():
        person.save()
        log(membership.workspace, membership.user, "change person", person=person.name)
    return person

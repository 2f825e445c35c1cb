"""People of a workspace, by name."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date
from zoneinfo import ZoneInfo

from core.text import folded, one_line
from server.accounts.models import User, Workspace
from server.meetings.models import Meeting, Person


def find_people(workspace: Workspace, names: Iterable[str]) -> list[Person]:
    """The persons with these names, in order, made where there is none; case and composition do not matter, doubles are dropped."""
    wanted: dict[str, str] = {}
    for name in names:
        if key := folded(one_line(name)[:120]):
            wanted.setdefault(key, one_line(name)[:120])
    return [Person.objects.get_or_create(workspace=workspace, folded=key, defaults={"name": name})[0] for key, name in wanted.items()]


def names_of(meeting: Meeting) -> list[str]:
    """Those who were there."""
    return list(meeting.people.values_list("name", flat=True))


def day_of(meeting: Meeting) -> date:
    """The day a meeting is held, where it is held."""
    return meeting.started_at.astimezone(ZoneInfo(meeting.time_zone)).date()


def link_person(user: User, workspace: Workspace) -> Person:
    """Tie a user to their person of a workspace: the one that is theirs already, else one of their address that is nobody's, else a new one.

    Only somebody who has shown that the address is theirs may be handed in here.
    """
    if own := Person.objects.filter(workspace=workspace, user=user).first():
        return own
    person = Person.objects.filter(workspace=workspace, email__iexact=user.email, user=None).order_by("id").first()
    if person is None:
        name = user.called
        taken = Person.objects.filter(workspace=workspace, folded=folded(name)).exists()
        person = Person(workspace=workspace, name=f"{name[:60]} ({user.email})"[:120] if taken else name)
    person.user, person.email = user, user.email
    person.save()
    return person

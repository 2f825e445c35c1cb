"""People of a workspace, by name."""

from __future__ import annotations

from django.db.models.functions import Lower

from server.accounts.models import Workspace
from server.meetings.models import Person


def find_people(workspace: Workspace, names: list[str]) -> list[Person]:
    """The persons with these names, in order, made where there is none; case does not matter, doubles are dropped."""
    first: dict[str, str] = {}
    for name in names:
        if name.strip():
            first.setdefault(name.strip().casefold(), name.strip()[:120])
    wanted = list(first.values())
    known = {
        person.name.casefold(): person
        for person in Person.objects.annotate(low=Lower("name")).filter(workspace=workspace, low__in=[name.lower() for name in wanted])
    }
    return [known.get(name.casefold()) or Person.objects.create(workspace=workspace, name=name) for name in wanted]

"""Say what goes by itself."""

from __future__ import annotations

from collections.abc import Collection

from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.connections.kinds import KINDS
from server.connections.models import Connection, Rule, Subject
from server.connections.queries import right_over
from server.meetings.models import Person, Series, Shelf
from server.minutes.queries import find_template
from server.problems import Refused

MOST = 30
"""Rules of one connection."""


def add_rule(
    membership: Membership,
    connection: Connection,
    subjects: Collection[Subject],
    *,
    series: int | None,
    shelf: int | None,
    template: str,
    people: Collection[int],
    target: str,
    target_name: str,
) -> Rule:
    """Of meetings that are ready from now on. A shelf is one at which one has a place. Raises Refused."""
    with acting(membership, right_over(connection), "add rule", connection=connection.name, subjects=sorted(subjects)):
        kind = KINDS[connection.kind]
        if not subjects or not set(subjects) <= kind.takes:
            raise Refused(422, f"Choose what goes. {kind.title} takes {', '.join(sorted(kind.takes))}.")
        if kind.aims and not target:
            raise Refused(422, "Choose where it goes there.")
        if connection.rules.count() >= MOST:
            raise Refused(409, f"There are {MOST} rules already, which is as many as there can be. Take one away first.")
        found_series = Series.objects.filter(workspace=membership.workspace, pk=series).first() if series else None
        found_shelf = Shelf.objects.filter(workspace=membership.workspace, pk=shelf, places__membership=membership).first() if shelf else None
        if series and not found_series or shelf and not found_shelf or template and not find_template(membership.workspace, template):
            raise Refused(422, "One of the things that were chosen is not there (any more). Look at the list again.")
        found = list(Person.objects.filter(workspace=membership.workspace, pk__in=people))
        if len(found) != len(set(people)):
            raise Refused(422, "One of those is not known here (any more). Look at the list again.")
        rule = Rule.objects.create(
            connection=connection,
            subjects=sorted(set(subjects)),
            series=found_series,
            shelf=found_shelf,
            template=template,
            target=target[:200],
            target_name=one_line(target_name)[:200],
        )
        rule.people.set(found)
    return rule


def drop_rule(membership: Membership, rule: Rule) -> None:
    """What went by it stays there, and is kept in step."""
    with acting(membership, right_over(rule.connection), "drop rule", connection=rule.connection.name):
        rule.delete()

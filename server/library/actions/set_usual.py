"""Say what is usual in a series: what its further meetings take when they come to be of it."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.meetings.models import Person, Series, Usual
from server.minutes.queries import find_template
from server.problems import Refused
from server.sharing.policy import Can, require


def set_usual(
    membership: Membership,
    series: Series,
    *,
    visibility: str,
    goes_to: str,
    going: str,
    template: str,
    points: Sequence[tuple[str, int]],
    readers: Collection[int],
    receivers: Collection[int],
) -> Usual:
    """readers: keys of members who see them by name; receivers: keys of people who get their minutes. Meetings that are there already stay as
    they are. Who sees the meetings that others will make, and gets their minutes, is for those who manage the workspace to say. Raises Refused."""
    with acting(membership, Can.ARRANGE, "set usual", series=series.pk):
        usual, _ = Usual.objects.select_for_update().get_or_create(series=series)
        known = (usual.visibility, usual.goes_to, usual.going, *(set(one.values_list("pk", flat=True)) for one in (usual.readers, usual.receivers)))
        if known != (visibility, goes_to, going, set(readers), set(receivers)):
            require(membership, Can.MANAGE)
        members = membership.workspace.memberships.filter(pk__in=readers)
        if members.count() != len(set(readers)):
            raise Refused(422, "One of those is not in this workspace (any more). Look at the list again.")
        people = Person.objects.filter(workspace=membership.workspace, pk__in=receivers)
        if people.count() != len(set(receivers)):
            raise Refused(422, "One of those who are to get the minutes is not known here (any more). Look at the list again.")
        if template and find_template(membership.workspace, template) is None:
            raise Refused(422, "There is no such template any more. Look at the templates again.")
        usual.visibility, usual.goes_to, usual.going, usual.template = visibility, goes_to, going, template
        usual.points = [[one_line(text)[:200], minutes] for text, minutes in points if one_line(text)]
        usual.save()
        usual.readers.set(members)
        usual.receivers.set(people)
    return usual

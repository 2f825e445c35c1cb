"""Call a series otherwise; two that are called the same become one."""

from __future__ import annotations

from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.calendars.models import RecurringSeries
from server.meetings.models import Meeting, Series, Usual
from server.problems import Refused
from server.sharing.policy import Can


def rename_series(membership: Membership, series: Series, name: str, *, merge: bool) -> Series:
    """The series as it is from now on: where another has that name and the two are to be one, that one. Who sees a meeting does not change.

    Raises Refused where another has that name and they are not to be one.
    """
    called = one_line(name)[:200]
    with acting(membership, Can.ARRANGE, "rename series") as act:
        if not called:
            raise Refused(422, "A series has a name.")
        series = Series.objects.select_for_update().get(pk=series.pk)
        other = Series.objects.select_for_update().filter(workspace=membership.workspace, name=called).exclude(pk=series.pk).first()
        if other is None:
            series.name = called
            series.save(update_fields=["name"])
            return series
        if not merge:
            raise Refused(409, f"There is a series “{called}” already. The two can become one; that cannot be undone.", same=other.pk)
        Meeting.objects.filter(series=series).update(series=other)
        RecurringSeries.objects.filter(series=series).update(series=other)
        if not Usual.objects.filter(series=other).exists():
            Usual.objects.filter(series=series).update(series=other)
        series.delete()
        act.note(merged=True)
    return other

"""A meeting that was planned is held."""

from __future__ import annotations

from core.text import folded
from server.accounts.models import Membership, Workspace
from server.acting import acting
from server.agenda.actions.run_agenda import take_prepared
from server.calendars.models import Occasion, Planned, RecurringSeries
from server.meetings.models import Meeting, Person, Series
from server.notify import Part
from server.problems import Refused
from server.sharing.policy import Can
from server.sharing.usual import take_usual


def hold(membership: Membership, meeting: Meeting, planned: Planned, *, settled: bool = True) -> None:
    """Tie a meeting to its event: it belongs to the event's series, and people who are new here get the address they were invited by.

    That lets nobody see anything but for what is usual in the series. settled: who sees the meeting was said when it was made. Raises Refused.
    """
    with acting(membership, Can.CHANGE, "hold planned meeting", meeting, tells=(Part.MEETING,)):
        if planned.calendar.membership_id != membership.pk:
            raise Refused(404, "That is planned in no calendar of yours.")
        take_prepared(membership, meeting, planned.uid, planned.instance)
        Occasion.objects.update_or_create(meeting=meeting, defaults={"uid": planned.uid, "instance": planned.instance})
        if planned.recurs and meeting.series is None:
            meeting.series = series_of_event(membership.workspace, planned.uid, planned.title)
            meeting.save(update_fields=["series"])
            take_usual(membership, meeting, settled=settled)
        invited = {folded(one["name"]): one["address"] for one in planned.people if one["address"]}
        known = set(Person.objects.filter(workspace=membership.workspace, email__in=invited.values()).values_list("email", flat=True))
        for person in meeting.people.filter(email="", user=None):
            address = invited.get(person.folded, "")
            if address and address not in known:
                person.email = address
                person.save(update_fields=["email"])


def series_of_event(workspace: Workspace, uid: str, title: str) -> Series:
    """The series of a recurring event, made with the first of its meetings that is held. Two events of one title are two series."""
    if known := RecurringSeries.objects.filter(workspace=workspace, uid=uid).select_related("series").first():
        return known.series
    name, count = title[:180] or "Recurring meeting", 1
    taken = set(RecurringSeries.objects.filter(workspace=workspace).values_list("series__name", flat=True))
    while (called := name if count == 1 else f"{name} ({count})") in taken:
        count += 1
    series, _ = Series.objects.get_or_create(workspace=workspace, name=called)
    RecurringSeries.objects.create(workspace=workspace, uid=uid, series=series)
    return series

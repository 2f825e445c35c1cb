"""Change what is known of a meeting: title, time, series, people, who sees it."""

from __future__ import annotations

from datetime import datetime

from django.db import transaction

from server.accounts.models import Membership
from server.audit.log import log
from server.meetings.actions.people import find_people
from server.meetings.models import Attendee, Meeting, Series
from server.pipeline.stages import AFTER_CHANGES
from server.pipeline.tasks import begin
from server.problems import Refused, not_allowed
from server.sharing.visibility import may_change, may_govern


def change_meeting(
    membership: Membership,
    meeting: Meeting,
    *,
    title: str | None = None,
    started_at: datetime | None = None,
    series: str | None = None,
    people: list[str] | None = None,
    visibility: str | None = None,
) -> Meeting:
    """Apply what is given and leave the rest. Raises Refused.

    Another date moves the dates drawn from "by Friday", so the record is then read anew.
    """
    if not may_change(membership, meeting):
        raise not_allowed("Guests read meetings; they do not change them.")
    if visibility is not None and visibility != meeting.visibility and not may_govern(membership, meeting):
        raise not_allowed("Who sees a meeting is set by whoever gave it, or by an admin.")
    if title is not None and not title.strip():
        raise Refused(422, "A meeting needs a title.")
    with transaction.atomic():
        moved = started_at is not None and started_at != meeting.started_at
        changed = {}
        for name, value in (("title", title and title.strip()), ("started_at", started_at), ("visibility", visibility)):
            if value is not None and value != getattr(meeting, name):
                setattr(meeting, name, value)
                changed[name] = True if name != "visibility" else value
        if series is not None:
            meeting.series = (
                Series.objects.get_or_create(workspace=membership.workspace, name=series.strip())[0] if series.strip() else None
            )
            changed["series"] = True
        meeting.save()
        if people is not None:
            wanted = find_people(membership.workspace, people)
            # Whoever was named in the record was there.
            spoke = set(meeting.voices.exclude(person=None).values_list("person_id", flat=True))
            Attendee.objects.filter(meeting=meeting).exclude(person__in=wanted).exclude(person__in=spoke).delete()
            for person in wanted:
                Attendee.objects.get_or_create(meeting=meeting, person=person)
            changed["people"] = len(wanted)
        log(membership.workspace, membership.user, "change meeting", meeting, **changed)
        if moved and meeting.ready_at:
            begin(meeting, AFTER_CHANGES)
    return meeting

"""Meetings that one was to be at, and was not."""

from __future__ import annotations

from datetime import datetime

from django.db.models import Exists, OuterRef, Q, QuerySet

from server.accounts.models import Membership
from server.calendars.models import Planned
from server.capture.models import Participant
from server.meetings.models import Attendee, Meeting
from server.record.models import Voice
from server.sharing.visibility import listed_meetings


def missed(membership: Membership, since: datetime, until: datetime) -> QuerySet[Meeting]:
    """Held in a span of time, the end not included, and ready: one was invited, by calendar or by name, and is neither heard in it nor was in
    the call nor captured it."""
    user = membership.user
    invited = Exists(Attendee.objects.filter(meeting=OuterRef("pk"), person__user=user))
    planned = Planned.objects.filter(calendar__membership=membership, uid=OuterRef("occasion__uid"), instance=OuterRef("occasion__instance"))
    heard = Exists(Voice.objects.filter(meeting=OuterRef("pk"), person__user=user))
    in_call = Exists(Participant.objects.filter(capture__meeting=OuterRef("pk"), person__user=user))
    held = listed_meetings(membership).filter(started_at__gte=since, started_at__lt=until, ready_at__isnull=False)
    return held.filter(invited | Exists(planned)).exclude(Q(heard) | Q(in_call) | Q(created_by=user)).order_by("started_at", "pk")

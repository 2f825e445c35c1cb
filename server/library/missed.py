"""Meetings that one was to be at, and was not."""

from __future__ import annotations

from django.db.models import Exists, OuterRef, Q, QuerySet

from server.accounts.models import Membership
from server.calendars.models import Planned
from server.capture.models import Participant
from server.meetings.models import Attendee, Meeting
from server.record.models import Voice


def missed(membership: Membership, held: QuerySet[Meeting]) -> QuerySet[Meeting]:
    """Of meetings that a member sees, those that are ready, to which they were invited, by calendar or by name, and in which they are not heard;
    nor were they in the call, nor is it they who captured it."""
    user = membership.user
    invited = Exists(Attendee.objects.filter(meeting=OuterRef("pk"), person__user=user))
    planned = Planned.objects.filter(calendar__membership=membership, uid=OuterRef("occasion__uid"), instance=OuterRef("occasion__instance"))
    heard = Exists(Voice.objects.filter(meeting=OuterRef("pk"), person__user=user))
    in_call = Exists(Participant.objects.filter(capture__meeting=OuterRef("pk"), person__user=user))
    return held.filter(invited | Exists(planned), ready_at__isnull=False).exclude(Q(heard) | Q(in_call) | Q(created_by=user)).order_by("started_at", "pk")

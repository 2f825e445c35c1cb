"""Which visits somebody may know of, and how they stand."""

from __future__ import annotations

from datetime import timedelta
from uuid import UUID

from django.db.models import Q, QuerySet
from django.utils import timezone

from core.planning.attending import ENDS
from server.accounts.models import Membership
from server.clerk.models import Visit
from server.problems import Refused
from server.sharing.visibility import visible_meetings

_RECENT = timedelta(hours=12)


def visits_of(membership: Membership) -> QuerySet[Visit]:
    """Those that go for this member, and those to meetings that they see."""
    seen = Visit.objects.filter(workspace=membership.workspace).filter(Q(wanted_by=membership) | Q(meeting__in=visible_meetings(membership)))
    return seen.distinct().select_related("meeting", "asked_by__user", "workspace").prefetch_related("changes", "wanted_by__user")


def current_visits(membership: Membership) -> QuerySet[Visit]:
    """Those that go on, and those that came to an end today, the latest first."""
    recent = visits_of(membership).filter(~Q(state__in=ENDS) | Q(starts_at__gt=timezone.now() - _RECENT))
    return recent.order_by("-starts_at")[:20]


def visit_of(membership: Membership, visit_id: UUID) -> Visit:
    """One of them. Raises Refused."""
    found = visits_of(membership).filter(pk=visit_id).first()
    if found is None:
        raise Refused(404, "There is no such visit of the clerk, or it is not for you to know of.")
    return found

"""A meeting before it happens: what is prepared for it, and what the meetings before it have left open."""

from __future__ import annotations

from collections.abc import Sequence

from core.planning.events import Answer
from server.accounts.models import Membership
from server.agenda.models import Preparation
from server.calendars.models import Planned, RecurringSeries
from server.ledger.queries import gone_on
from server.meetings.models import Meeting, Usual
from server.minutes.models import Finding, FindingKind, FindingStatus
from server.minutes.queries import LINE_NUMBERS
from server.sharing.visibility import listed_meetings

_MOST = 30


def prepared_of(membership: Membership, planned: Planned) -> Preparation | None:
    """What anybody has prepared for it."""
    return Preparation.objects.filter(workspace=membership.workspace, uid=planned.uid, instance=planned.instance).first()


def agenda_of(membership: Membership, planned: Planned) -> list[tuple[str, int]]:
    """What was prepared for it, else the standing agenda of its series: each point with its minutes."""
    if (kept := prepared_of(membership, planned)) and kept.points:
        return kept.points
    series = RecurringSeries.objects.filter(workspace=membership.workspace, uid=planned.uid).values("series")
    usual = Usual.objects.filter(series__in=series).first()
    return usual.points if usual else []


def takers_of(membership: Membership, planned: Planned) -> list[dict]:
    """Those who come, or may, with an address that is not the member's own; of `Planned.people`."""
    own = membership.user.email.lower()
    return [one for one in planned.people if one["address"] and one["address"] != own and one["answer"] != Answer.DECLINED]


def earlier_meetings(membership: Membership, planned: Planned) -> list[Meeting]:
    """Those of its series that were held before it and that the member sees, the latest first."""
    series = RecurringSeries.objects.filter(workspace=membership.workspace, uid=planned.uid).values("series")
    return list(listed_meetings(membership).filter(series__in=series, started_at__lt=planned.start).order_by("-started_at")[:_MOST])


def left_open(membership: Membership, earlier: Sequence[Meeting]) -> list[Finding]:
    """Actions that are not done and questions that were not answered, of these meetings, the latest first; what was settled anew is so as the last
    of them left it."""
    kinds = (FindingKind.ACTION, FindingKind.QUESTION)
    found = Finding.objects.filter(meeting__in=earlier, kind__in=kinds, status=FindingStatus.STANDING, done_at=None).exclude(gone_on(membership))
    return list(found.select_related("meeting", "owner").prefetch_related(LINE_NUMBERS).order_by("-meeting__started_at", "start", "pk")[:_MOST])

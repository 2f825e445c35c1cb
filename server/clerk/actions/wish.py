"""What a member wants of the clerk: by rule, for a series, for one meeting."""

from __future__ import annotations

from collections.abc import Collection

from django.utils import timezone

from core.planning.joining import Rule
from server.accounts.models import Membership
from server.acting import acting
from server.calendars.models import Planned
from server.clerk.models import SERIES, Rules, Wish
from server.clerk.visits import plan_visits
from server.sharing.policy import Can


def set_rules(membership: Membership, rules: Collection[Rule]) -> Rules:
    """To which meetings of one's calendars it goes by itself."""
    wanted = sorted(set(rules) - {Rule.NONE})
    with acting(membership, Can.ADD, "change clerk rules", rules=wanted):
        kept, _ = Rules.objects.update_or_create(membership=membership, defaults={"rules": wanted})
        plan_visits(membership.workspace, timezone.now())
    return kept


def wish(membership: Membership, planned: Planned, wanted: bool | None, *, series: bool) -> None:
    """Say that it goes to a meeting of one's calendar, or to all of its series, or stays away; None: the rules say."""
    instance = SERIES if series else planned.instance
    with acting(membership, Can.ADD, "wish for clerk", wanted=wanted, series=series):
        if wanted is None:
            Wish.objects.filter(membership=membership, uid=planned.uid, instance=instance).delete()
        else:
            Wish.objects.update_or_create(membership=membership, uid=planned.uid, instance=instance, defaults={"wanted": wanted})
        plan_visits(membership.workspace, timezone.now())

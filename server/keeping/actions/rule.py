"""Say for how long what is kept, hold a meeting, let it go again."""

from __future__ import annotations

from django.utils import timezone

from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.keeping.models import Announced, KeepingRule
from server.library.shelves import shelf_of
from server.meetings.models import Hold, Meeting, Series, Shelf
from server.notify import Part
from server.problems import Refused
from server.sharing.policy import Can


def drafted(
    membership: Membership, *, place: str, shelf: int | None, series: int | None, sound: int | None, record: int | None, all: int | None
) -> KeepingRule:
    """The rule as it would be, not kept. Raises Refused where it contradicts itself, or is for nothing that there is."""
    if sum(map(bool, (place, shelf, series))) > 1:
        raise Refused(422, "A rule is for one thing: a kind of meeting, a shelf, or a series.")
    on: Shelf | None = shelf_of(membership, shelf) if shelf else None
    of = Series.objects.filter(pk=series, workspace=membership.workspace).first() if series else None
    if series and of is None:
        raise Refused(404, "There is no such series.")
    known = KeepingRule.objects.filter(workspace=membership.workspace, place=place, shelf=on, series=of).first()
    rule = known or KeepingRule(workspace=membership.workspace, place=place, shelf=on, series=of)
    rule.sound, rule.record, rule.all = sound, record, all
    if wrong := rule.as_rule.terms.contradiction():
        raise Refused(422, wrong)
    return rule


def say_rule(membership: Membership, rule: KeepingRule) -> None:
    """From now on; a rule without days is none. Nothing goes before it was told for seven nights. Raises Refused."""
    with acting(membership, Can.MANAGE, "say for how long", sound=rule.sound, record=rule.record, everything=rule.all):
        if not (rule.sound or rule.record or rule.all):
            if rule.pk:
                rule.delete()
            return
        rule.said_by, rule.said_at = membership.user, timezone.now()
        rule.save()


def hold_meeting(membership: Membership, meeting: Meeting, why: str) -> Hold:
    """Nothing of it goes, by rule or by hand, until that is lifted. Raises Refused."""
    with acting(membership, Can.GOVERN, "hold", meeting, tells=(Part.MEETING,)):
        if not one_line(why):
            raise Refused(422, "Say why it is held: others will ask.")
        Announced.objects.filter(meeting=meeting).delete()
        return Hold.objects.update_or_create(meeting=meeting, defaults={"why": one_line(why)[:400], "by": membership.user, "at": timezone.now()})[0]


def lift_hold(membership: Membership, meeting: Meeting) -> None:
    """The rules count for it again. What is over its time is told of for seven nights first."""
    with acting(membership, Can.GOVERN, "lift hold", meeting, tells=(Part.MEETING,)):
        Hold.objects.filter(meeting=meeting).delete()

"""Reminders by mail: the day before an action is due, and the day after."""

from __future__ import annotations

from datetime import datetime, timedelta
from functools import partial
from zoneinfo import ZoneInfo

from django.conf import settings
from django.utils import timezone

from server.accounts.models import Membership
from server.acting import acting
from server.languages import said, translated
from server.ledger.models import Reminded, Reminders, Step
from server.ledger.queries import View, Wanted, narrowed
from server.mail.post import post
from server.mail.stopping import stop_token
from server.mail.wording import Kind
from server.minutes.models import Finding, FindingKind

_MORNING = 7
"""The hour, where the meeting was, from which the mail of a day is sent."""
_DAY = timedelta(days=1)


def remind() -> int:
    """A letter for each member who has something due tomorrow, or since yesterday, and was not told of it yet. Returns how many."""
    now = timezone.now()
    near = (now.date() - 2 * _DAY, now.date() + 2 * _DAY)
    owners = Finding.objects.filter(kind=FindingKind.ACTION, due__range=near, done_at=None, owner__user__isnull=False)
    owned = set(owners.values_list("meeting__workspace", "owner__user"))
    told = 0
    for workspace, user in sorted(owned):
        member = Membership.objects.select_related("user", "workspace").filter(workspace=workspace, user=user).first()
        told += member is not None and _tell(member, now)
    return told


def _tell(member: Membership, now: datetime) -> bool:
    wishes = Reminders.objects.filter(membership=member).first() or Reminders(membership=member)
    soon, late = [], []
    for step in narrowed(member, Wanted(View.OPEN, now.date(), mine=True)).filter(finding__due__range=(now.date() - 2 * _DAY, now.date() + 2 * _DAY)):
        there = now.astimezone(ZoneInfo(step.meeting.time_zone))
        if there.hour < _MORNING or step.finding is None:
            continue
        if step.finding.due == there.date() + _DAY and wishes.before:
            soon.append(step)
        elif step.finding.due == there.date() - _DAY and wishes.after:
            late.append(step)
    with acting(None, None, "remind"):
        fresh = {True: [one for one in late if _once(one, member, True)], False: [one for one in soon if _once(one, member, False)]}
        if not fresh[True] and not fresh[False]:
            return False
        link = f"{settings.BASE_URL}/ledger?whose=mine"
        post(
            Kind.REMINDER,
            member.user.email,
            link=link,
            workspace=member.workspace,
            stop=stop_token("reminders", member.pk),
            subject=partial(_subject, fresh),
            titles=partial(_titles, fresh),
        )
    return True


def _subject(fresh: dict[bool, list[Step]]) -> str:
    if (count := len(fresh[True]) + len(fresh[False])) > 1:
        return said("{0} actions are due", count)
    return said("Due tomorrow: {0}", _worded(fresh[False][0])) if fresh[False] else said("Due yesterday: {0}", _worded(fresh[True][0]))


def _titles(fresh: dict[bool, list[Step]]) -> str:
    heads = {False: translated("Due tomorrow:"), True: translated("Due yesterday, and not done:")}
    return "\n\n".join("\n".join([heads[late], *(f"– {_worded(one)} ({one.meeting.title})" for one in steps)]) for late, steps in fresh.items() if steps)


def _worded(step: Step) -> str:
    assert step.finding is not None  # it is open by this
    return step.finding.text


def _once(step: Step, member: Membership, late: bool) -> bool:
    """Note that they are told. False where they were."""
    assert step.finding is not None and step.finding.due is not None
    return Reminded.objects.get_or_create(matter=step.matter, membership=member, due=step.finding.due, late=late)[1]

"""To which of the meetings in everybody's calendars the clerk goes: the rules of `core.planning.joining`, put to what is planned."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from uuid import UUID

from django.conf import settings
from django.db import IntegrityError, transaction
from django.db.models import Q

from core.planning.attending import ENDS, Standing
from core.planning.events import Answer, Event, Invited, Status
from core.planning.joining import Verdict, Wishes, together, verdict_of
from core.planning.links import Link, adapter_of, conferences
from server.accounts.models import Membership, Role, Workspace
from server.calendars.models import CalendarKind, Planned
from server.clerk.models import SERIES, Rules, Visit, Wish
from server.sharing.policy import Can, may

AHEAD = timedelta(minutes=10)
"""So long before its start a visit is made: what is changed later than that changes the visit."""
OVERRUN = timedelta(hours=3)
"""So long after its planned end the clerk stays at the most."""


@dataclass
class Gathering:
    """One call as it stands in the calendars of one or more members. call: its identity, "" without a link. single: each one's own verdict."""

    call: str = ""
    rows: list[Planned] = field(default_factory=list)
    single: dict[int, Verdict] = field(default_factory=dict)

    @property
    def verdict(self) -> Verdict:
        """Of all of them, taken together."""
        return together(list(self.single.values()))

    @property
    def wanting(self) -> list[Membership]:
        """Those whose calendars, rules or words make it go, who called the meeting first."""
        members = {row.calendar.membership_id: row for row in self.rows if self.single[row.calendar.membership_id].goes}
        rows = sorted(members.values(), key=lambda row: (not any(one["called"] and one["address"] == _address(row) for one in row.people), row.pk))
        return [row.calendar.membership for row in rows]

    @property
    def leading(self) -> Planned:
        """The row of whoever it goes for first, else of anybody."""
        first = {one.pk for one in self.wanting[:1]}
        return next((row for row in self.rows if row.calendar.membership_id in first), self.rows[0])


def _address(row: Planned) -> str:
    return row.calendar.membership.user.email.lower()


def link_of(row: Planned) -> Link | None:
    """The link of its call, as it was found when the calendar was laid out."""
    return Link(row.link, row.passcode, adapter_of(row.link, conferences(settings.CONFERENCES)), row.why) if row.link else None


def event_of(row: Planned) -> Event:
    """As the core knows it."""
    people = [(Invited(one["name"], one["address"], Answer(one["answer"])), one["called"]) for one in row.people]
    return Event(
        row.uid,
        row.instance,
        row.title,
        row.start,
        row.end,
        row.zone,
        row.all_day,
        Status(row.status),
        row.private,
        next((one for one, called in people if called), None),
        tuple(one for one, _ in people),
        row.place,
        row.text,
        (),
        row.recurs,
    )


def inside_of(workspace: Workspace) -> set[str]:
    """Who is from inside: members' addresses, and any address of a domain that two or more of them share."""
    addresses = [
        one.user.email.lower() for one in workspace.memberships.exclude(role=Role.GUEST).select_related("user")
    ]
    domains = Counter(address.rpartition("@")[2] for address in addresses)
    return {*addresses, *(f"@{domain}" for domain, count in domains.items() if count > 1)}


def gatherings(workspace: Workspace, rows: Iterable[Planned]) -> list[Gathering]:
    """The calls among planned meetings of members of a workspace, each once, with what is to be done about it."""
    found: list[Gathering] = []
    by_call: dict[str, Gathering] = {}
    rows = sorted(rows, key=lambda row: row.start)
    inside = inside_of(workspace)
    said = _Said({row.calendar.membership for row in rows})
    for row in rows:
        link = link_of(row)
        # Without a link there is no call that two calendars could share: the event itself is what they share.
        key = link.call if link else f"{row.uid} {row.instance}"
        known = by_call.get(key)
        if known is None or row.start >= max(one.end for one in known.rows):
            known = by_call[key] = Gathering(link.call if link else "")
            found.append(known)
        known.rows.append(row)
        member = row.calendar.membership
        mine = verdict_of(event_of(row), link, said.of(row), inside, row.clerk_asked)
        before = known.single.get(member.pk)
        known.single[member.pk] = together([before, mine]) if before else mine
    return found


class _Said:
    """What members said of the clerk."""

    def __init__(self, members: Collection[Membership]) -> None:
        self._rules = {one.membership_id: one.read() for one in Rules.objects.filter(membership__in=members)}
        self._wishes: dict[int, dict[tuple[str, str], bool]] = {member.pk: {} for member in members}
        for wish in Wish.objects.filter(membership__in=members):
            self._wishes[wish.membership_id][wish.uid, wish.instance] = wish.wanted

    def of(self, row: Planned) -> Wishes:
        """That of whoever's calendar it is in, of that meeting."""
        member = row.calendar.membership
        own = self._wishes[member.pk]
        series = {uid: wanted for (uid, instance), wanted in own.items() if instance == SERIES}
        addresses = frozenset({member.user.email.lower()})
        rules, by_hand = self._rules.get(member.pk, frozenset()), own.get((row.uid, row.instance))
        return Wishes(member.user.called, addresses, rules, series, by_hand, sent=row.calendar.kind == CalendarKind.MAIL)


def planned_rows(workspace: Workspace, since: datetime, until: datetime) -> list[Planned]:
    """What is planned in the calendars of members who may send the clerk, and is not over at `since` and begins before `until`."""
    rows = Planned.objects.filter(calendar__membership__workspace=workspace, end__gt=since, start__lt=until)
    return [row for row in rows.select_related("calendar__membership__user", "calendar__membership__workspace") if may(row.calendar.membership, Can.ADD)]


def verdicts(membership: Membership, rows: Sequence[Planned]) -> dict[int, Verdict]:
    """Of rows in a member's own calendars: whether the clerk goes there, and why. Row's key → verdict."""
    if not rows:
        return {}
    since, until = min(row.start for row in rows), max(row.end for row in rows)
    everybody = {row.pk: row for row in planned_rows(membership.workspace, since, until)} | {row.pk: row for row in rows}
    wanted = {row.pk for row in rows}
    return {row.pk: one.verdict for one in gatherings(membership.workspace, everybody.values()) for row in one.rows if row.pk in wanted}


def seen_by(membership: Membership, row: Planned) -> list[str]:
    """Who will see the record of a planned meeting, by name: whoever the clerk goes for, and this member."""
    around = {one.pk: one for one in planned_rows(membership.workspace, row.start, row.end)} | {row.pk: row}
    found = next(one for one in gatherings(membership.workspace, around.values()) if any(other.pk == row.pk for other in one.rows))
    return list(dict.fromkeys([membership.user.called, *(one.user.called for one in found.wanting)]))


def plan_visits(workspace: Workspace, now: datetime) -> None:
    """Make the visits that are due soon, change those whose meeting has changed, and let go of those that nobody wants any more."""
    wanted: set[UUID] = set()
    for one in gatherings(workspace, planned_rows(workspace, now, now + AHEAD)):
        if one.verdict.goes and (visit := _visit(workspace, one)):
            wanted.add(visit.pk)
    Visit.objects.filter(workspace=workspace, state=Standing.EXPECTED).exclude(uid="").exclude(pk__in=wanted).delete()


def _visit(workspace: Workspace, one: Gathering) -> Visit | None:
    row, link = one.leading, link_of(one.leading)
    assert link is not None  # else it would not go
    facts = {
        "title": row.title,
        "starts_at": row.start,
        "until": row.end + OVERRUN,
        "why": one.verdict.words,
        "address": link.address,
        "passcode": link.passcode,
    }
    with transaction.atomic():
        visit = Visit.objects.select_for_update().filter(workspace=workspace, call=link.call).exclude(state__in=ENDS).first()
        if visit is None:
            # It was there already: for this very event, or sent by hand to the same call at its time.
            been = Q(uid=row.uid, instance=row.instance) | Q(starts_at__gte=row.start - AHEAD)
            if Visit.objects.filter(been, workspace=workspace, call=link.call).exists():
                return None
            try:
                with transaction.atomic():
                    visit = Visit.objects.create(
                        workspace=workspace,
                        asked_by=one.wanting[0],
                        call=link.call,
                        adapter=link.adapter,
                        uid=row.uid,
                        instance=row.instance,
                        **facts,
                    )
            except IntegrityError:  # another worker was faster
                return None
        elif visit.state == Standing.EXPECTED and visit.uid:
            for name, value in facts.items():
                setattr(visit, name, value)
            visit.save(update_fields=list(facts))
        visit.wanted_by.add(*one.wanting)
    return visit



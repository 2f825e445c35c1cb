"""Whether the clerk goes to a meeting, and why: each member's wishes, then those of all who are asked to the same call, taken together.

What somebody says of one meeting by hand counts before any rule; the organiser's no before anybody's yes. What cannot be (no link, called off)
is not wished for.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

from core.planning.events import Answer, Event, Status
from core.planning.links import Link


class Rule(StrEnum):
    """To which meetings of a member's calendar the clerk goes by itself."""

    NONE = "none"
    ALL = "all"
    ORGANISED = "organised"
    INSIDE = "inside"
    OUTSIDE = "outside"


class Reason(StrEnum):
    """Why it goes, or stays away."""

    BY_HAND = "by_hand"
    INVITED = "invited"
    SENT = "sent"
    SERIES = "series"
    ALL = "all"
    ORGANISED = "organised"
    INSIDE = "inside"
    OUTSIDE = "outside"
    CALLED_OFF = "called_off"
    NO_LINK = "no_link"
    UNKNOWN = "unknown"
    NOT_BY_HAND = "not_by_hand"
    ORGANISER = "organiser"
    NOT_SERIES = "not_series"
    ALL_DAY = "all_day"
    PRIVATE = "private"
    DECLINED = "declined"
    NO_RULE = "no_rule"


WORDS: Mapping[Reason, str] = {
    Reason.BY_HAND: "goes, because {who} asked it to",
    Reason.INVITED: "goes, because it is among those invited",
    Reason.SENT: "goes, because {who} sent it the invitation",
    Reason.SERIES: "goes, because {who} wants it in every meeting of this series",
    Reason.ALL: "goes, because {who} wants it in every meeting with a link",
    Reason.ORGANISED: "goes, because {who} called the meeting",
    Reason.INSIDE: "goes, because only people from inside are asked",
    Reason.OUTSIDE: "goes, because somebody from outside is asked",
    Reason.CALLED_OFF: "stays away, because the meeting is called off",
    Reason.NO_LINK: "stays away, because the invitation has no link to a call",
    Reason.UNKNOWN: "stays away, because it cannot go to a conference of this kind",
    Reason.NOT_BY_HAND: "stays away, because {who} said so",
    Reason.ORGANISER: "stays away, because {who}, who called the meeting, said so",
    Reason.NOT_SERIES: "stays away, because {who} does not want it in this series",
    Reason.ALL_DAY: "stays away, because this takes the whole day",
    Reason.PRIVATE: "stays away, because the meeting is private",
    Reason.DECLINED: "stays away, because {who} is not going",
    Reason.NO_RULE: "stays away, because nobody asked for it",
}
GOES = frozenset({Reason.BY_HAND, Reason.INVITED, Reason.SENT, Reason.SERIES, Reason.ALL, Reason.ORGANISED, Reason.INSIDE, Reason.OUTSIDE})
IMPOSSIBLE = frozenset({Reason.CALLED_OFF, Reason.NO_LINK, Reason.UNKNOWN})
"""Reasons that nobody's word changes."""


@dataclass(frozen=True, slots=True)
class Wishes:
    """A member's. addresses: theirs, in small letters. series: by an event's uid, wanted or not. by_hand: of this one meeting, None: nothing said.
    sent: they sent the clerk the invitation."""

    who: str
    addresses: frozenset[str]
    rules: frozenset[Rule] = frozenset()
    series: Mapping[str, bool] = field(default_factory=dict)
    by_hand: bool | None = None
    sent: bool = False


@dataclass(frozen=True, slots=True)
class Verdict:
    """What comes of it."""

    reason: Reason
    who: str = ""

    @property
    def goes(self) -> bool:
        """Does it?"""
        return self.reason in GOES

    @property
    def words(self) -> str:
        """"goes, because …" or "stays away, because …"."""
        return WORDS[self.reason].format(who=self.who)


def organises(event: Event, wishes: Wishes) -> bool:
    """Did this member call the meeting? Who has it alone in their calendar did."""
    if event.organiser is None:
        return not event.invited
    return event.organiser.address in wishes.addresses


def verdict_of(event: Event, link: Link | None, wishes: Wishes, inside: Collection[str], asked: bool = False) -> Verdict:
    """One member's. inside: addresses, or domains after "@", of people from inside. asked: the clerk is among those invited."""
    if event.status == Status.CANCELLED:
        return Verdict(Reason.CALLED_OFF)
    if link is None:
        return Verdict(Reason.NO_LINK)
    if not link.adapter:
        return Verdict(Reason.UNKNOWN)
    own = organises(event, wishes)
    if wishes.by_hand is not None:
        return Verdict(Reason.BY_HAND if wishes.by_hand else Reason.ORGANISER if own else Reason.NOT_BY_HAND, wishes.who)
    if asked:
        return Verdict(Reason.INVITED)
    if wishes.sent:
        return Verdict(Reason.SENT, wishes.who)
    if event.all_day:
        return Verdict(Reason.ALL_DAY)
    if event.private:
        return Verdict(Reason.PRIVATE)
    if any(one.address in wishes.addresses and one.answer == Answer.DECLINED for one in event.invited):
        return Verdict(Reason.DECLINED, wishes.who)
    if (wanted := wishes.series.get(event.uid)) is not None:
        return Verdict(Reason.SERIES if wanted else Reason.NOT_SERIES, wishes.who)
    return Verdict(_by_rule(event, wishes, own, inside), wishes.who)


def _by_rule(event: Event, wishes: Wishes, own: bool, inside: Collection[str]) -> Reason:
    others = {one.address for one in [*event.invited, *([event.organiser] if event.organiser else [])]} - wishes.addresses - {""}
    outside = any(address not in inside and f"@{address.rpartition('@')[2]}" not in inside for address in others)
    if Rule.ALL in wishes.rules:
        return Reason.ALL
    if Rule.ORGANISED in wishes.rules and own:
        return Reason.ORGANISED
    if Rule.INSIDE in wishes.rules and others and not outside:
        return Reason.INSIDE
    if Rule.OUTSIDE in wishes.rules and outside:
        return Reason.OUTSIDE
    return Reason.NO_RULE


_ORDER = (
    Reason.CALLED_OFF,
    Reason.ORGANISER,
    Reason.BY_HAND,
    Reason.INVITED,
    Reason.SENT,
    Reason.SERIES,
    Reason.ALL,
    Reason.ORGANISED,
    Reason.INSIDE,
    Reason.OUTSIDE,
    Reason.NOT_BY_HAND,
    Reason.NOT_SERIES,
    Reason.PRIVATE,
    Reason.DECLINED,
    Reason.ALL_DAY,
    Reason.NO_RULE,
    Reason.UNKNOWN,
    Reason.NO_LINK,
)
"""Of several members' verdicts on one call the first in this order counts: the organiser's no, then anybody's yes."""


def together(verdicts: Sequence[Verdict]) -> Verdict:
    """Of all the members who have the same call in their calendars: one clerk, for all of them."""
    return min(verdicts, key=lambda one: _ORDER.index(one.reason))

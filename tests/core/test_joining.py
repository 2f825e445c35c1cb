"""Whether the clerk goes: what one member wishes, and what comes of several."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime

import pytest

from core.planning.events import Answer, Event, Invited, Status
from core.planning.joining import GOES, IMPOSSIBLE, WORDS, Reason, Rule, Verdict, Wishes, together, verdict_of
from core.planning.links import Link

AT = datetime(2026, 3, 6, 9, tzinfo=UTC)
MAREN, TEO, INES = (Invited(name, f"{name.lower()}@{where}.example") for name, where in (("Maren", "larkmoor"), ("Teo", "larkmoor"), ("Ines", "vidrios")))
CALL = Event("works", "", "Glazing", AT, AT.replace(hour=10), "", False, Status.CONFIRMED, False, MAREN, (MAREN, TEO, INES), "", "", (), True)
LINK = Link("https://calls.example/rooms/a", "", "rooms", "")
INSIDE = {"@larkmoor.example"}


def wishes(*rules: Rule, who: Invited = TEO, **more) -> Wishes:
    return Wishes(who.name, frozenset({who.address}), frozenset(rules), **more)


CASES = [
    (CALL, LINK, wishes(), Reason.NO_RULE),
    (CALL, LINK, wishes(Rule.ALL), Reason.ALL),
    (CALL, LINK, wishes(Rule.ORGANISED), Reason.NO_RULE),
    (CALL, LINK, wishes(Rule.ORGANISED, who=MAREN), Reason.ORGANISED),
    (CALL, LINK, wishes(Rule.OUTSIDE), Reason.OUTSIDE),
    (CALL, LINK, wishes(Rule.INSIDE), Reason.NO_RULE),
    (replace(CALL, invited=(MAREN, TEO)), LINK, wishes(Rule.INSIDE), Reason.INSIDE),
    (replace(CALL, invited=(TEO,), organiser=TEO), LINK, wishes(Rule.INSIDE, Rule.OUTSIDE), Reason.NO_RULE),
    (replace(CALL, private=True), LINK, wishes(Rule.ALL), Reason.PRIVATE),
    (replace(CALL, private=True), LINK, wishes(Rule.ALL, by_hand=True), Reason.BY_HAND),
    (replace(CALL, all_day=True), LINK, wishes(Rule.ALL), Reason.ALL_DAY),
    (replace(CALL, invited=(replace(TEO, answer=Answer.DECLINED),)), LINK, wishes(Rule.ALL), Reason.DECLINED),
    (replace(CALL, status=Status.CANCELLED), LINK, wishes(Rule.ALL, by_hand=True), Reason.CALLED_OFF),
    (CALL, None, wishes(Rule.ALL, by_hand=True), Reason.NO_LINK),
    (CALL, replace(LINK, adapter=""), wishes(Rule.ALL, by_hand=True), Reason.UNKNOWN),
    (CALL, LINK, wishes(series={"works": True}), Reason.SERIES),
    (CALL, LINK, wishes(Rule.ALL, series={"works": False}), Reason.NOT_SERIES),
    (CALL, LINK, wishes(Rule.ALL, series={"works": False}, by_hand=True), Reason.BY_HAND),
    (CALL, LINK, wishes(Rule.ALL, by_hand=False), Reason.NOT_BY_HAND),
    (CALL, LINK, wishes(Rule.ALL, by_hand=False, who=MAREN), Reason.ORGANISER),
    (replace(CALL, private=True), LINK, wishes(sent=True), Reason.SENT),
    (CALL, LINK, wishes(sent=True, by_hand=False), Reason.NOT_BY_HAND),
]


@pytest.mark.parametrize(("event", "link", "wished", "reason"), CASES, ids=range(len(CASES)))
def test_one_member(event, link, wished, reason):
    verdict = verdict_of(event, link, wished, INSIDE)
    assert verdict.reason == reason
    assert verdict.words.startswith("goes, because" if verdict.goes else "stays away, because")


def test_a_clerk_that_is_among_those_invited_goes():
    asked = replace(CALL, private=True)
    assert verdict_of(asked, LINK, wishes(), INSIDE, asked=True).reason == Reason.INVITED
    assert verdict_of(asked, LINK, wishes(by_hand=False), INSIDE, asked=True).reason == Reason.NOT_BY_HAND


@pytest.mark.parametrize(
    ("reasons", "wins"),
    [
        ([Reason.NO_RULE, Reason.ALL], Reason.ALL),
        ([Reason.BY_HAND, Reason.ORGANISER], Reason.ORGANISER),
        ([Reason.INVITED, Reason.ORGANISER, Reason.ALL], Reason.ORGANISER),
        ([Reason.NOT_BY_HAND, Reason.OUTSIDE], Reason.OUTSIDE),
        ([Reason.PRIVATE, Reason.NO_RULE], Reason.PRIVATE),
        ([Reason.BY_HAND, Reason.CALLED_OFF], Reason.CALLED_OFF),
        ([Reason.NO_LINK, Reason.ALL], Reason.ALL),
    ],
)
def test_several_in_one_call(reasons, wins):
    assert together([Verdict(reason, "Teo") for reason in reasons]).reason == wins
    assert together([Verdict(reason, "Teo") for reason in reversed(reasons)]).reason == wins


def test_every_reason_has_its_words():
    assert set(WORDS) == set(Reason) and not GOES & IMPOSSIBLE

"""Which rule counts for a meeting, and when it bites."""

from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.planning.retention import Bite, Level, Rule, Terms, What, bites

HELD = date(2026, 1, 1)
DAYS = st.one_of(st.none(), st.integers(1, 4000))
RULES = st.lists(st.builds(Rule, st.integers(1, 99), st.sampled_from(Level), st.builds(Terms, DAYS, DAYS, DAYS)), max_size=6)


def day(days: int) -> date:
    return HELD + timedelta(days=days)


def test_the_nearest_rule_that_says_something_counts():
    common = Rule(1, Level.WORKSPACE, Terms(sound=30, all=365))
    board = Rule(2, Level.SERIES, Terms(all=3650))
    assert bites([common, board], HELD) == (Bite(What.SOUND, day(30), 1), Bite(What.ALL, day(3650), 2))
    assert bites([common], HELD) == (Bite(What.SOUND, day(30), 1), Bite(What.ALL, day(365), 1)) and bites([], HELD) == ()


def test_of_several_shelves_the_one_that_keeps_longest():
    shelves = [Rule(1, Level.SHELF, Terms(record=20)), Rule(2, Level.SHELF, Terms(record=200)), Rule(3, Level.KIND, Terms(record=5))]
    assert bites(shelves, HELD) == (Bite(What.RECORD, day(200), 2),)


def test_what_goes_along_with_something_is_not_told_of():
    assert bites([Rule(1, Level.KIND, Terms(sound=90)), Rule(2, Level.WORKSPACE, Terms(all=30))], HELD) == (Bite(What.ALL, day(30), 2),)
    assert bites([Rule(1, Level.WORKSPACE, Terms(record=7, sound=7))], HELD) == (Bite(What.RECORD, day(7), 1),)


@pytest.mark.parametrize(("terms", "words"), [(Terms(9, 8), "sound"), (Terms(None, 9, 8), "record"), (Terms(9, None, 8), "sound"), (Terms(1, 2, 3), "")])
def test_a_rule_that_contradicts_itself(terms, words):
    assert (words in terms.contradiction()) if words else terms.contradiction() == ""


@given(RULES)
def test_in_order_of_time_and_each_thing_once(rules):
    found = bites(rules, HELD)
    assert [one.on for one in found] == sorted({one.on for one in found}) and len({one.what for one in found}) == len(found)
    assert [list(What).index(one.what) for one in found] == sorted(list(What).index(one.what) for one in found)
    assert all(any(getattr(rule.terms, one.what) is not None and rule.key == one.rule for rule in rules) for one in found)

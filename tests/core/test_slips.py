"""Slips of the pen: the known words that somebody may have meant."""

from __future__ import annotations

import pytest

from core.search.slips import meant, spelled

KNOWN = ("glass", "grass", "glasses", "orchard", "orchards", "bratholm", "verdigris", "gate")


@pytest.mark.parametrize(
    ("typed", "wanted"),
    [
        ("glsas", ["glass", "glasses"]),  # two letters that changed places are one slip (OSA distance)
        ("glas", ["glass", "glasses"]),
        ("grlass", ["glass", "glasses", "grass"]),
        ("orchrad", ["orchard", "orchards"]),  # nothing further off where one slip is enough
        ("vredigirs", ["verdigris"]),  # two, in a long word
        ("bartohlm", ["bratholm"]),
        ("gtea", []),  # two, in a short one: as likely another word
        ("bratohlms", ["bratholm"]),  # in another form
        ("xylophone", []),
    ],
)
def test_a_word_that_nothing_holds_is_taken_for_the_likest(typed, wanted):
    assert meant(typed, KNOWN) == wanted


def test_words_long_enough_to_be_told_apart_are_known_by():
    assert spelled("The GLASS, and forty-one panes: Łódź's Übermut! 4711 abc") == {"glass", "forty", "panes", "łódź", "übermut"}

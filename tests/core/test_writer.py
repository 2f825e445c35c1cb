"""The writer's passages, and what holds a sentence to them. How well it writes is measured (bench), not tested."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import pytest

from bench.examples import examples
from core.reading.writer.held import unheld
from core.reading.writer.numbers import numbers_in, stated_in
from core.reading.writer.passage import Passage, Piece, passage

TURNS = [
    ("Ada Quist", "Where were we?"),
    ("Bo Lind", "The hood. Tomorrow, or what?"),
    ("Ada Quist", "Three forty a month, they want."),
    ("Bo Lind", "I'll ring the two brothers about the hood by Friday."),
    ("Ada Quist", "Not before noon."),
    ("Bo Lind", "Right."),
]
PEOPLE = ["Ada Quist", "Bo Lind"]
ON = date(2026, 3, 3)  # a Tuesday


def cut(kind="action", evidence=(3,), owner="Bo Lind") -> Passage:
    return passage(kind, TURNS, set(evidence), PEOPLE, ON, owner)


def test_a_passage_shows_its_evidence_and_what_is_said_around_it():
    assert cut().text == (
        "Action for Bo Lind. Tuesday 3 March 2026. Present: Ada Quist, Bo Lind.\n"
        "  Ada: Where were we?\n  Bo: The hood. Tomorrow, or what?\n  Ada: Three forty a month, they want.\n"
        "* Bo: I'll ring the two brothers about the hood by Friday.\n  Ada: Not before noon.\n>"
    )
    far = passage("decision", [("Ada Quist", f"Turn {n}.") for n in range(30)], {2, 25}, ["Ada Quist", "Ada Lund"], None)
    assert "  …\n" in far.text and "* Ada Quist: Turn 25." in far.text  # two are called Ada
    assert [piece.at for piece in passage("chapter", TURNS, {1, 3}, PEOPLE).pieces] == [1, 3]


def test_a_passage_has_bounds_and_never_leaves_evidence_out():
    endless = [("Ada Quist", "word " * 900), ("Bo Lind", "yes " * 500)]
    pieces = passage("decision", endless, {0, 1}, PEOPLE).pieces
    assert [piece.evidence for piece in pieces] == [True, True]
    assert sum(len(piece.text.split()) for piece in pieces) < 250
    assert passage("gist", [("Ada Quist", "Yes.")], {0}, []).text.endswith("* Ada Quist: Yes.\n>")


@pytest.mark.parametrize(
    ("said", "number"),
    [
        ("Three forty a month.", 340),
        ("two fifty", 2.5),
        ("a hundred and forty cables", 140),
        ("twenty and a half thousand", 20_500),
        ("two thousand six hundred", 2600),
        ("half past two", 230),
        ("quarter to four", 345),
        ("the twenty-first", 21),
        ("seven point nine", 7.9),
        ("half a dozen", 12),
        ("12k", 12_000),
    ],
)
def test_numbers_are_heard_as_they_are_said(said, number):
    assert number in numbers_in(said)


def test_a_sentence_states_the_whole_of_a_number():
    assert stated_in("140 cables, and twenty and a half thousand by 14:30") == {140, 20_500, 1430}
    assert stated_in("One of the first two half-term afternoons") == {2}


@pytest.mark.parametrize(
    "text",
    [
        "Ring the two brothers about the hood by Friday 6 March, but not before noon.",
        "Bo rings the brothers about the extraction hood for 340 a month.",
        "Ring the brothers about the hood on Wednesday.",  # tomorrow, of a Tuesday
    ],
)
def test_what_the_lines_say_is_held(text):
    assert unheld(text, cut()) == []


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("Ring Pavel about the hood by Friday.", "name Pavel"),
        ("Ring the three brothers about the hood for 350 a month.", "number 350"),
        ("Ring the brothers about the hood by Monday.", "day monday"),
        ("Ring the brothers about the hood by 9 July.", "day july"),
        ("Water the orchids and paint the gate.", "subject"),
    ],
)
def test_what_nobody_said_is_told(text, why):
    assert why in unheld(text, cut())


def test_a_negation_wants_a_negation():
    agreed = Passage("decision", (Piece("Ada Quist", "We take the hood, then.", True, 0),), ("Ada Quist",))
    assert unheld("The hood is not taken.", agreed) == ["negation"]
    refused = replace(agreed, pieces=(Piece("Ada Quist", "No, we don't take the hood.", True, 0),))
    assert unheld("The hood is not taken.", refused) == []


def test_sentences_that_people_wrote_are_held_but_for_few():
    """Of the labelled ones; some name what is said elsewhere in the meeting, which is told for good reason."""
    sentences = [one for one in examples() if one.passage.kind != "chapter"]
    told = [one for one in sentences if unheld(one.text, one.passage)]
    assert len(sentences) > 2500 and len(told) / len(sentences) < 0.08

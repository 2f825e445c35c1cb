"""The writer's passages, and what holds a sentence to them. How well it writes is measured (bench), not tested."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import pytest

from bench.examples import examples
from core.reading import Reading
from core.reading.base import Finding, all_said
from core.reading.chapters import Chapter
from core.reading.numbers import numbers_in, stated_in
from core.reading.passage import Passage, Piece, passage
from core.reading.writer.held import unheld
from core.reading.writer.judge import laid_out
from core.reading.writer.rewording import reworded, with_owner
from core.record.assemble import turns_from_cues
from core.record.model import Participant, Record

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


class Told:
    """A writer that says what it was told to: a sentence a kind, another at a second try."""

    def __init__(self, **sentences: str | list[str]):
        self.sentences, self.asked = sentences, []

    def write(self, passages, attempt=0):
        self.asked.append([(one.kind, attempt) for one in passages])
        told = [self.sentences.get(one.kind, "") for one in passages]
        return [one if isinstance(one, str) else one[min(attempt, len(one) - 1)] for one in told]


@pytest.fixture
def read_record():
    cues = [(speaker, 10.0 * number, 10.0 * number + 8, text) for number, (speaker, text) in enumerate(TURNS)]
    record = Record("m", turns_from_cues(cues), 60.0, "en", None, tuple(map(Participant, PEOPLE)))
    lines = all_said(record)
    findings = (
        Finding("action", "Bo to ring “the two brothers”", (lines[3],), 0.9, owner="Bo Lind"),
        Finding("question", "Tomorrow, or what?", (lines[1],), 0.7),
    )
    chapters = (Chapter("Hood", 1, 0.0), Chapter("Any other business", 5, 40.0, "agenda"))
    return record, Reading(findings, chapters, ())


GOOD = {
    "action": "Bo rings the two brothers about the hood by Friday.",
    "question": "Is the hood done tomorrow?",
    "gist": "The hood comes up, and Bo rings the two brothers by Friday. The price is three forty a month.",
    "chapter": "The hood.",
}


def test_a_reading_is_worded_anew_as_far_as_its_lines_hold_it(read_record):
    record, reading = read_record
    assert reading.findings[0].written == "quoted"
    kept: dict[str, str] = {}
    writer = Told(**GOOD)
    new = reworded(reading, record, ON, {}, writer, kept.update)
    assert [(one.text, one.written) for one in new.findings] == [(GOOD["action"], "writer"), (GOOD["question"], "writer")]
    assert [(one.title, one.by) for one in new.chapters] == [("The hood", "writer"), ("Any other business", "agenda")]
    assert new.gist[0].text == GOOD["gist"] and all(one.said for one in new.gist)
    assert writer.asked[0][0] == ("action", 0)  # what matters most comes first
    # What is known is not written again, also without a writer; what has changed is.
    assert reworded(reading, record, ON, kept) == new
    idle = Told()
    assert reworded(reading, record, ON, kept, idle) == new and not idle.asked
    other = replace(record, turns=(replace(record.turns[0], speaker="Cy Moor"), *record.turns[1:]))
    assert reworded(reading, other, ON, kept).findings == reading.findings


@pytest.mark.parametrize(
    "invented",
    [
        "Bo rings Zebedee about the hood.",  # a name
        "Bo rings the five brothers about the hood.",  # a number
        "Bo rings the two brothers on Monday.",  # a day
        "Ada rings the two brothers about the hood.",  # somebody else
        "The moon is made of cheese, says Bo.",  # another subject
        "Bo " + "rings the two brothers about the hood and " * 9,  # without end
        "",
        "…",
    ],
)
def test_what_is_not_held_is_tried_again_and_then_stays_as_it_was(read_record, invented):
    record, reading = read_record
    assert reworded(reading, record, ON, {}, Told(action=[invented, GOOD["action"]])).findings[0].text == GOOD["action"]
    kept: dict[str, str] = {}
    assert reworded(reading, record, ON, {}, Told(action=invented), kept.update).findings == reading.findings
    assert set(kept.values()) == {""}  # nor is it asked for again


def test_what_a_judge_does_not_take_to_follow_stays_as_it_was(read_record):
    record, reading = read_record
    asked = []

    def strict(text, cut):
        asked.append((cut.kind, text))
        return cut.kind != "action"

    new = reworded(reading, record, ON, {}, Told(**GOOD), judge=strict)
    assert [one.written for one in new.findings] == [reading.findings[0].written, "writer"] and new.chapters[0].by == "writer"
    # It is asked about what would be stated, of nothing that looking up has told already, and of no titles.
    assert asked.count(("action", GOOD["action"])) == 2 and not [one for one in asked if one[0] == "chapter"]
    asked.clear()
    reworded(reading, record, ON, {}, Told(action="Bo rings Zebedee about the hood."), judge=strict)
    assert asked == []


def test_a_judge_reads_who_is_meant_and_not_what_they_are_called():
    text, turns = laid_out("Bo Lind to ring the brothers for Ada.", cut())
    assert text == "robin to ring the brothers for alex." and turns[0] == "alex: Where were we?" and turns[3].startswith("* robin: I'll ring")
    # Of two with one first name the one who speaks first is meant by it; whoever has no name gets none.
    twice = passage("action", [("Ada Quist", "Ada Lund will ring, or Ada."), ("", "Yes.")], {0}, ["Ada Quist", "Ada Lund"])
    assert laid_out("Ada Lund to ring.", twice) == ("chris to ring.", ["* alex: chris will ring, or alex.", ": Yes."])


@pytest.mark.parametrize(
    ("written", "stated"),
    [
        ("Ring the roofer by Friday.", "Bo to ring the roofer by Friday."),
        ("Bo rings the roofer.", "Bo rings the roofer."),
        ("If it rains, ring the roofer.", "Bo: If it rains, ring the roofer."),
        ("The roofer is rung.", "Bo: The roofer is rung."),
        ("DHL the parcel.", "Bo: DHL the parcel."),
    ],
)
def test_an_action_says_whose_it_is(written, stated):
    assert with_owner(written, "Bo Lind") == stated and with_owner(written, None) == written


def test_nothing_is_written_where_there_is_nothing_to_write_from(read_record):
    record, reading = read_record
    spanish, empty = replace(record, language="es"), replace(record, turns=())
    for silent in (spanish, empty):
        assert reworded(reading, silent, ON, {}, Told(**GOOD)) == reading

"""Who a voice may be, which lines are in doubt, and words put right without losing their times."""

import pytest

from core.formats import read_record
from core.record.edit import Misplaced, replace_words
from core.record.model import Line, Record, Turn, Word
from core.record.review import doubts, unsure_spans
from core.voices.naming import propose_names
from tests.conftest import ROOT

PEOPLE = ["Maren Tollefsen", "Tobias Renn", "Yuki Hanamori"]


def talk(*said: tuple[str, str]) -> Record:
    turns = tuple(Turn(i, voice, (Line(text, i * 5.0, i * 5.0 + 4),), "en") for i, (voice, text) in enumerate(said, start=1))
    return Record("talk", turns, 100.0, "en")


def proposed(record: Record, names=PEOPLE) -> dict[str, str]:
    return {one.voice: one.name for one in propose_names(record, record.speakers, names)}


def test_who_introduces_themselves():
    record = talk(("A", "Hello, this is Tobias from the garden."), ("B", "Hi, I'm Yuki."), ("A", "Good."))
    assert proposed(record) == {"A": "Tobias Renn", "B": "Yuki Hanamori"}


def test_who_is_called_by_name_and_answers():
    record = talk(
        ("A", "Tobias, where are we?"),
        ("B", "Two bays."),
        ("A", "And you, Yuki?"),
        ("C", "Signs."),
        ("A", "Thanks, Tobias."),
        ("B", "Sure."),
    )
    found = propose_names(record, ["A", "B", "C"], PEOPLE)
    assert {one.voice: one.name for one in found} == {"B": "Tobias Renn"}  # once is not enough
    assert [line.text for line in found[0].lines] == ["Tobias, where are we?", "Thanks, Tobias."]


def test_who_is_only_talked_about_is_not_proposed():
    assert proposed(talk(("A", "Tobias will rig it."), ("B", "Tobias said so."), ("A", "Ask Tobias about it."), ("B", "Fine."))) == {}


def test_of_the_demos_voices_the_names_are_right():
    record = read_record(ROOT / "demo/records/01-works-meeting-scaffold.json")
    names = ["Maren Tollefsen", "Tobias Renn", "Idris Quaye", "Yuki Hanamori"]
    # A is Maren, B Tobias, C Idris, D Yuki: the order of the script.
    right = dict(zip("ABCD", names, strict=True))
    found = proposed(record, names)
    assert found and all(right[voice] == name for voice, name in found.items())


def test_doubts_come_likeliest_first():
    clear = Line("Two bays.", 0, 2, (Word("Two", 0, 1), Word("bays.", 1, 2)))
    unsure = Line("Livestoma seeds.", 2, 4, (Word("Livestoma", 2, 3, 0.2), Word("seeds.", 3, 4, 0.9)))
    whose = Line("Yes yes.", 4, 5, (Word("Yes", 4, 4.5, doubt=True), Word("yes.", 4.5, 5, doubt=True)))
    listed = Line("Ask Tobias.", 5, 6, (Word("Ask", 5, 5.5), Word("Tobias.", 5.5, 6, 0.8, heard="to bias.")))
    found = doubts(Record("r", (Turn(1, "A", (clear, unsure, whose, listed)),), 6))
    assert [(doubt.line.text, doubt.reasons) for doubt in found] == [
        ("Livestoma seeds.", ("words",)),
        ("Yes yes.", ("voice",)),
        ("Ask Tobias.", ("listed",)),
    ]
    assert unsure_spans(unsure.words, unsure.text) == [(0, 9)] and unsure_spans(unsure.words, "Another text.") == []


def test_replaced_words_share_the_time_of_those_they_replace():
    words = [Word("ask", 0, 1), Word("to", 1, 1.4, 0.3), Word("bias", 1.4, 2, 0.4, heard=""), Word("now.", 2, 3)]
    made = replace_words(words, 1, 2, "Tobias Renn")
    assert [word.text for word in made] == ["ask", "Tobias", "Renn", "now."]
    assert (made[1].start, made[2].end, made[1].end) == (1, 2, made[2].start)
    assert made[1].probability == 1.0 and made[1].heard == "to bias"
    assert [word.text for word in replace_words(words, 0, 0, "")] == ["to", "bias", "now."]


@pytest.mark.parametrize(("first", "last", "text"), [(0, 9, "x"), (2, 1, "x"), (-1, 0, "x"), (0, 3, " ")])
def test_edits_that_cannot_be_made_are_refused(first, last, text):
    with pytest.raises(Misplaced):
        replace_words([Word("a", 0, 1)] * 4, first, last, text)

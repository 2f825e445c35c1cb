"""A person's name out of words."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.record.model import Line, Word
from core.record.nameless import NAMELESS, Names

TOBIAS = Names("Tobias Renn", ["Maren Tollefsen", "Tobias Vale"], ["tobias@larkmoor.example"])


@pytest.mark.parametrize(
    ("text", "left"),
    [
        ("Tobias Renn has the key.", f"{NAMELESS} has the key."),
        ("Ask Renn, or write to Tobias@Larkmoor.example!", f"Ask {NAMELESS}, or write to {NAMELESS}!"),
        ("TOBIAS RENN; Renn's ladder", f"{NAMELESS}; {NAMELESS}'s ladder"),
        ("Tobias will do it.", "Tobias will do it."),  # there is another Tobias
        ("The rennet, the Rennies, prenn", "The rennet, the Rennies, prenn"),
        ("", ""),
    ],
)
def test_the_name_goes_and_what_only_looks_like_it_stays(text, left):
    assert TOBIAS.without(text) == left and TOBIAS.among(text) == (text != left)


def test_marks_and_case_do_not_hide_a_name_and_lists_are_walked():
    names = Names("Zoë Straße")
    assert names.without(["zoe, ZOË", {"a": "Straße", "b": 3}]) == [f"{NAMELESS}, {NAMELESS}", {"a": NAMELESS, "b": 3}]


def test_a_line_loses_it_in_its_text_and_in_its_words():
    words = tuple(Word(text, at, at + 0.5) for at, text in enumerate("Give it to Tobias Renn, please.".split()))
    line = TOBIAS.line_without(Line("Give it to Tobias Renn, please.", 0.0, 6.0, words))
    assert line.text == f"Give it to {NAMELESS}, please." and [one.text for one in line.words] == ["Give", "it", "to", NAMELESS, NAMELESS, "please."]
    assert TOBIAS.line_without(line) is line


@given(st.text(max_size=80))
def test_what_has_no_name_in_it_is_as_it_was_and_what_had_one_has_none(text):
    left = TOBIAS.without(text)
    assert not TOBIAS.among(left) and (left == text or TOBIAS.among(text))

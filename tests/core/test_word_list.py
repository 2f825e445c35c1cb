"""The word list: near misses are put right, words that exist stand, and what was heard can be had back."""

import pytest

from core.record.model import Word
from core.speech.word_list import Term, WordList, read_terms, uncorrected

LIST = WordList(
    read_terms(
        [
            "Jubaea",
            "Dewline",
            "Tobias",
            "Nerys",
            "Anselm",
            "Beatriz | bee tris",
            "Livistona | | live is tone",
            "cycads",
            "Jan",
            "Gwen",
            "Colm",
        ]
    )
)


def said(text: str, probability: float = 0.9) -> list[Word]:
    return [Word(word, i * 0.3, i * 0.3 + 0.25, probability, "A") for i, word in enumerate(text.split())]


def corrected(text: str, probability: float = 0.9) -> str:
    return " ".join(word.text for word in LIST.correct(said(text, probability)))


@pytest.mark.parametrize(
    ("heard", "meant"),
    [
        ("where the jubias, is", "where the Jubaea, is"),  # no such word, nearly the same sound
        ("the dew line was", "the Dewline was"),  # words that exist, exactly the same sound
        ("ask to bias first.", "ask Tobias first."),
        ("Neri's, maybe", "Nerys, maybe"),
        ("that is Gwen's glass", "that is Gwen's glass"),  # right already
        ("and comb's retired", "and Colm's retired"),  # no word, so it may be the name; its ending was heard
        ("the live is tone seedlings", "the Livistona seedlings"),  # the list says so
        ("the psycads.", "the cycads."),
        ("DEWLINE", "Dewline"),
    ],
)
def test_near_misses_are_put_right(heard, meant):
    assert corrected(heard) == meant


@pytest.mark.parametrize("text", ["a comb on the table", "when it rains", "two bays are decked", "and some of it", "He said. Line two."])
def test_words_that_exist_stand(text):
    assert corrected(text) == text
    assert corrected(text, 0.6) == text


def test_a_word_the_recogniser_was_unsure_of_gives_way():
    words = WordList([Term("Colm")])
    assert [w.text for w in words.correct(said("ask comb", 0.3))] == ["ask", "Colm"]
    assert [w.text for w in words.correct(said("ask comb", 0.9))] == ["ask", "comb"]


@pytest.mark.parametrize(
    ("heard", "meant"),
    [
        ("it is J, A, N, with", "it is Jan, with"),
        ("J-A-N.", "Jan."),
        ("B E A T R I Z", "Beatriz"),
        ("the H V A contract", "the HVA contract"),
        ("plan A, B, C", "plan A, B, C"),
    ],
)
def test_letters_are_put_together(heard, meant):
    assert corrected(heard) == meant


def test_what_was_heard_is_kept_and_can_be_had_back():
    heard = said("ask to bias now")
    word = LIST.correct(heard)[1]
    assert (word.text, word.heard, word.start, word.end) == ("Tobias", "to bias", heard[1].start, heard[2].end)
    assert uncorrected(word).text == "to bias"


def test_nothing_is_joined_across_voices_or_sentences():
    words = said("dew line")
    assert [w.text for w in LIST.correct([words[0], Word("line", 0.3, 0.5, 0.9, "B")])] == ["dew", "line"]
    assert corrected("to. bias is") == "to. bias is"


def test_between_two_terms_as_near_neither_is_put_in():
    near = WordList([Term("Brendal"), Term("Brengal")])
    assert [w.text for w in near.correct(said("brembal"))] == ["brembal"]


def test_an_empty_list_changes_nothing():
    assert WordList([]).correct(said("J A N")) == said("J A N")

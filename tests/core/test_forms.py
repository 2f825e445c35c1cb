"""Forms of words: what the stemmers of Snowball take for one word. The words are of its published sample vocabularies' kind, from memory."""

from __future__ import annotations

import pytest

from core.search.forms import other_forms

KNOWN = ("pasaporte", "pasaportes", "pasar", "pasamos", "Gläser".lower(), "glas", "glases", "chevaux", "cheval", "pas")


@pytest.mark.parametrize(
    ("word", "languages", "wanted"),
    [
        ("pasaporte", ["es"], ["pasaportes"]),
        ("pasaportes", ["de", "es"], ["pasaporte"]),
        ("pasamos", ["es"], ["pasar"]),
        ("glas", ["de"], ["glases"]),
        ("pasaporte", ["en", "xx"], []),  # English is not looked for here, nor what has no stemmer
        ("verdigris", ["es"], []),
    ],
)
def test_a_word_is_found_in_its_other_forms(word, languages, wanted):
    assert set(wanted) <= set(other_forms(word, KNOWN, languages)) and word not in other_forms(word, KNOWN, languages)
    assert bool(other_forms(word, KNOWN, languages)) == bool(wanted)

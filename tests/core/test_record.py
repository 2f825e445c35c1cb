"""Spans, sentences, turns and lines."""

from hypothesis import given
from hypothesis import strategies as st

from core.record.assemble import assemble, voice_label
from core.record.model import Word
from core.record.sentences import split_sentences
from core.record.timeline import Span, merge, pack

spans = st.tuples(st.floats(0, 500), st.floats(0, 60)).map(lambda pair: Span(pair[0], pair[0] + pair[1]))


@given(st.lists(spans, max_size=30))
def test_merged_spans_are_apart_and_cover_the_same(found):
    joined = merge(found)
    assert all(one.end < other.start for one, other in zip(joined, joined[1:], strict=False))
    assert all(any(whole.start <= span.start and span.end <= whole.end for whole in joined) for span in found)


@given(st.lists(spans, max_size=30), st.floats(1, 30))
def test_packed_stretches_keep_all_speech_and_stay_short(found, longest):
    speech = merge(found)
    stretches = pack(speech, longest)
    assert all(stretch.duration <= longest + 1e-6 for stretch in stretches)
    covered = sum((span & stretch).duration for span in speech for stretch in stretches)
    assert abs(covered - sum(span.duration for span in speech)) < 1e-6


def test_a_turn_ends_where_the_voice_changes_or_a_long_silence_falls():
    words = [
        Word("Right.", 0, 0.5, voice="A"),
        Word("Yes,", 0.6, 0.8, voice="B"),
        Word("agreed.", 0.8, 1.2, voice="B"),
        Word("Next.", 9, 9.4, voice="B"),
    ]
    turns = assemble(words, "en")
    assert [(turn.id, turn.speaker, turn.text) for turn in turns] == [(1, "A", "Right."), (2, "B", "Yes, agreed."), (3, "B", "Next.")]


def test_sentences_do_not_end_at_abbreviations():
    assert split_sentences("Dr. Vale came. So do I. Why? ¿Vale?") == ["Dr. Vale came.", "So do I.", "Why?", "¿Vale?"]


def test_labels_go_on_after_z():
    assert [voice_label(index) for index in (0, 25, 26, 27, 701, 702)] == ["A", "Z", "AA", "AB", "ZZ", "AAA"]

"""Spans, sentences, turns and lines."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.record.assemble import assemble, voice_label
from core.record.edit import Misplaced, cut_line, find_text, realign, replaced
from core.record.model import Line, Word
from core.record.sentences import split_sentences
from core.record.timeline import Span, merge, pack, share_out

spans = st.tuples(st.floats(0, 500), st.floats(0, 60)).map(lambda pair: Span(pair[0], pair[0] + pair[1]))


@given(st.lists(spans, max_size=30))
def test_merged_spans_are_apart_and_cover_the_same(found):
    joined = merge(found)
    assert all(one.end < other.start for one, other in zip(joined, joined[1:], strict=False))
    assert all(any(whole.start <= span.start and span.end <= whole.end for whole in joined) for span in found)


@given(st.lists(spans, max_size=30), st.floats(1, 30), st.floats(0, 2))
def test_packed_stretches_keep_all_speech_and_stay_short(found, longest, more):
    speech = merge(found)
    stretches = pack(speech, longest, more)
    assert all(stretch.duration <= longest + 1e-6 for stretch in stretches[:-1])
    assert not stretches or stretches[-1].duration <= longest + more + 1e-6
    covered = sum((span & stretch).duration for span in speech for stretch in stretches)
    assert abs(covered - sum(span.duration for span in speech)) < 1e-6


@given(spans, st.lists(st.text(min_size=1, max_size=12), min_size=1, max_size=20))
def test_texts_share_out_a_span_by_their_length_and_leave_no_gap(span, texts):
    shares = share_out(span, texts)
    assert [share.start for share in shares[1:]] == [share.end for share in shares[:-1]]
    assert (shares[0].start, shares[-1].end) == (round(span.start, 3), round(span.end, 3))
    for share, text in zip(shares, texts, strict=True):
        assert share.end - share.start == pytest.approx(span.duration * len(text) / sum(map(len, texts)), abs=0.0011)


def test_a_short_rest_goes_with_the_stretch_before_it():
    assert pack([Span(0, 27.6), Span(27.8, 28.3)], 28.0) == [Span(0, 27.6), Span(27.8, 28.3)]
    assert pack([Span(0, 27.6), Span(27.8, 28.3)], 28.0, 1.5) == [Span(0, 28.3)]


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


def line_of(text: str) -> Line:
    words = tuple(Word(word, 2.0 + index, 2.8 + index, 0.9, voice="A") for index, word in enumerate(text.split()))
    return Line(text, 2.0, words[-1].end, words)


@given(st.lists(st.sampled_from("the glazing bars are rotten on north side of it".split()), min_size=1, max_size=12))
def test_an_edited_line_keeps_its_time_and_the_times_of_words_that_stay(fresh):
    line = line_of("the glazing bars on the north side are rotten")
    edited = realign(line, " ".join(fresh))
    assert edited.text == " ".join(fresh) == " ".join(word.text for word in edited.words)
    assert (edited.start, edited.end) == (line.start, line.end)
    times = [time for word in edited.words for time in (word.start, word.end)]
    assert times == sorted(times) and times[0] >= line.start and times[-1] <= line.end
    kept = {(word.text, word.start) for word in line.words}
    if fresh == line.text.split()[: len(fresh)]:
        assert {(word.text, word.start) for word in edited.words} <= kept


def test_what_was_heard_is_kept_with_what_was_put_in_its_place():
    edited = realign(line_of("ask when whether they come"), "ask Gwen, whether they can come.")
    assert [(w.text, w.heard) for w in edited.words] == [
        ("ask", ""), ("Gwen,", "when"), ("whether", ""), ("they", ""), ("can", ""), ("come.", ""),
    ]  # fmt: skip
    assert edited.words[1].probability == 1.0 and edited.words[1].start == 3.0
    with pytest.raises(Misplaced):
        realign(edited, "  ")


def test_a_line_is_cut_between_two_words():
    first, second = cut_line(line_of("Yes. And the bars?"), 1)
    assert (first.text, first.end, second.text, second.start) == ("Yes.", 2.8, "And the bars?", 3.0)
    untimed = cut_line(Line("Yes. And the bars?", 0.0, 8.0), 1)
    assert untimed[0].end == untimed[1].start and 0 < untimed[0].end < 8
    for word in (0, 4, -1):
        with pytest.raises(Misplaced):
            cut_line(line_of("Yes. And the bars?"), word)


def test_texts_are_found_as_whole_words_or_not_and_replaced():
    lines = ["The comb and the combs.", "COMB it (comb)!", "nothing"]
    assert [(hit.line, hit.start) for hit in find_text(lines, "comb")] == [(0, 4), (1, 0), (1, 9)]
    assert len(find_text(lines, "comb", whole_words=False)) == 4 and len(find_text(lines, "COMB", match_case=True)) == 1
    assert find_text(lines, "(comb)") and find_text(lines, "zebra") == []
    assert replaced(lines[1], [hit for hit in find_text(lines, "comb") if hit.line == 1], "Colm") == "Colm it (Colm)!"
    with pytest.raises(Misplaced):
        find_text(lines, " ")

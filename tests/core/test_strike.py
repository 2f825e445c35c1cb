"""Striking: which words go, what is left, what falls silent and black, and who quotes it."""

from __future__ import annotations

from fractions import Fraction

import av
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from core.media import RATE, decode, listening_copy, open_sound
from core.media.copies import FORMS, excerpt_copy, sound_copy
from core.media.silence import silence_wav, silenced
from core.record.model import Line, Record, Turn, Word
from core.record.strike import BLANK, Quotes, Unstrikable, between_words, cut, of_voice, timed_words, within_span
from core.record.timeline import Span
from tests.sounds import write_wav


def line(text: str, start: float, each: float = 0.5) -> Line:
    """A line whose words take so many seconds each."""
    words = tuple(Word(word, start + each * n, start + each * (n + 1)) for n, word in enumerate(text.split()))
    return Line(text, start, words[-1].end, words)


LINES = [line("The pump costs ninety thousand krona.", 0.0), line("Nobody else may know.", 4.0), line("Right, next point.", 8.0)]


def test_some_words_of_a_line_go_and_the_others_keep_their_times():
    struck = cut(LINES, between_words(LINES, (0, 3), (0, -1)))
    assert struck.lines[0].text == "The pump costs" and struck.lines[0].words == LINES[0].words[:3] and struck.lines[0].end == 1.5
    assert struck.words == 3 and struck.runs == (("ninety", "thousand", "krona."),)
    assert struck.spans == (Span(1.35, 3.5),), "a little of the word before falls silent, and the breath after"


def test_words_over_several_lines_are_one_silence():
    struck = cut(LINES, between_words(LINES, (0, 4), (1, 1)))
    assert struck.lines[0].text == "The pump costs ninety" and struck.lines[1].text == "may know."
    assert len(struck.spans) == 1 and struck.seconds == pytest.approx(5.15 - 1.85)


def test_a_span_of_time_takes_every_word_it_touches():
    assert within_span(LINES, Span(2.9, 4.2)) == {0: frozenset({5}), 1: frozenset({0})}
    assert cut(LINES, within_span(LINES, Span(6.5, 7.5)), [Span(6.5, 7.5)]).words == 0, "silence can be struck too: there may be more in it"


def test_a_voice_goes_whole():
    record = Record("m", (Turn(1, "Ada", (LINES[0],)), Turn(2, "Bo", (LINES[1], LINES[2]))))
    assert cut(LINES, of_voice(record, "Bo")).lines == {1: None, 2: None}


@pytest.mark.parametrize(("first", "last"), [((0, 6), (0, 6)), ((2, 0), (0, 0)), ((0, 0), (9, 0)), ((0, 3), (0, 2)), ((-1, 0), (0, 0))])
def test_words_that_there_are_not_cannot_be_struck(first, last):
    with pytest.raises(Unstrikable):
        between_words(LINES, first, last)


def test_nothing_and_everything_are_refused_with_the_way_on():
    with pytest.raises(Unstrikable, match="nothing to strike"):
        cut(LINES, {})
    with pytest.raises(Unstrikable, match="out of the library"):
        cut(LINES, between_words(LINES, (0, 0), (2, -1)))
    with pytest.raises(Unstrikable, match="ends after it starts"):
        within_span(LINES, Span(3.0, 3.0))


def test_a_line_without_word_times_shares_out_its_own():
    plain = Line("No word times here", 10.0, 14.0)
    struck = cut([*LINES, plain], between_words([*LINES, plain], (3, 1), (3, 1)))
    assert struck.lines[3] == Line("No times here", 10.0, 14.0)
    assert timed_words(plain)[-1].end == pytest.approx(14.0)


@given(st.sets(st.integers(0, 12)))
def test_what_is_left_and_what_goes_are_the_record(chosen):
    places = [(i, n) for i, one in enumerate(LINES) for n in range(len(one.words))]
    gone: dict[int, frozenset[int]] = {}
    for index, number in (places[at] for at in chosen):
        gone[index] = gone.get(index, frozenset()) | {number}
    if not 0 < len(chosen) < len(places):
        return
    struck = cut(LINES, gone)
    left = [word for i, one in enumerate(LINES) for word in (struck.lines.get(i, one) or Line("", 0, 0)).words]
    assert len(left) + struck.words == len(places)
    silent = [LINES[i].words[n] for i, n in (places[at] for at in chosen)]
    assert all(any(span.start <= word.start and word.end <= span.end for span in struck.spans) for word in silent)


def test_quotations_are_found_whatever_their_signs_and_nothing_else_is():
    quotes = Quotes(cut(LINES, between_words(LINES, (0, 3), (0, -1))))
    assert quotes.blanked("She said: “Ninety thousand krona” – really?") == f"She said: “{BLANK}” – really?"
    assert quotes.blanked("A thousand reasons") == "A thousand reasons"
    common = Quotes(cut([line("and then we have to go there and see it", 0), LINES[2]], {0: frozenset(range(10))}))
    assert common.blanked("and then we have to pay") == "and then we have to pay", "words that say nothing are nobody's quotation"


def test_a_single_word_is_a_quotation_only_beside_its_place():
    lines = [line("Ask Ottoline about it.", 0), LINES[2]]
    quotes = Quotes(cut(lines, between_words(lines, (0, 1), (0, 1))))
    assert quotes.blanked("Ottoline was there.") == "Ottoline was there."
    assert quotes.blanked("Ottoline was there.", near=True) == f"{BLANK} was there."


# media

SPANS = [Span(1.0, 1.5), Span(2.25, 2.5)]


def tone(path, form: str, codec: str, *, picture: bool = False, seconds: float = 4.0, rate: int = 48_000) -> None:
    """A file with a tone of 440 Hz on two channels and, if asked, a white picture, and a title that says too much."""
    wave = (0.5 * np.sin(2 * np.pi * 440 * np.arange(int(rate * seconds)) / rate) * 32767).astype(np.int16)
    with av.open(str(path), "w", format=form) as sink:
        sink.metadata["title"] = "the secret"
        sound = sink.add_stream(codec, rate=rate, layout="stereo")
        video = sink.add_stream("libx264", rate=10, options={"preset": "ultrafast"}) if picture else None
        if video:
            video.width, video.height, video.pix_fmt = 64, 36, "yuv420p"
            for number in range(int(10 * seconds)):
                frame = av.VideoFrame.from_ndarray(np.full((36, 64, 3), 255, np.uint8), format="rgb24").reformat(format="yuv420p")
                frame.pts, frame.time_base = number, Fraction(1, 10)
                sink.mux(video.encode(frame))
            sink.mux(video.encode(None))
        resampler = av.AudioResampler(format=sound.codec_context.format.name, layout="stereo", rate=rate, frame_size=1024)
        frame = av.AudioFrame.from_ndarray(np.repeat(wave, 2).reshape(1, -1), format="s16", layout="stereo")
        frame.sample_rate, frame.pts, frame.time_base = rate, 0, Fraction(1, rate)
        for block in [*resampler.resample(frame), *resampler.resample(None)]:
            sink.mux(sound.encode(block))
        sink.mux(sound.encode(None))


@pytest.mark.parametrize(
    ("form", "codec", "picture", "suffix"),
    [("wav", "pcm_s16le", False, ".flac"), ("ogg", "libopus", False, ".opus"), ("mp3", "libmp3lame", False, ".opus"), ("mp4", "aac", True, ".mp4")],
)  # fmt: skip
def test_media_fall_silent_and_black_where_struck_and_nowhere_else(tmp_path, form, codec, picture, suffix):
    tone(tmp_path / "given", form, codec, picture=picture)
    made = silenced(tmp_path / "given", tmp_path / "made", SPANS)
    assert made.suffix == suffix
    before, after = (decode(path, tmp_path / f"{n}.wav") for n, path in enumerate((tmp_path / "given", made)))
    assert after == pytest.approx(before, abs=0.06), "no second moves"
    sound = open_sound(tmp_path / "1.wav").astype(float)
    loud = [np.sqrt(np.mean(sound[int(RATE * at) : int(RATE * (at + 0.1))] ** 2)) for at in np.arange(0.1, 3.8, 0.1)]
    for at, level in zip(np.arange(0.1, 3.8, 0.1), loud, strict=True):
        inside = any(span.start + 0.06 <= at and at + 0.1 <= span.end - 0.06 for span in SPANS)
        outside = all(at + 0.1 <= span.start - 0.1 or at >= span.end + 0.1 for span in SPANS)
        assert not inside or level < 60, f"heard at {at:.1f} s"
        assert not outside or level > 5000, f"gone at {at:.1f} s"
    with av.open(str(made)) as container:
        assert "secret" not in str(container.metadata)
        light = {round(frame.time, 1): frame.to_ndarray(format="gray").mean() for frame in container.decode(video=0)} if picture else {}
    if picture:
        assert len(light) == 40 and light[1.2] < 30 and light[2.3] < 30 and light[0.2] > 200 and light[3.0] > 200


def test_the_sound_of_the_recogniser_is_zero_there(tmp_path):
    tone(tmp_path / "given", "wav", "pcm_s16le")
    decode(tmp_path / "given", tmp_path / "sound.wav")
    silence_wav(tmp_path / "sound.wav", tmp_path / "struck.wav", [*SPANS, Span(3.9, float("inf"))])
    before, after = open_sound(tmp_path / "sound.wav"), open_sound(tmp_path / "struck.wav")
    assert len(before) == len(after) and not after[RATE : RATE * 3 // 2].any() and not after[int(3.9 * RATE) :].any()
    assert (after[: RATE - 1] == before[: RATE - 1]).all()


@pytest.mark.parametrize("form", list(FORMS))
def test_sound_is_taken_away_in_open_forms(tmp_path, form):
    tone(tmp_path / "given", "mp4", "aac", picture=True)
    sound_copy(tmp_path / "given", tmp_path / "away", form)
    with av.open(str(tmp_path / "away")) as container:
        assert container.streams.audio[0].codec_context.channels == 2 and not container.streams.video
        assert "secret" not in str(container.metadata)
    assert decode(tmp_path / "away", tmp_path / "sound.wav") == pytest.approx(4.0, abs=0.1)


def test_an_excerpt_holds_its_span_and_nothing_else(tmp_path):
    wave = np.concatenate([np.full(RATE, level) for level in (0, 8000, 0, 0)]) * np.sin(np.arange(4 * RATE))
    write_wav(tmp_path / "w.wav", wave.astype(np.int16))
    listening_copy(tmp_path / "w.wav", tmp_path / "w.webm")
    excerpt_copy(tmp_path / "w.webm", tmp_path / "cut.webm", Span(1.0, 2.0))
    assert decode(tmp_path / "cut.webm", tmp_path / "cut.wav") == pytest.approx(1.0, abs=0.03)
    sound = np.abs(open_sound(tmp_path / "cut.wav").astype(float))
    assert sound[: RATE // 10].max() > 4000 and sound[RATE * 8 // 10 : RATE * 9 // 10].max() > 4000
    excerpt_copy(tmp_path / "w.webm", tmp_path / "quiet.webm", Span(2.5, 3.5))
    decode(tmp_path / "quiet.webm", tmp_path / "quiet.wav")
    assert np.abs(open_sound(tmp_path / "quiet.wav")).max() < 100

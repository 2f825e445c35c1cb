"""Chunks of a capture, and words while people speak."""

from __future__ import annotations

import jiwer
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bench.hearing import plain_text
from core.media import RATE, open_sound
from core.media.chunks import CHUNK, Damaged, Samples, check_digest, count_samples, cut_free, left_before, placed, read_flac, write_flac
from core.problems import InputProblem
from core.speech.live import LiveHearing
from core.speech.translate import translate
from tests.core.test_hearing import script


def test_the_digest_is_the_one_of_the_standard():
    # RFC 9530 prints this Content-Digest for {"hello": "world"} and a line feed (from memory; the digest was computed beside it too).
    body = b'{"hello": "world"}\n'
    assert check_digest(body, "sha-256=:RK/0qy18MlBSVnWgjwz6lZEWjP/lF5HF9bvEF8FabDg=:").startswith("44aff4ab")
    for header in ("", "sha-256=:X48E9qOokqqrvdts8nOJRJN3OWDUoyWxBf7kbu9DBPE=:", "sha-256=:no base64:", "md5=:RK/0qy18MlBSVnWgjwz6lQ==:"):
        with pytest.raises(Damaged):
            check_digest(body, header)


@pytest.mark.parametrize(("size", "channels"), [(1, 1), (6, 2), (2 * CHUNK + 2, 1)])
def test_half_samples_and_too_many_are_refused(size, channels):
    with pytest.raises(Damaged):
        count_samples(bytes(size), channels)
    assert count_samples(bytes(8), 2) == 2


parts = st.lists(st.tuples(st.integers(0, 3 * CHUNK), st.integers(1, CHUNK)).map(lambda one: Samples(one[0], one[0] + one[1])), max_size=3)


@given(parts, parts, st.integers(0, 2), st.sampled_from([CHUNK, CHUNK - 1, 17]))
def test_cutting_in_two_goes_leaves_what_cutting_at_once_leaves(first, second, number, length):
    whole = np.arange(length * 2, dtype="<i2").tobytes()
    once = cut_free(whole, number, 2, [*first, *second])
    assert cut_free(cut_free(whole, number, 2, first), number, 2, second, before=first) == once
    kept = [place for place in range(length) if not any(part.first <= number * CHUNK + place < part.end for part in [*first, *second])]
    assert np.array_equal(np.frombuffer(once, "<i2").reshape(-1, 2)[:, 0], (np.array(kept, dtype=np.int64) * 2).astype("<i2"))


@given(st.lists(st.tuples(st.integers(0, 60), st.integers(1, 30))), st.integers(0, 80))
def test_a_place_is_where_the_samples_left_say(struck, at):
    parts = [Samples(first, first + length) for first, length in struck]
    gone = {sample for part in parts for sample in range(part.first, part.end)}
    expected = None if at in gone else sum(sample not in gone for sample in range(at))
    assert left_before(at, parts) == expected


def test_a_track_that_came_later_is_silent_before(tmp_path):
    room = np.arange(-500, 500, dtype="<i2")
    blocks = [placed(room.tobytes(), [0], 2), placed(np.repeat(room, 2).tobytes(), [1, 0], 2)]
    assert write_flac(tmp_path / "two.flac", blocks, 2) == 2000
    back = np.concatenate(list(read_flac(tmp_path / "two.flac")))
    assert np.array_equal(back[:, 0], np.tile(room, 2)) and not back[:1000, 1].any() and np.array_equal(back[1000:, 1], room)


@pytest.fixture(scope="module")
def live(ear, talk):
    """Each step of a live hearing of the talk, fed a second at a time."""
    sound, hearing, steps = np.asarray(open_sound(talk)), LiveHearing(ear.recogniser, begins=100.0, language="en"), []
    for second in range(len(sound) // RATE):
        hearing.feed(sound[second * RATE : (second + 1) * RATE])
        if step := hearing.step():
            steps.append((100.0 + second + 1, step))
    steps.append((100.0 + len(sound) / RATE, hearing.step(last=True)))
    return steps


def test_live_words_are_nearly_those_of_the_script(live):
    words = [word for _, step in live for word in step.settled]
    # Half as much again as the full hearing may err (0.09 on this talk), and the ends of phrases are hard while they are being said.
    assert (
        jiwer.wer(
            plain_text(" ".join(text for _, _, end, text in script("08-heating-call") if end < 47)),
            plain_text(" ".join(word.text for word in words)),
        )
        < 0.2
    )
    assert all(before.start <= after.start + 0.35 for before, after in zip(words, words[1:], strict=False))


def test_nothing_is_settled_before_it_is_said_nor_taken_back(live):
    for now, step in live:
        assert all(word.end <= now + 0.3 for word in (*step.settled, *step.open))
    assert not live[-1][1].open
    waits = sorted(now - word.end for now, step in live for word in step.settled)
    assert waits[len(waits) // 2] < 4.0


def test_a_language_is_told_by_seconds_of_speech_and_not_by_the_first_word(ear, talk, monkeypatch):
    first = iter([[{"ja": 0.6, "en": 0.4}]])
    monkeypatch.setattr(ear.recogniser, "votes", lambda sound, speech: next(first, [{"en": 0.9, "ja": 0.1}]))
    sound, hearing, languages, settled = open_sound(talk), LiveHearing(ear.recogniser), [], []
    for second in range(12):
        hearing.feed(np.asarray(sound[second * RATE : (second + 1) * RATE]))
        if step := hearing.step():
            languages.append(hearing.language)
            settled += [word.text for word in step.settled]
    assert [one for one in dict.fromkeys(languages) if one] == ["ja", "en"] and languages[-1] == "en"
    assert settled and "".join(settled).isascii()


def test_silence_settles_nothing(ear):
    hearing = LiveHearing(ear.recogniser, language="en")
    for _ in range(20):
        hearing.feed(np.zeros(RATE, np.int16))
        step = hearing.step()
        assert step is None or not step.settled and not step.open
    assert hearing.room > 10


def test_translation_is_line_for_line():
    assert translate(["I will send the drawings to the supplier tomorrow.", "", "Good morning."], "es") == [
        "Enviaré los dibujos al proveedor mañana.",
        "",
        "Buenos días.",
    ]
    with pytest.raises(InputProblem, match="'xx'"):
        translate(["x"], "xx")

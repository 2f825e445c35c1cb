"""Any media file in; clear words about what cannot be used."""

import av
import numpy as np
import pytest

from core.media import decode, listening_copy, open_sound, peaks, probe
from core.media.decode import RATE
from core.problems import InputProblem
from tests.sounds import noise, tone, write_video, write_wav


def test_sound_comes_out_as_16_khz_mono_of_the_same_length(tmp_path):
    stereo = np.stack([tone(2.0), tone(2.0, 660)], axis=1)
    path = write_wav(tmp_path / "a.wav", stereo)
    assert decode(path, tmp_path / "o.wav") == pytest.approx(2.0, abs=0.01)
    sound = open_sound(tmp_path / "o.wav")
    assert len(sound) == pytest.approx(2 * RATE, abs=200) and np.abs(sound).max() > 3000
    with av.open(str(tmp_path / "o.wav")) as theirs:  # a header others read
        assert (theirs.streams.audio[0].rate, theirs.streams.audio[0].channels) == (RATE, 1)


def test_a_wrong_suffix_does_not_matter_and_video_gives_its_sound(tmp_path):
    write_video(tmp_path / "clip.mp4", sound=tone(1.0)).rename(tmp_path / "clip.txt")
    facts = probe(tmp_path / "clip.txt")
    assert (facts.sound, facts.picture) == ("aac", "mpeg4")
    assert decode(tmp_path / "clip.txt", tmp_path / "o.wav") == pytest.approx(1.0, abs=0.15)


@pytest.mark.parametrize(
    ("make", "said"),
    [
        (lambda path: path.write_bytes(b""), "empty"),
        (lambda path: path.write_bytes(b"Minutes of the last meeting\n" * 50), "not a sound or video"),
        (lambda path: write_video(path.with_suffix(".mp4"), sound=None).rename(path), "no sound"),
    ],
)
def test_what_is_no_recording_is_said_in_words(tmp_path, make, said):
    path = tmp_path / "given"
    make(path)
    with pytest.raises(InputProblem, match=said):
        probe(path)


def test_a_truncated_file_gives_what_is_there(tmp_path):
    whole = write_wav(tmp_path / "w.wav", noise(4.0))
    listening_copy(whole, tmp_path / "w.webm")
    data = (tmp_path / "w.webm").read_bytes()
    (tmp_path / "cut.webm").write_bytes(data[: len(data) * 6 // 10])
    assert 0.5 < decode(tmp_path / "cut.webm", tmp_path / "o.wav") < 4.0


def test_the_listening_copy_is_opus_that_can_be_sought_in(tmp_path):
    listening_copy(write_wav(tmp_path / "w.wav", tone(6.0)), tmp_path / "w.webm")
    with av.open(str(tmp_path / "w.webm")) as copy:
        assert copy.streams.audio[0].codec_context.name in ("opus", "libopus")
        copy.seek(int(4 * av.time_base))
        assert next(copy.decode(audio=0)).time > 3.0


def test_a_one_second_file_is_a_file(tmp_path):
    assert decode(write_wav(tmp_path / "s.wav", tone(1.0)), tmp_path / "o.wav") == pytest.approx(1.0, abs=0.01)


def test_peaks_are_the_loudest_sample_of_each_stretch(monkeypatch):
    sound = np.zeros(1000, np.int16)
    sound[[150, 999]] = (16384, -32768)
    assert peaks(sound, 10) == [0, 0.5, 0, 0, 0, 0, 0, 0, 0, 1.0]
    monkeypatch.setattr("core.media.loudness._BLOCK", 7)
    assert peaks(sound, 10) == [0, 0.5, 0, 0, 0, 0, 0, 0, 0, 1.0]
    assert peaks(np.zeros(0, np.int16), 10) == []

"""Telling voices apart: the networks, the runs, whose words they are; on a real telephone call as well."""

import pickle
import zipfile

import numpy as np
import pytest
from pyannote.core import Annotation, Segment
from pyannote.metrics.diarization import DiarizationErrorRate

from bench.hearing import actors, read_rttm, text_of
from core.media import RATE, decode, open_sound
from core.media.tracks import line_of_tracks
from core.record.assemble import assemble
from core.record.model import Word
from core.record.timeline import Span
from core.speech import voice_activity
from core.voices import all_runs, tell_apart
from core.voices.cluster import find_voices, likeness
from core.voices.features import log_mel
from core.voices.listen import Run, unit
from core.voices.weights import read_weights
from tests.conftest import MODELS
from tests.sounds import tone, write_wav

CALL = MODELS / "reference-call"


def run(start: float, end: float, voice: int, noise: float = 0.02, clear: float | None = None) -> Run:
    rng = np.random.default_rng(int(start * 100))
    vector = np.eye(192)[voice] + noise * rng.normal(size=192)
    return Run(start, end, end - start if clear is None else clear, unit(vector))


def test_a_telephone_call_of_two_similar_voices(ear, tmp_path):
    """The sample of pyannote.audio 4.0.7 with its RTTM; collar 0.25 s each side, overlap counted. Its number of voices is not told."""
    decode(CALL / "call.wav", tmp_path / "call.wav")
    heard = ear.hear(CALL / "call.wav", "en").record
    true, found = read_rttm(CALL / "call.rttm"), Annotation()
    for turn in heard.turns:
        found[Segment(turn.start, turn.end), turn.id] = turn.speaker
    assert len(heard.speakers) == 2
    assert DiarizationErrorRate(collar=0.5)(true, found) < 0.1
    assert any(word.overlap for turn in heard.turns for word in turn.words)


def test_two_actors_in_short_turns(ear):
    """Of one of them there is no run of a second and a half: both are voices all the same. At most 12 % diarization error."""
    reference = actors()
    heard, found = ear.hear(reference.sound, "en"), Annotation()
    for turn in heard.record.turns:
        found[Segment(turn.start, turn.end), turn.id] = turn.speaker
    assert len(heard.record.speakers) == 2
    assert DiarizationErrorRate(collar=0.5)(reference.spoken, found) <= 0.12
    # Lines that are said twice are heard twice.
    assert sum("good story" in line.text for turn in heard.record.turns for line in turn.lines) == 2


def test_one_reader_is_one_voice(ear):
    sounds = [MODELS / "reference-readings" / f"{code}.wav" for code in ("es", "fr")]
    for path in sounds:
        assert len(ear.hear(path).record.speakers) == 1


def test_listening_goes_on_from_a_checkpoint_with_exactly_what_is_missing(ear, talk):
    sound = open_sound(talk)
    speech = [Span(0, len(sound) / RATE)]
    whole = list(ear.voices.listen(sound, speech))
    rest = list(ear.voices.listen(sound, speech, since=whole[0].until))
    assert len(whole) > 1
    assert [(one.until, [(run.start, run.end) for run in one.runs]) for one in rest] == [
        (one.until, [(run.start, run.end) for run in one.runs]) for one in whole[1:]
    ]
    part = list(ear.voices.listen(sound[: 30 * RATE], speech, since=17.0))
    assert all(one.start >= 17.0 for one in all_runs(part)) and part


def test_no_runs_where_nobody_speaks(ear, tmp_path):
    sound = open_sound(_decoded(tmp_path, tone(12)))
    assert all_runs(ear.voices.listen(sound, voice_activity(sound))) == []


def _decoded(folder, samples):
    decode(write_wav(folder / "given.wav", samples), folder / "sound.wav")
    return folder / "sound.wav"


def test_frames_are_kaldis():
    """Of a pure tone the loudest bin is the one whose triangle holds it (HTK's mel scale, as Kaldi uses it: from memory)."""
    for hertz in (200, 1000, 3000):
        mel = log_mel(tone(1, hertz))
        edges = np.linspace(*(1127 * np.log(1 + np.array([20, 8000]) / 700)), 82)
        expected = np.searchsorted(edges, 1127 * np.log(1 + hertz / 700)) - 1
        assert mel.shape == (98, 80) and abs(int(mel.mean(axis=0).argmax()) - expected) <= 1


def test_voices_are_counted():
    runs = [run(second, second + 1.8, voice) for second, voice in enumerate([0, 1, 0, 2, 1, 0, 2, 1, 0, 2])]
    assert len(find_voices(runs)) == 3
    assert len(find_voices(runs, 2)) == 2
    assert len(find_voices([*runs, run(20, 21.6, 0, noise=0.09)])) == 3
    assert find_voices([]).shape == (0, 192)


def test_two_at_once_are_two_voices():
    runs = [run(0, 3, 0), run(3, 6, 1), run(6, 9, 0), run(7, 8, 0, clear=0.0), run(9, 12, 1)]
    centroids = find_voices(runs)
    whose = likeness(runs, centroids).argmax(axis=1)
    assert whose[2] != whose[3] and whose[0] == whose[2]


def test_a_short_yes_goes_to_who_says_it():
    runs = [run(0, 4, 0), run(4.1, 4.5, 1), run(4.6, 9, 0), run(9, 14, 1)]
    words = [
        *(Word(f"w{i}." if i == 7 else f"w{i}", i * 0.5, i * 0.5 + 0.4) for i in range(8)),
        Word("Yes.", 4.1, 4.5),
        Word("And", 4.6, 5.0),
        Word("so.", 5, 8),
    ]
    words += [Word("Then", 9.2, 10), Word("we.", 10, 13)]
    turns = assemble(tell_apart(words, runs).words)
    assert [turn.speaker for turn in turns] == ["A", "B", "A", "B"]
    assert turns[1].text == "Yes."


def test_words_without_runs_are_one_voice():
    told = tell_apart([Word("Hello.", 0, 1)], [])
    assert [word.voice for word in told.words] == ["A"]


def test_weights_that_ask_for_code_are_refused(tmp_path):
    class Nasty:
        def __reduce__(self):
            return (print, ("run",))

    with zipfile.ZipFile(tmp_path / "weights.pt", "w") as archive:
        archive.writestr("archive/data.pkl", pickle.dumps({"weight": Nasty()}))
    with pytest.raises(pickle.UnpicklingError, match="builtins.print"):
        read_weights(tmp_path / "weights.pt")


def sides(*speaks: tuple[int, float]) -> np.ndarray:
    """Stereo: who speaks (0: left, 1: right) for how many seconds, in a row; the other side hears a trace of it."""
    rng = np.random.default_rng(1)
    parts = []
    for side, seconds in speaks:
        loud = rng.normal(0, 3000, int(seconds * RATE))
        pair = [loud * 0.02, loud * 0.02]
        pair[side] = loud
        parts.append(np.stack(pair, axis=1))
    return np.concatenate(parts).astype(np.int16)


def test_one_side_each_needs_no_guessing(tmp_path):
    path = write_wav(tmp_path / "call.wav", sides((0, 3), (1, 2), (0, 1)))
    line = line_of_tracks([path], 2)
    assert line == "0" * 30 + "1" * 20 + "0" * 10
    words = [Word("one", 0.5, 1), Word("two", 2, 2.9), Word("three", 3.1, 4), Word("four", 5.2, 5.8)]
    # Even where everybody sounds the same.
    runs = [run(0, 3, 0), run(3, 5, 0), run(5, 6, 0)]
    told = tell_apart(words, runs, tracks=line, one_each=True)
    assert [word.voice for word in told.words] == ["A", "A", "B", "A"] and set(told.voices) == {"A", "B"}


def test_a_room_in_stereo_is_not_two_tracks(tmp_path):
    mono = sides((0, 4))[:, :1]
    both = write_wav(tmp_path / "room.wav", np.concatenate([mono, mono // 2], axis=1))
    empty = write_wav(tmp_path / "left.wav", np.concatenate([mono, mono * 0], axis=1))
    assert line_of_tracks([both], 2) == "" and line_of_tracks([empty], 2) == ""


def test_files_at_once_are_a_track_each(tmp_path):
    spoken = sides((0, 3), (1, 3))
    paths = [write_wav(tmp_path / f"{side}.wav", spoken[: 5 * RATE if side else None, side]) for side in (0, 1)]
    assert line_of_tracks(paths) == "0" * 30 + "1" * 20 + "-" * 10


def test_what_the_recogniser_leaves_out_is_heard_again(ear, monkeypatch):
    """The two actors say several lines twice. With two hypotheses, and the last word by itself, it leaves lines out; speech without
    words is then heard by itself."""
    for settings in ({}, {"_BEAM": 2, "_REST": 0.0}):
        for name, value in settings.items():
            monkeypatch.setattr(f"core.speech.hear.{name}", value)
        text = text_of(ear.hear(actors().sound, "en").record.turns).lower()
        assert text.count("good story") == 2 and text.count("do you hear me") == 2, settings

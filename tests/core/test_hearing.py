"""The real recogniser and the real voices on real sound."""

import json

import jiwer
import numpy as np
import pytest
from pyannote.core import Annotation, Segment
from pyannote.metrics.diarization import DiarizationErrorRate

from bench.hearing import librivox, plain_text, text_of
from core.formats import read_record
from core.media import decode, open_sound
from core.record.timeline import Span
from core.speech import voice_activity
from core.speech.hear import Spoken
from core.speech.word_list import Term, read_terms
from demo.people import WORDS
from tests.conftest import MODELS, ROOT
from tests.sounds import RATE, applause, noise, tone, write_wav

DEMO = ROOT / "demo"


def script(name: str) -> list[tuple[str, float, float, str]]:
    rows = [line.split("\t") for line in (DEMO / "sound" / f"{name}.reference.tsv").read_text(encoding="utf-8").splitlines()]
    return [(speaker, float(start), float(end), text) for speaker, start, end, text in rows]


@pytest.mark.parametrize("name", ["01-works-meeting-scaffold", "04-frost-night-review", "08-heating-call"])
def test_shipped_records_have_the_words_and_the_voices_of_their_scripts(name):
    """Word error rate by jiwer, diarization error rate by pyannote.metrics (collar 0.25 s each side, overlap counted)."""
    record, reference = read_record(DEMO / "records" / f"{name}.json"), script(name)
    wer = jiwer.wer(plain_text(" ".join(row[3] for row in reference)), plain_text(text_of(record.turns)))
    assert wer < 0.12
    assert len(record.speakers) == len({row[0] for row in reference})
    true, found = Annotation(), Annotation()
    for index, (speaker, start, end, _) in enumerate(reference):
        true[Segment(start, end), index] = speaker
    for turn in record.turns:
        found[Segment(turn.start, turn.end), turn.id] = turn.speaker
    assert DiarizationErrorRate(collar=0.5)(true, found) < 0.05


def test_hearing_a_demo_recording_again_gives_the_shipped_record(ear):
    # As the stages hear it: with the first names of those who are there, and the workspace's list.
    terms = {term.text: term for term in [Term("Maren"), Term("Anselm"), Term("Pavel"), *read_terms(WORDS)]}
    heard = ear.hear(DEMO / "sound" / "08-heating-call.opus", terms=list(terms.values())).record
    shipped = read_record(DEMO / "records" / "08-heating-call.json")
    again, before = plain_text(" ".join(t.text for t in heard.turns)), plain_text(" ".join(t.text for t in shipped.turns))
    # Another processor may round otherwise; a word in fifty may differ.
    assert jiwer.wer(before, again) < 0.02
    assert heard.speakers == shipped.speakers


def test_sentences_read_aloud_are_heard_right(ear):
    """Five sentences of a LibriVox reading, as Debian's pocketsphinx-testdata has them; the plain engine gets 2 words of 71 wrong."""
    wanted, got = "", ""
    for text, sound in librivox():
        wanted += f" {plain_text(text)}"
        got += f" {plain_text(text_of(ear.hear(sound, 'en').record.turns))}"
    assert jiwer.wer(wanted, got) < 0.08


def test_hearing_goes_on_from_a_checkpoint_with_exactly_what_is_missing(ear, talk):
    sound = open_sound(talk)
    speech = [Span(0.5, 11.5), Span(12.0, 26.0), Span(30.0, 47.0)]
    spoken = [Spoken(span, "en") for span in speech]
    whole = list(ear.recogniser.passages(sound, spoken))
    rest = list(ear.recogniser.passages(sound, spoken, since=whole[0].until))
    assert [passage.words for passage in rest] == [passage.words for passage in whole[1:]]


@pytest.mark.parametrize(
    "samples",
    [np.zeros(20 * RATE, np.int16), noise(20), tone(20), tone(20, 220) // 2 + tone(20, 277) // 3 + tone(20, 330) // 3, applause(20)],
)
def test_nothing_is_invented_where_nobody_speaks(ear, tmp_path, samples):
    heard = ear.hear(write_wav(tmp_path / "quiet.wav", samples))
    assert heard.record.turns == () and heard.record.language is None


def test_speech_is_found_across_the_seams_of_blocks(talk, monkeypatch):
    sound = np.asarray(open_sound(talk))
    whole = voice_activity(sound)
    monkeypatch.setattr("core.speech.activity._BLOCK", 10)
    cut = voice_activity(sound)
    assert sum(span.duration for span in cut) == pytest.approx(sum(span.duration for span in whole), rel=0.1)


def test_records_of_the_demo_carry_word_times():
    record = json.loads((DEMO / "records" / "04-frost-night-review.json").read_text(encoding="utf-8"))
    words = [word for turn in record["turns"] for word in turn["words"]]
    assert len(words) > 400 and all(word["start"] <= word["end"] for word in words)
    assert all(0 <= word["probability"] <= 1 for word in words)


def test_listed_words_are_expected(ear, talk):
    """Heard without a list, "Anselm" comes out as other words."""
    plain_words = text_of(ear.hear(talk, "en").record.turns)
    listed = text_of(ear.hear(talk, "en", terms=[Term("Anselm"), Term("Pavel")]).record.turns)
    assert "Anselm" not in plain_words and "Anselm" in listed


READINGS = MODELS / "reference-readings"


def _joined(folder, *names: str):
    """Readings in a row, with a pause between them."""
    pieces = []
    for name in names:
        decode(READINGS / f"{name}.wav", folder / "one.wav")
        pieces += [np.array(open_sound(folder / "one.wav")), np.zeros(RATE, np.int16)]
    return write_wav(folder / "joined.wav", np.concatenate(pieces))


def test_where_words_have_no_spaces_the_record_has_none(ear):
    [line] = [line for turn in ear.hear(READINGS / "zh.wav", "zh").record.turns for line in turn.lines]
    assert "宇宙洪荒日月" in line.text and [word.text for word in line.words] == list(line.text)


@pytest.mark.parametrize("code", ["en", "es", "fr", "hi", "it", "ja", "pt", "zh"])  # Polish: taken for English, by the plain engine too
def test_the_language_is_found(ear, code):
    """The readings of pytest-audioeval 0.1.3."""
    assert ear.hear(READINGS / f"{code}.wav").record.language == code


def test_two_languages_are_told_apart_and_each_turn_has_its_own(ear, tmp_path):
    both = _joined(tmp_path, "en", "en", "es", "es", "en")
    for chosen in ("en+es", None):
        record = ear.hear(both, chosen).record
        assert {turn.language for turn in record.turns} == {"en", "es"}
        spanish = plain_text(text_of(turn for turn in record.turns if turn.language == "es"))
        english = plain_text(text_of(turn for turn in record.turns if turn.language == "en"))
        assert "feliz cardillo" in spanish and "fox" in english and "fox" not in spanish and "cardillo" not in english


def test_english_beside_the_original(ear, tmp_path):
    decode(READINGS / "fr.wav", tmp_path / "fr.wav")
    sound = open_sound(tmp_path / "fr.wav")
    text = ear.recogniser.english(sound, Span(0, len(sound) / RATE), "fr").lower()
    assert "old whisk" in text


def test_live_hearing_is_told_more_than_a_fragment_can_say(ear, talk):
    """What the recogniser is told to expect counts as part of what it may write: with sixty names, a fragment of half a second left no room."""
    sound = open_sound(talk)
    terms = [f"Trachycarpus fortunei {number}" for number in range(60)]
    for seconds in (0.2, 0.5, 1.0, 5.0):
        heard = ear.recogniser.quick(np.asarray(sound[: int(seconds * RATE)]), "en", terms)
        assert isinstance(heard, list)
    assert heard

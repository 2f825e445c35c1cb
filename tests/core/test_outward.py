"""Records on their way out, checked with other people's libraries; airtime."""

import csv
import io
from datetime import timedelta

import pytest
import srt
import webvtt
from hypothesis import given
from hypothesis import strategies as st
from pyannote.database.util import load_rttm

from core.formats import read_record
from core.formats.outward import (
    PACE,
    ROWS,
    WIDTH,
    Mark,
    Shown,
    captions,
    shown_turns,
    to_csv,
    to_document,
    to_markdown,
    to_rttm,
    to_srt,
    to_text,
    to_webvtt,
)
from core.planning.airtime import DEFINITIONS, airtime
from core.record.model import Line, Record, Turn, Word
from core.record.timeline import Span
from tests.conftest import ROOT


def turn(number: int, speaker: str, start: float, *texts: str, pace: float = 0.4) -> Turn:
    lines, at = [], start
    for text in texts:
        words = tuple(Word(word, at + pace * i, at + pace * (i + 1) - 0.05) for i, word in enumerate(text.split()))
        at = words[-1].end + 0.1
        lines.append(Line(text, words[0].start, words[-1].end, words))
    return Turn(number, speaker, tuple(lines), "en")


RECORD = Record(
    "works",
    (
        turn(1, "Ada Quist", 0.0, "The bars are rotten.", "Half of them, I think."),
        turn(2, "Ada Quist", 6.0, "=SUM of all: nine hundred."),
        turn(3, "Tomas Vale", 9.0, "Who pays for it?"),
        turn(4, "Ada Quist", 10.0, "We do not know that yet, I am afraid."),
    ),
    20.0,
    "en",
)


def test_what_is_shown_is_what_was_chosen():
    text = to_text(RECORD, "Works", Shown(marks=(Mark("Number to check", 6.0, 8.0),), link="https://x.example/meetings/1"))
    assert "0:00  Ada Quist: The bars are rotten. Half of them, I think. =SUM of all: nine hundred. [Number to check]" in text
    assert "To hear it: https://x.example/meetings/1" in text
    bare = to_text(RECORD, "Works", Shown(speakers=False, times=False, joined=False))
    assert "Ada" not in bare and "0:00" not in bare and bare.count("\n\n") >= 4
    part = shown_turns(RECORD, Shown(part=Span(8.9, 10.2)))
    assert [one.id for one in part] == [3, 4]
    assert "**Tomas Vale** Who pays" in to_markdown(RECORD, "Works", Shown(times=False))
    entries = to_document(RECORD, "Works", ["Tuesday"], Shown()).parts[0].entries
    assert [entry.margin for entry in entries] == ["0:00", "0:09", "0:10"]


def test_csv_is_read_by_the_csv_module_and_is_no_formula():
    rows = list(csv.DictReader(io.StringIO(to_csv(RECORD, Shown(joined=False)))))
    assert len(rows) == 5 and rows[2]["text"] == "'=SUM of all: nine hundred." and rows[3]["speaker"] == "Tomas Vale"
    assert list(csv.DictReader(io.StringIO(to_csv(RECORD, Shown(speakers=False, times=False)))))[0].keys() == {"turn", "text", "marks"}


def test_rttm_is_read_by_pyannote(tmp_path):
    path = tmp_path / "works.rttm"
    path.write_text(to_rttm(RECORD, Shown()))
    spoken = load_rttm(path)["works"]
    assert sorted(spoken.labels()) == ["Ada_Quist", "Tomas_Vale"]
    assert [round(segment.start, 3) for segment in spoken.itersegments()] == [one.start for one in RECORD.turns]


texts = st.lists(
    st.sampled_from("a glazing unbelievably bars rotten the of scaffold internationalisation it".split()), min_size=1, max_size=40
).map(" ".join)


@given(st.lists(texts, min_size=1, max_size=6), st.floats(0.15, 0.8))
def test_captions_fit_and_do_not_overlap(said, pace):
    """Forty-two signs a row, two rows, seventeen signs a second: common practice."""
    turns, at = [], 0.0
    for number, text in enumerate(said, start=1):
        turns.append(turn(number, f"Voice {number % 2}", at, text, pace=pace))
        at = turns[-1].end + 0.5
    made = captions(Record("r", tuple(turns), at), Shown(speakers=False))
    assert all(len(one.rows) <= ROWS and all(len(row) <= WIDTH for row in one.rows) for one in made)
    assert all(one.start < one.end for one in made) and all(a.end <= b.start for a, b in zip(made, made[1:], strict=False))
    assert " ".join(" ".join(one.rows) for one in made).split() == " ".join(said).split()
    # Where people speak no faster than one reads, every caption can be read.
    if pace >= 0.8:
        assert all(one.signs / (one.end - one.start) <= PACE * 1.02 for one in made)


@pytest.mark.parametrize("name", ["02-glazing-call.vtt", "06-board-meeting.vtt"])
def test_captions_of_the_demo_are_read_by_others_and_can_be_read(name):
    record = read_record(ROOT / "demo/transcripts" / name)
    cues = list(webvtt.from_string(to_webvtt(record, Shown())))
    subtitles = list(srt.parse(to_srt(record, Shown())))
    assert [cue.text for cue in cues] == [one.content for one in subtitles]
    fast = [one for one in captions(record, Shown()) if one.signs / (one.end - one.start) > PACE * 1.02]
    assert len(fast) <= 0.1 * len(cues)  # people speak faster than one reads now and then
    assert subtitles[-1].end <= timedelta(seconds=record.duration + 5)


def test_airtime_counts_as_its_definitions_say():
    found = airtime(RECORD)
    ada, tomas = found.people
    assert (ada.speaker, ada.turns, ada.questions, tomas.questions) == ("Ada Quist", 2, 0, 1)
    assert ada.share + tomas.share == pytest.approx(1.0) and tomas.turns == 1
    assert ada.interruptions == 1  # she begins while he still speaks
    assert ada.longest == pytest.approx(RECORD.turns[1].end - RECORD.turns[0].start)
    assert tomas.pace == pytest.approx(60 * 4 / tomas.seconds)
    assert found.silence == pytest.approx(found.whole.duration - sum(t.end - t.start for t in RECORD.turns) + (RECORD.turns[2].end - 10.0))
    assert airtime(RECORD, Span(8.0, 9.5)).people[0].speaker == "Tomas Vale"
    assert airtime(Record("empty", ())).people == () and set(DEFINITIONS) >= {"share", "pace", "interruptions", "silence"}

"""Records in and out, checked with other people's readers: webvtt-py and srt."""

import io
import json
from datetime import datetime

import docx
import pytest
import srt
import webvtt
from hypothesis import given
from hypothesis import strategies as st

from core.formats import json_record, plain_text, read_record, subrip, webvtt_record
from core.formats.chat import read_chat
from core.problems import InputProblem
from core.record.model import Line, Record, Turn, Word
from core.record.spacing import words_in, written

words = st.text(st.characters(whitelist_categories=("L", "N"), max_codepoint=0x2FFF), min_size=1, max_size=8)
sentences = st.lists(words, min_size=1, max_size=6).map(lambda parts: written(words_in(" ".join(parts))) + ".")
names = st.sampled_from(["Maren Tollefsen", "Lucía Ferreiro", "Łukasz", "山田", "A"])


@st.composite
def records(draw):
    clock, turns, last = 0.0, [], None
    for number in range(1, draw(st.integers(1, 6)) + 1):
        speaker = draw(names.filter(lambda name, last=last: name != last))
        last, lines = speaker, []
        for text in draw(st.lists(sentences, min_size=1, max_size=3)):
            lines.append(
                Line(text, round(clock, 3), round(clock + 1.5, 3), (Word(text.split()[0], round(clock, 3), round(clock + 0.5, 3), 0.5),))
            )
            clock += 1.625
        turns.append(Turn(number, speaker, tuple(lines)))
    return Record("m", tuple(turns), round(clock, 3))


def said(record: Record) -> list[tuple[str, str]]:
    return [(turn.speaker, turn.text) for turn in record.turns]


@given(records())
def test_webvtt_out_and_in_is_the_same_record(record):
    text = webvtt_record.dump(record)
    again = webvtt_record.load(text, "m")
    assert said(again) == said(record)
    assert again.turns[-1].end == pytest.approx(record.turns[-1].end, abs=0.002)
    theirs = list(webvtt.from_buffer(io.StringIO(text), format="vtt"))
    assert [(cue.voice, cue.text) for cue in theirs] == [(turn.speaker, line.text) for turn in record.turns for line in turn.lines]
    assert theirs[-1].end == webvtt_record.clock(record.turns[-1].end)


@given(records())
def test_srt_out_and_in_is_the_same_record(record):
    text = subrip.dump(record)
    assert said(subrip.load(text, "m")) == said(record)
    assert len(list(srt.parse(text))) == sum(len(turn.lines) for turn in record.turns)


@given(records())
def test_json_out_and_in_keeps_words_and_times(record):
    again = json_record.load(json_record.dump(record), "m")
    assert [turn.words for turn in again.turns] == [turn.words for turn in record.turns]


@pytest.mark.parametrize(
    ("name", "content", "said"),
    [
        ("a.vtt", "WEBVTT\n\n00:00:01.000 --> 00:00:0x.000\nHi\n", "line 3"),
        ("a.vtt", "WEBVTT\n\n00:00:05.000 --> 00:00:01.000\nHi\n", "ends before it starts"),
        ("a.vtt", "1\n00:00:01,000 --> 00:00:02,000\nHi\n", "WEBVTT"),
        ("a.srt", "hello", "no passages"),
        ("a.json", "{", "not JSON"),
        ("a.json", '{"turns": [{"id": 1, "text": "x", "start": 1}]}', "'end'"),
        ("a.json", '{"turns": [{"id": 1, "text": "x", "start": 3, "end": 1}]}', "ends before it starts"),
        ("a.doc", "x", "not a record"),
    ],
)
def test_what_cannot_be_read_is_said_with_where(tmp_path, name, content, said):
    path = tmp_path / name
    path.write_text(content)
    with pytest.raises(InputProblem, match=said) as problem:
        read_record(path)
    assert name in str(problem.value)


def test_latin1_bytes_are_named_and_a_bom_is_no_matter(tmp_path):
    (tmp_path / "l.vtt").write_bytes("WEBVTT\n\n00:01.000 --> 00:02.000\nPalmería".encode("latin-1"))
    with pytest.raises(InputProblem, match="UTF-8"):
        read_record(tmp_path / "l.vtt")
    (tmp_path / "b.vtt").write_text("WEBVTT\n\n00:01.000 --> 00:02.000\n<v Ann>Hi there\n", encoding="utf-8-sig")
    assert said(read_record(tmp_path / "b.vtt")) == [("Ann", "Hi there")]


def test_labelled_meetings_are_read_with_date_and_people():
    record = json_record.load(
        json.dumps(
            {
                "id": "t",
                "started_at": "2026-03-03T09:30:00",
                "participants": [{"name": "Ann"}],
                "turns": [{"id": 4, "speaker": "Ann", "start": 0, "end": 2, "text": "One. Two."}],
            }
        ),
        "x",
    )
    assert (record.started_at.day, record.people, record.turns[0].id, len(record.turns[0].lines)) == (3, ["Ann"], 4, 2)


@pytest.mark.parametrize(
    ("text", "turns", "timed"),
    [
        ("Maren: Morning.\nIdris: Hello there.\nAnd more.", [("Maren", 0.0), ("Idris", 0.5)], False),
        ("[00:00:05] Maren: Morning.\n[00:01:10] Idris: Hello.", [("Maren", 5.0), ("Idris", 70.0)], True),
        (
            "Maren Tollefsen 0:05\nMorning.\nAll of you.\n\nIdris Quaye (1:10)\nHello.",
            [("Maren Tollefsen", 5.0), ("Idris Quaye", 70.0)],
            True,
        ),
        ("Maren (0:05): Morning.\nIdris (0:09.5): Hello.", [("Maren", 5.0), ("Idris", 9.5)], True),
        ("We met. We talked at 10:30 about glass.", [("A", 0.0)], False),
    ],
)
def test_plain_text_with_and_without_times(text, turns, timed):
    record = plain_text.load(text, "m")
    assert [(turn.speaker, turn.start) for turn in record.turns] == turns and record.timed is timed
    assert all(before.end <= after.start + 1e-6 for before, after in zip(record.turns, record.turns[1:], strict=False))


def test_docx_as_other_programs_write_it(tmp_path):
    document = docx.Document()
    document.add_heading("Works meeting", 1)
    document.add_paragraph("Maren: Who has the key?")
    table = document.add_table(1, 2)
    table.rows[0].cells[0].text, table.rows[0].cells[1].text = "Idris", "I have."
    document.save(str(tmp_path / "talk.docx"))
    assert [turn.speaker for turn in read_record(tmp_path / "talk.docx").turns][1:] == ["Maren", "Idris"]
    (tmp_path / "locked.docx").write_bytes(b"\xd0\xcf\x11\xe0 an encrypted file is no zip archive")
    with pytest.raises(InputProblem, match=r"locked\.docx: not a DOCX"):
        read_record(tmp_path / "locked.docx")
    (tmp_path / "none.txt").write_text(" \n ")
    with pytest.raises(InputProblem, match="no text"):
        read_record(tmp_path / "none.txt")


@pytest.mark.parametrize(
    ("text", "seconds"),
    [
        ("10:00:30 Maren: the drawing is number 88", 30.0),
        ("[10:00:30] Maren: the drawing is number 88\nsee there", 30.0),
        ("2026-03-06 10:00:30\tMaren\tthe drawing is number 88", 30.0),
        ("10:00:30 AM – Maren Tollefsen: the drawing is number 88", 30.0),
        ("00:00:30 Maren: the drawing is number 88", 30.0),
        ("9:58 Maren: the drawing is number 88", 0.0),
        ("10:08:00 Maren: the drawing is number 88", 120.0),
    ],
)
def test_a_chat_is_read_by_the_clock_or_by_the_recording(text, seconds):
    [(at, name, said)] = read_chat(f"Chat of the meeting\n{text}\n", datetime(2026, 3, 6, 10), 120.0)
    assert at == seconds and name.startswith("Maren") and said.startswith("the drawing is number 88")


def test_a_chat_over_midnight_and_what_is_none():
    found = read_chat("23:59 Maren: a\n00:01 Pavel: b: c", datetime(2026, 3, 6, 23, 58), 600.0)
    assert found == [(60.0, "Maren", "a"), (180.0, "Pavel", "b: c")]
    with pytest.raises(InputProblem, match="no chat"):
        read_chat("Budget\n1,2,3\nsee https://x.example/a", datetime(2026, 3, 6), 600.0)

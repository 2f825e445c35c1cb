"""The record taken away, and airtime."""

import io
import json

import docx
import pytest
import webvtt
from pypdf import PdfReader

from core.formats import json_record, subrip, webvtt_record
from server.audit.models import Entry
from server.meetings.models import Meeting
from server.record.keep import load_record


@pytest.fixture
def locks(maren, make_meeting) -> Meeting:
    return make_meeting(maren)


@pytest.fixture
def get(maren, caller, locks):
    call = caller(maren)
    return lambda path: call("get", f"/api/meetings/{locks.pk}/{path}")


@pytest.mark.parametrize(("form", "load"), [("vtt", webvtt_record.load), ("srt", subrip.load), ("json", json_record.load)])
def test_out_and_in_again_is_the_same_record(get, locks, form, load):
    back = load(get(f"record.{form}").content.decode(), "back")
    kept = load_record(locks)
    assert [(turn.speaker, turn.text) for turn in back.turns] == [(turn.speaker, turn.text) for turn in kept.turns]
    assert [round(turn.start, 2) for turn in back.turns] == [round(turn.start, 2) for turn in kept.turns]


def test_every_form_has_the_words_as_chosen(get):
    assert "Maren Tollefsen: Who has the key" in get("record.txt").content.decode()
    assert "Maren" not in get("record.txt?speakers=false").content.decode()
    assert "**Idris Quaye**" in get("record.md").content.decode()
    assert "/meetings/" in get("record.md?link=true").content.decode()
    assert any("plant room" in one.text for one in docx.Document(io.BytesIO(get("record.docx").content)).paragraphs)
    assert "plant room" in PdfReader(io.BytesIO(get("record.pdf").content)).pages[0].extract_text()
    assert get("record.rttm").content.decode().count("SPEAKER ") == 4
    assert get("record.csv").content.decode().splitlines()[0] == "turn,start,end,speaker,text,marks"
    captions = list(webvtt.from_string(get("record.vtt?captions=true").content.decode()))
    assert all(len(row) <= 42 for cue in captions for row in cue.text.splitlines()) and captions[0].text.startswith("Maren: Who has")
    assert json.loads(get("record.json").content)["turns"]
    assert get("record.odt").status_code == 404


def test_a_part_is_taken_and_no_more(get):
    part = get("record.txt?start=6.5&end=12.5").content.decode()
    assert "change the lock" in part and "Works for me" in part and "plant room" not in part and "by Friday" not in part
    assert get("record.txt?start=5&end=2").status_code == 422


def test_marks_go_along_where_they_are_wanted(maren, caller, get, locks):
    caller(maren)("post", f"/api/meetings/{locks.pk}/marks", {"kind": "Important", "start": 1.0, "end": 3.0})
    assert "[Important]" in get("record.txt?marks=true").content.decode() and "[Important]" not in get("record.txt").content.decode()


def test_taking_away_is_in_the_audit_and_obeys_the_one_rule(get, member, caller, locks):
    get("record.pdf")
    assert Entry.objects.filter(verb="download record", detail__form="pdf").exists()
    Meeting.objects.filter(pk=locks.pk).update(visibility="mine")
    yuki = caller(member("Yuki Hanamori"))
    for path in ("record.txt", "record.pdf", "airtime", "edits", "find?text=lock"):
        assert yuki("get", f"/api/meetings/{locks.pk}/{path}").status_code == 404


def test_airtime_over_the_meeting_and_a_part(get):
    air = get("airtime").json()
    assert {one["speaker"] for one in air["people"]} == {"Idris Quaye", "Maren Tollefsen"} and air["people"][0]["share"] >= 0.5
    assert sum(one["share"] for one in air["people"]) == pytest.approx(1) and "share" in air["definitions"]
    assert [one["speaker"] for one in get("airtime?start=0&end=4").json()["people"]] == ["Maren Tollefsen"]

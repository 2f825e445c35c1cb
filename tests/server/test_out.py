"""The record taken away, and airtime."""

import io
import json
from datetime import timedelta
from pathlib import Path

import docx
import pytest
import webvtt
from django.utils import timezone
from pypdf import PdfReader

from core.formats import json_record, subrip, webvtt_record
from server.audit.models import Entry
from server.copies import KEPT_FOR, sweep
from server.meetings.models import Meeting
from server.record import out
from server.record.actions.copy_record import make
from server.record.keep import load_record
from server.record.models import RecordCopy


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


def test_a_long_record_on_paper_is_asked_for_made_and_taken(maren, caller, member, get, locks, monkeypatch):
    monkeypatch.setattr(out, "LONG", 3)
    call, at = caller(maren), f"/api/meetings/{locks.pk}/record-copies"
    assert get("record.pdf").status_code == 409 and get("record.txt").status_code == 200
    asked = call("post", at, {"form": "pdf", "end": 6.0})
    assert asked.status_code == 202 and asked.json()["state"] == "waiting"
    assert call("get", f"{at}/{asked.json()['id']}").status_code == 404  # not yet
    make(asked.json()["id"])
    assert call("get", at).json() == [{"id": asked.json()["id"], "form": "pdf", "state": "ready", "progress": 1.0, "message": ""}]
    taken = call("get", f"{at}/{asked.json()['id']}")
    said = PdfReader(io.BytesIO(taken.content)).pages[0].extract_text()
    assert "plant room" in said and "Friday" not in said and taken["Content-Disposition"].endswith(', record.pdf"')
    assert caller(member("Idris Quaye"))("get", f"{at}/{asked.json()['id']}").status_code == 404  # hers alone
    assert call("post", at, {"form": "odt"}).status_code == call("post", at, {"form": "pdf", "start": 5, "end": 2}).status_code == 422


def test_a_long_record_made_before_a_strike_is_gone(maren, caller, locks, django_capture_on_commit_callbacks):
    call, at = caller(maren), f"/api/meetings/{locks.pk}"
    ready, waiting = (call("post", f"{at}/record-copies", {"form": form}).json()["id"] for form in ("docx", "pdf"))
    make(ready)
    file = Path(RecordCopy.objects.get(pk=ready).file.path)
    chosen = {"start": 0.0, "end": 6.0}
    before = call("post", f"{at}/strike/preview", chosen).json()["text"]
    with django_capture_on_commit_callbacks(execute=True):
        assert call("post", f"{at}/strike", {**chosen, "name": "Maren Tollefsen", "before": before}).status_code == 200
    make(waiting)  # a worker that comes too late
    assert not file.exists() and not RecordCopy.objects.exists()


def test_documents_go_after_a_day(maren, caller, locks, django_capture_on_commit_callbacks):
    make(caller(maren)("post", f"/api/meetings/{locks.pk}/record-copies", {"form": "docx"}).json()["id"])
    sweep(RecordCopy)
    copy = RecordCopy.objects.get()
    RecordCopy.objects.update(asked_at=timezone.now() - KEPT_FOR - timedelta(minutes=1))
    with django_capture_on_commit_callbacks(execute=True):
        sweep(RecordCopy)
    assert not RecordCopy.objects.exists() and not Path(copy.file.path).exists()


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

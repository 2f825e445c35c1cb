"""Folders that recordings come into, on a real WebDAV server: taken once, when they lie still, as the meeting that was planned."""

from __future__ import annotations

import os
import socket
import time
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import pytest

from server.calendars.models import Calendar, Occasion, Planned
from server.capture.models import Upload
from server.folders.keep import look
from server.folders.models import Folder, Found
from server.meetings.models import Meeting, Reader
from server.pipeline.models import StageRun
from server.record.models import Turn
from server.stages import assemble
from standins import folder as dav_server
from standins import store
from tests.server.conftest import TALK
from tests.sounds import write_wav


@pytest.fixture
def drive(tmp_path, settings):
    """A server with an empty folder, and where it lies on the disk."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    folder = tmp_path / "drive"
    server = dav_server.start(port, folder, {"garden": "clover"})
    settings.INSIDE, settings.MEDIA_ROOT, settings.FILE_UPLOAD_TEMP_DIR = {f"127.0.0.1:{port}"}, tmp_path / "media", tmp_path / "incoming"
    yield folder, f"http://127.0.0.1:{port}/"
    server.stop()


def lay(folder, name: str, data: bytes = b"", ago: float = 600.0):
    """A file that was last changed so many seconds ago."""
    path = folder / name
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(data)
    os.utime(path, (time.time() - ago,) * 2)
    return path


def sound(tmp_path, seed: int = 0) -> bytes:
    """Two seconds that are sound."""
    write_wav(tmp_path / "made.wav", (np.random.default_rng(seed).normal(0, 900, 48_000)).astype(np.int16))
    return (tmp_path / "made.wav").read_bytes()


@pytest.fixture
def watched(drive, maren, caller):
    """Maren's folder, and looking into it: the rows by name."""
    folder, address = drive
    call = caller(maren)
    given = {"address": address, "username": "garden", "password": "clover", "name": "Calls"}

    def begin(**more):
        return call("post", "/api/folders", given | more)

    def looked() -> dict[str, Found]:
        look(Folder.objects.select_related("membership__user", "membership__workspace").get())
        return {row.name: row for row in Found.objects.select_related("meeting")}

    return folder, begin, looked, call


def test_what_is_wrong_with_a_folder_is_said_at_once(drive, watched, member, caller):
    (_, address), (_, begin, *_) = drive, watched
    for more, said in (({"password": "wrong"}, "does not let garden in"), ({"address": "http://127.0.0.1:1/", "password": ""}, "does not go"), ({"address": "x"}, "whole address")):
        refused = begin(**more)
        assert refused.status_code == 422 and said in refused.json()["detail"]
    assert "no folder at that address" in begin(address=f"{address}nowhere/").json()["detail"]
    assert caller(member("Gwen Castellow", "guest"))("post", "/api/folders", {"address": "https://x.example/"}).status_code == 403
    assert not Folder.objects.exists()


def test_a_recording_is_taken_once_and_only_when_it_lies_still(watched, tmp_path):
    folder, begin, looked, call = watched
    lay(folder, "old.wav", sound(tmp_path, 1))
    made = begin().json()
    assert made["found"] == [] and "clover" not in Folder.objects.get().secret
    lay(folder, "new.wav", sound(tmp_path, 2)[:3000], ago=0)
    lay(folder, "empty.mp4")
    lay(folder, "half.mp4.part", b"x" * 500)
    lay(folder, "budget.xlsx", b"x" * 500)
    lay(folder, "broken.mp4", b"x" * 500)
    lay(folder, "in/deeper.wav", sound(tmp_path, 3))
    rows = looked()
    assert {name: row.state for name, row in rows.items()} == {
        "old.wav": "left", "new.wav": "growing", "empty.mp4": "growing", "half.mp4.part": "growing", "budget.xlsx": "refused", "broken.mp4": "growing",
    }
    assert not Meeting.objects.exists()
    lay(folder, "new.wav", sound(tmp_path, 2), ago=0)  # it has grown
    looked()
    assert looked()["new.wav"].state == "growing"  # changed less than a minute ago
    lay(folder, "new.wav", sound(tmp_path, 2))
    looked()
    rows = looked()
    assert rows["new.wav"].state == "taken" and rows["new.wav"].meeting.recording.size == rows["new.wav"].size
    assert rows["broken.mp4"].state == "refused" and rows["empty.mp4"].words == "it is empty" and rows["half.mp4.part"].state == "growing"
    assert rows["new.wav"].meeting.visibility == "mine" and rows["new.wav"].meeting.title == "new"
    (folder / "new.wav").rename(folder / "renamed.wav")
    looked()
    assert looked()["renamed.wav"].state == "taken" and Meeting.objects.count() == 1 and not Upload.objects.exists()
    # The very same once more, under another name and of another time.
    lay(folder, "copy.wav", sound(tmp_path, 2), ago=300)
    looked()
    assert "in the library already" in looked()["copy.wav"].words and Meeting.objects.count() == 1
    shown = call("get", "/api/folders").json()[0]["found"]
    assert {one["name"] for one in shown} >= {"renamed.wav", "budget.xlsx"} and "old.wav" not in {one["name"] for one in shown}


def test_it_is_the_meeting_that_was_planned(watched, maren, member, tmp_path):
    folder, begin, looked, _ = watched
    idris = member("Idris Quaye")
    start = (datetime.now(UTC) - timedelta(hours=2)).replace(microsecond=0)
    calendar = Calendar.objects.create(membership=maren, kind="file", name="Works")
    people = [{"name": "I. Q.", "address": "idris@larkmoor.example", "answer": "accepted", "called": False}, {"name": "Pavel", "address": "p@x.example", "answer": "declined", "called": False}]
    Planned.objects.create(calendar=calendar, uid="glazing", instance="x", title="Glazing call", start=start, end=start + timedelta(minutes=30), status="confirmed", recurs=True, people=people, link="https://calls.example/r/1")
    begin(visibility="named")
    lay(folder, f"call {start:%Y-%m-%dT%H%M%SZ}.wav", sound(tmp_path))
    lay(folder, f"call {start:%Y-%m-%dT%H%M%SZ}.vtt", TALK.encode())
    looked()
    rows = looked()
    meeting = Meeting.objects.get()
    assert (meeting.title, meeting.place, meeting.series.name, meeting.started_at) == ("Glazing call", "online", "Glazing call", start)
    assert list(meeting.people.values_list("name", flat=True)) == ["Idris Quaye"] and Reader.objects.get().user == idris.user
    assert Occasion.objects.get().uid == "glazing"
    states = {name.rpartition(".")[2]: row for name, row in rows.items()}
    assert states["wav"].words == "it is “Glazing call”: it began when this was planned" and states["vtt"].state == "beside"


def test_the_chat_beside_a_recording_is_part_of_its_record(watched, tmp_path):
    folder, begin, looked, _ = watched
    begin(visibility="named")
    start = (datetime.now(UTC) - timedelta(hours=2)).replace(microsecond=0)
    name = f"Glazing {start:%Y-%m-%dT%H%M%SZ}"
    local = start.astimezone(ZoneInfo("Europe/London"))
    lay(folder, f"{name}.wav", sound(tmp_path))
    lay(folder, f"{name} chat.txt", f"{local:%H:%M:%S} Gwen Castellow: the drawing is number 88\nhttps://x.example/88\n".encode(), ago=5)
    lay(folder, "chat of nothing.txt", b"10:00 Pavel: hello")
    looked()
    assert {row.state for row in looked().values()} == {"growing", "beside"}  # the chat may be written to yet
    lay(folder, f"{name} chat.txt", f"{local:%H:%M:%S} Gwen Castellow: the drawing is number 88\nhttps://x.example/88\n".encode())
    rows = looked()
    meeting = rows[f"{name}.wav"].meeting
    assert list(meeting.people.values_list("name", flat=True)) == ["Gwen Castellow"] and not Reader.objects.exists()
    assert meeting.recording.written == [[0.0, "Gwen Castellow", "the drawing is number 88\nhttps://x.example/88"]]
    assert "is the chat of" in rows[f"{name} chat.txt"].words and "lies beside" in rows["chat of nothing.txt"].words
    StageRun.objects.update_or_create(meeting=meeting, stage="hear", defaults={"result": {"language": "en"}})
    StageRun.objects.update_or_create(meeting=meeting, stage="voices", defaults={"result": {"words": [], "voices": {}}})
    assemble.STAGE.keep(meeting, assemble.STAGE.work(meeting, lambda done: None))
    [turn] = Turn.objects.filter(meeting=meeting)
    assert turn.written and turn.voice.person.name == "Gwen Castellow" and Meeting.objects.get().recording.written == []


def test_a_server_that_is_away_is_said_and_tried_again(watched, tmp_path, settings):
    folder, begin, looked, call = watched
    begin()
    settings.INSIDE = set()
    looked()
    row = Folder.objects.get()
    assert "does not go" in row.trouble and row.fails == 1 and row.next_at > datetime.now(UTC) + timedelta(minutes=3)
    key = str(row.pk)
    assert call("delete", f"/api/folders/{key}").status_code == 204 and call("get", "/api/folders").json() == []
    assert call("delete", f"/api/folders/{key}").status_code == 404


def test_what_finds_no_room_is_taken_when_there_is_and_a_chat_without_end_is_left_out(watched, tmp_path, settings, monkeypatch):
    folder, begin, looked, _ = watched
    begin()
    lay(folder, "Glazing.wav", sound(tmp_path))
    lay(folder, "Glazing chat.txt", b"10:00:01 Gwen Castellow: x\n" * 10)
    lay(folder, "Film.wav", sound(tmp_path, 1) * 2)
    monkeypatch.setattr("server.folders.keep.LARGEST", len(sound(tmp_path)))
    monkeypatch.setattr("server.folders.keep._LARGEST_CHAT", 100)
    with monkeypatch.context() as patched:
        patched.setattr("server.folders.keep.has_room", lambda size: False)
        looked()
        rows = looked()
        assert rows["Glazing.wav"].state == "growing" and "no room" in rows["Glazing.wav"].words
        assert not Upload.objects.exists() and not list((tmp_path / "incoming").glob("*.part"))
    rows = looked()
    assert rows["Glazing.wav"].state == "taken" and "of its chat nothing was taken: it is too large" in rows["Glazing.wav"].words
    assert rows["Film.wav"].state == "refused" and "larger" in rows["Film.wav"].words


def test_a_store_of_objects_is_watched_as_a_folder_is(maren, caller, settings, tmp_path):
    server, held = store.serve("garden", "clover-42", "recordings")
    settings.INSIDE, settings.MEDIA_ROOT, settings.FILE_UPLOAD_TEMP_DIR = {f"127.0.0.1:{server.server_address[1]}"}, tmp_path / "media", tmp_path / "incoming"
    address = f"s3+http://127.0.0.1:{server.server_address[1]}/recordings/calls"
    call = caller(maren)
    held.objects["calls/old.vtt"] = TALK.encode()
    for wrong in ({"password": "stale"}, {"address": address.replace("recordings", "nowhere")}, {"address": "s3+ftp://x/y"}):
        assert call("post", "/api/folders", {"address": address, "username": "garden", "password": "clover-42", **wrong}).status_code == 422, wrong
    assert call("post", "/api/folders", {"address": address, "username": "garden", "password": "clover-42"}).status_code == 201
    held.objects |= {"calls/locks.vtt": TALK.encode(), "calls/deeper/not.vtt": TALK.encode(), "beside.vtt": TALK.encode()}
    folder = Folder.objects.select_related("membership__user", "membership__workspace").get()
    look(folder)
    look(folder)
    assert {row.name: row.state for row in Found.objects.all()} == {"old.vtt": "left", "locks.vtt": "taken"} and Meeting.objects.get().title == "locks"
    server.shutdown()

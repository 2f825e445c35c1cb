"""Media in a store of objects: against the stand-in, by the client that Amazon makes for its own (boto3), which also says whether it is signed right."""

from __future__ import annotations

import errno
from pathlib import Path

import pytest
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage, storages
from django.test import Client

from server.backup.archive import Folder
from server.backup.make import make_backup
from server.capture.models import Recording
from server.keeping.places import media_kept
from server.meetings.models import Meeting
from server.pipeline.files import local, names_in, put, sizes_in
from server.record.actions.delete_meeting import erase_now
from standins.store import Store, serve
from tests.server.conftest import strike
from tests.server.test_strike import ALL, finish

KEY, SECRET, BUCKET = "garden", "clover and vetch", "recordings"


@pytest.fixture
def store(settings, monkeypatch):
    """Where all media go, until the test is over."""
    server, running = serve(KEY, SECRET, BUCKET)
    monkeypatch.setenv("AWS_ACCESS_KEY_ID", KEY)
    monkeypatch.setenv("AWS_SECRET_ACCESS_KEY", SECRET)
    monkeypatch.setenv("AWS_DEFAULT_REGION", "eu-west-2")
    use(settings, server.server_port)
    yield running
    server.shutdown()
    server.server_close()


def use(settings, port: int) -> None:
    options = {"bucket_name": BUCKET, "location": "house/media", "endpoint_url": f"http://127.0.0.1:{port}"}
    settings.STORAGES = {**settings.STORAGES, "default": {"BACKEND": "server.object_store.ObjectStore", "OPTIONS": options}}
    settings.MEDIA_ROOT = ""


def test_it_does_what_a_folder_does(store: Store, tmp_path, settings):
    settings.FILE_UPLOAD_TEMP_DIR = tmp_path
    data = bytes(range(256)) * 20_000  # five megabytes
    (tmp_path / "sound.webm").write_bytes(data)
    first, second = (put("m/café & co.webm", tmp_path / "sound.webm") for _ in range(2))
    assert first == "m/café & co.webm" and second != first, "what is there is not written over"
    assert list(store.objects)[0] == "house/media/m/café & co.webm"
    for deep in range(1, 2_101):
        store.objects[f"house/media/many/{deep:04d}"] = b"x"
    assert len(list(names_in(default_storage, "many"))) == 2_100 and sorted(names_in(default_storage, "m")) == sorted([first, second])
    assert dict(sizes_in(default_storage, "m")) == {first: len(data), second: len(data)} and len(list(sizes_in(default_storage))) == 2_102
    store.read = 0
    with default_storage.open(first) as source:
        source.seek(3_000_001)
        assert source.read(4) == data[3_000_001:3_000_005]
        source.seek(-2, 2)
        assert source.read() == data[-2:]
    assert store.read < len(data) / 2, "a piece out of the middle is not all of it"
    field = Recording(original=first).original
    with local(field) as path:
        assert Path(path).read_bytes() == data and path.parent == tmp_path
    default_storage.delete(first)
    default_storage.delete(first)
    assert not default_storage.exists(first) and list(names_in(default_storage, "nowhere")) == []
    with pytest.raises(FileNotFoundError):
        default_storage.open(first)


@pytest.mark.parametrize(("told", "number"), [({"down": True}, errno.EIO), ({"full": True}, errno.ENOSPC)])
def test_what_goes_wrong_is_told_as_of_a_file(store: Store, told, number):
    store.told = told
    with pytest.raises(OSError) as caught:
        default_storage.save("m/a", ContentFile(b"x"))
    assert caught.value.errno == number and store.objects == {}


def test_half_an_answer_is_no_answer(store: Store):
    default_storage.save("m/a", ContentFile(b"x" * 1000))
    store.told = {"cut": 100}
    with default_storage.open("m/a") as source, pytest.raises(OSError):
        source.read()


def test_a_store_that_does_not_know_us_is_told_of_when_asked_whether_we_are_ready(db, store: Store):
    assert Client().get("/api/ready").json()["files"] and store.objects == {}
    store.secret = "another"
    storages._storages.clear()
    assert Client().get("/api/ready").status_code == 503 and store.objects == {}


@pytest.mark.django_db(transaction=True)
def test_a_meeting_lives_there_and_is_struck_backed_up_and_deleted_there(maren, make_meeting, caller, store: Store, settings, tmp_path):
    use(settings, int(settings.STORAGES["default"]["OPTIONS"]["endpoint_url"].rsplit(":", 1)[1]))
    settings.FILE_UPLOAD_TEMP_DIR = tmp_path / "incoming"
    settings.FILE_UPLOAD_TEMP_DIR.mkdir()
    meeting = make_meeting(maren)
    call = caller(maren)
    listening = put(f"{meeting.pk}/listening.webm", _sound(tmp_path))
    Recording.objects.filter(meeting=meeting).update(listening=listening)
    answer = call("get", f"/api/meetings/{meeting.pk}/sound", range="bytes=2000000-2000009")
    assert answer.status_code == 206 and b"".join(answer.streaming_content if not answer.is_async else _drain(answer)) == b"0123456789"
    assert any(b"boiler door" in body for body in store.objects.values()) and media_kept(maren.workspace)["sound"] == (1, 3_000_000)
    backups = Folder.open_or_begin(tmp_path / "backups", "")
    make_backup(backups, lambda text: None)
    assert len(list((tmp_path / "backups").glob("objects/*/*"))) == len(store.objects)
    assert strike(call, meeting, ALL).status_code == 200
    finish(meeting)
    assert not any(b"lock on the boiler door" in body for body in store.objects.values())
    Meeting.objects.filter(pk=meeting.pk).update(going_at="2026-03-03T10:00Z")
    erase_now(meeting.pk)
    assert [name for name in store.objects if str(meeting.pk) in name] == []


def _sound(folder: Path) -> Path:
    (folder / "listening.webm").write_bytes(b"0123456789" * 300_000)
    return folder / "listening.webm"


def _drain(answer) -> list[bytes]:
    import asyncio

    async def all_of() -> list[bytes]:
        return [piece async for piece in answer.streaming_content]

    return asyncio.run(all_of())

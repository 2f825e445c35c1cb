"""Told to stop, killed or cut off in the middle of an answer, a migration, a deletion, a backup, a restore, a letter: nothing is lost, half-done or undead."""

from __future__ import annotations

import asyncio
import os
import signal
import subprocess
import threading
import time
from base64 import b64encode
from contextlib import contextmanager
from http.client import HTTPConnection
from pathlib import Path

import psycopg
import pytest
from aiosmtpd.controller import Controller

from house.postgres import Cluster
from house.serve import manage
from tests.conftest import ROOT
from tests.live import Client, House, until

TALK = "WEBVTT\n\n00:00:01.000 --> 00:00:05.000\n<v Maren Tollefsen>The cuttings of the weeping fig are to be thrown away.\n\n00:00:06.000 --> 00:00:09.000\n<v Idris Quaye>And the palms stay where they are.\n"


@pytest.fixture(scope="module")
def house(tmp_path_factory):
    running = House(Cluster("test-postgres", durable=False), "faults", tmp_path_factory.mktemp("faults"))
    running.load_people()
    yield running
    running.close()


@pytest.fixture(scope="module")
def maren(house):
    return Client(house, "maren@larkmoor.example")


@pytest.fixture
def meeting(house, maren, tmp_path) -> str:
    path = tmp_path / "fig.vtt"
    path.write_text(TALK)
    worker = house.start_worker()
    key = maren.give(path)
    maren.ready(key)
    worker.stop()
    return key


def litter(house: House, key: str, count: int) -> Path:
    """So many files of a meeting that to deal with them takes a while."""
    folder = house.folder / "media" / key / "many"
    folder.mkdir(parents=True, exist_ok=True)
    for number in range(count):
        (folder / f"{number:05d}.txt").write_text(f"{number} the weeping fig")
    return folder


def kill(process: subprocess.Popen) -> None:
    os.killpg(process.pid, signal.SIGKILL)
    process.wait()


def begin(house: House, *command: str, database: str = "", media: Path | None = None) -> subprocess.Popen:
    more = {"PGDATABASE": database, "AFTERSHOWER_MEDIA": str(media)} if database else {}
    return subprocess.Popen(manage(*command), cwd=ROOT, env={**house.settings, **more}, stderr=subprocess.PIPE, text=True, start_new_session=True)


def test_a_web_server_told_to_stop_finishes_what_it_has_begun(house, maren):
    data = b"W" * 400_000
    made = maren.call("POST", "/api/uploads", b"", {"Upload-Length": str(len(data)), "Upload-Metadata": f"filename {b64encode(b'a.wav').decode()}"})
    place = made.headers["Location"]
    cookies = "; ".join(f"{one.name}={one.value}" for one in maren.jar)
    token = next(one.value for one in maren.jar if one.name == "csrftoken")
    line = HTTPConnection("127.0.0.1", house.port, timeout=20)
    line.putrequest("PATCH", place)
    headers = {"Content-Length": str(len(data)), "Content-Type": "application/offset+octet-stream", "Upload-Offset": "0", "Cookie": cookies, "X-CSRFToken": token}
    for name, value in headers.items():
        line.putheader(name, value)
    line.endheaders(data[:200_000])
    time.sleep(0.5)
    house.web.running.terminate()
    time.sleep(0.7)
    line.send(data[200_000:])
    assert line.getresponse().status == 204
    assert house.web.running.wait(15) is not None
    house.start_web()
    assert maren.call("HEAD", place).headers["Upload-Offset"] == str(len(data))


def test_a_migration_that_has_to_wait_stops_nobody_from_reading(house):
    """A plan is tried again and again while somebody reads for long; whoever comes to read meanwhile is let in between."""
    house.manage("migrate", "accounts", "0008")
    read_again, stop = [], threading.Event()

    def read() -> None:
        while not stop.is_set():
            house.rows("select id from accounts_workspace")
            read_again.append(True)
            time.sleep(0.05)

    with psycopg.connect(house._address("faults")) as reader:
        reader.execute("select id from accounts_workspace")  # and stays in its transaction
        reading = threading.Thread(target=read)
        reading.start()
        plan = begin(house, "prepare")
        for _ in range(2):
            until(lambda: "trying again" in plan.stderr.readline())
            read_again.clear()
            until(lambda: read_again)
    plan.communicate(timeout=60)
    stop.set()
    reading.join()
    assert plan.returncode == 0
    assert house.rows("select provider from accounts_workspace") == [("",)]


def test_a_deletion_killed_in_the_middle_is_done_by_the_next_worker(house, maren, meeting):
    folder = litter(house, meeting, 15_000)
    assert maren.call("DELETE", f"/api/meetings/{meeting}").status == 204
    assert maren.call("POST", f"/api/library/taken-out/{meeting}/delete", {"name": "Maren Tollefsen"}).status == 202
    worker = house.start_worker()
    until(lambda: sum(1 for _ in os.scandir(folder)) < 15_000, every=0.01)
    house.kill(worker)
    left = sum(1 for _ in os.scandir(folder)) if folder.exists() else 0
    assert left, "it was cut off in the middle"
    assert maren.call("GET", f"/api/meetings/{meeting}").status == 404
    house.start_worker()
    until(lambda: not [path for path in (house.folder / "media" / meeting).rglob("*") if path.is_file()], 60)
    assert house.rows("select id from meetings_meeting where id = %s", meeting) == []


def test_a_backup_and_a_restore_killed_in_the_middle_are_begun_again(house, maren, meeting, tmp_path):
    litter(house, meeting, 1_000)
    backups = tmp_path / "backups"
    making = begin(house, "backup", str(backups))
    until(lambda: len(list(backups.glob("objects/*/*"))) > 100, every=0.02)
    kill(making)
    assert not list(backups.glob("*/manifest.json")), "what is half-made does not count"
    making = begin(house, "backup", str(backups))
    assert making.wait(120) == 0 and not list(backups.glob(".*.partial"))
    # Struck since: it must not come back, wherever the restore is cut off.
    number = maren.call("GET", f"/api/meetings/{meeting}/record").json()["turns"][0]["lines"][0]["number"]
    chosen = {"first": [number, 0], "last": [number, -1]}
    words = maren.call("POST", f"/api/meetings/{meeting}/strike/preview", chosen).json()["text"]
    assert maren.call("POST", f"/api/meetings/{meeting}/strike", {**chosen, "name": "Maren Tollefsen", "before": words}).status == 200
    with anew(house, "faults_restored") as media:
        elsewhere = {"database": "faults_restored", "media": media}
        ask = ("restore", str(backups), "--removals", str(house.folder / "removals.jsonl"))
        first = begin(house, *ask, **elsewhere)
        until(lambda: len(list(media.rglob("*.txt"))) > 100, every=0.02)
        kill(first)
        second = begin(house, *ask, **elsewhere)
        with psycopg.connect(house._address("postgres"), autocommit=True) as admin:
            until(lambda: admin.execute("select pg_terminate_backend(pid) from pg_stat_activity where datname = 'faults_restored' and application_name = 'pg_restore'").fetchall(), every=0.02)
        said = second.communicate(timeout=120)[1]
        assert second.returncode and "Traceback" not in said and "could not be put back" in said
        serving = begin(house, "prepare", database="faults_restored", media=media)
        assert "A restore was cut off here" in serving.communicate(timeout=60)[1] and serving.returncode
        third = begin(house, *ask, **elsewhere)
        assert third.wait(180) == 0, third.stderr.read()
        assert len(list(media.rglob("many/*.txt"))) == 1_000
        with psycopg.connect(house._address("faults_restored")) as asked:
            lines = [text for (text,) in asked.execute("select text from record_line where meeting_id = %s", [meeting])]
            assert "palms" in str(lines) and "weeping" not in str(lines) and asked.execute("select count(*) from accounts_user").fetchone() == (3,)


@contextmanager
def anew(house: House, name: str):
    """An empty installation; its media."""
    with psycopg.connect(house._address("postgres"), autocommit=True) as admin:
        admin.execute(f"drop database if exists {name} with (force)")
        admin.execute(f"create database {name}")
        media = house.folder / name
        media.mkdir()
        yield media
        admin.execute(f"drop database {name} with (force)")


class Slow:
    """A mail server that takes its time to say that it has taken something."""

    def __init__(self) -> None:
        self.taken: list[bytes] = []

    async def handle_DATA(self, server, session, envelope) -> str:  # noqa: N802 (aiosmtpd's name)
        self.taken.append(envelope.content)
        if len(self.taken) == 1:
            await asyncio.sleep(30)
        return "250 kept"


def test_a_letter_whose_worker_died_is_sent_again_as_the_same_letter(house, maren):
    for worker in house.workers:
        worker.stop()
    slow = Slow()
    server = Controller(slow, hostname="127.0.0.1", port=int(house.settings["AFTERSHOWER_SMTP_PORT"]))
    house.post.stop()
    server.start()
    try:
        assert maren.call("POST", "/api/invitations", {"email": "tobias@larkmoor.example"}).status == 201
        worker = house.start_worker()
        until(lambda: slow.taken, 60)
        house.kill(worker)
        assert house.rows("select state from mail_letter order by id desc limit 1") == [("waiting",)], "nobody has said yet that it was taken"
        house.start_worker()
        until(lambda: house.rows("select state from mail_letter order by id desc limit 1") == [("sent",)], 60)
    finally:
        server.stop()
    first, second = ([line for line in one.splitlines() if line.lower().startswith(b"message-id:")] for one in slow.taken)
    assert first == second and len(first) == 1

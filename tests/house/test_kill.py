"""Parts of the program are killed while they work: nothing that was accepted is lost, and the work goes on."""

import base64
import os
import signal
import subprocess

import psycopg
import pytest

from house.postgres import Cluster
from tests.calls import clocks, conference, missing, send, tone, visit_of
from tests.conftest import ROOT
from tests.live import Client, House, until

DEMO = ROOT / "demo/sound/08-heating-call.opus"


@pytest.fixture(scope="module")
def house(tmp_path_factory):
    # A cluster of its own, since it is restarted in the middle.
    cluster = Cluster("kill-postgres", durable=False)
    cluster.start()
    running = House(cluster, "kill", tmp_path_factory.mktemp("kill"))
    running.load_people()
    yield running
    running.close()
    cluster.stop()


@pytest.fixture(scope="module")
def maren(house):
    return Client(house, "maren@larkmoor.example")


def checkpoints(house, meeting: str) -> list[tuple]:
    return house.rows("select id, until from pipeline_hearingcheckpoint where meeting_id = %s order by until", meeting)


def test_a_worker_killed_while_hearing_loses_at_most_one_checkpoint(house, maren):
    worker = house.start_worker()
    meeting = maren.give(DEMO, language="en")
    before = until(lambda: len(found := checkpoints(house, meeting)) >= 2 and found)
    house.kill(worker)
    working = maren.call("GET", f"/api/meetings/{meeting}/progress").json()
    assert working["state"] == "working" and working["stage"] == "hear" and 0 < working["percent"] < 100
    house.start_worker()
    # The other worker goes on from the checkpoints: the old ones stay the very rows they were.
    after = until(lambda: len(found := checkpoints(house, meeting)) > len(before) and found)
    assert after[: len(before)] == before
    assert max(b - a for (_, a), (_, b) in zip(before, before[1:], strict=False)) <= 60
    assert maren.ready(meeting)["state"] == "ready"
    text = " ".join(
        line["text"] for turn in maren.call("GET", f"/api/meetings/{meeting}/record").json()["turns"] for line in turn["lines"]
    ).lower()
    assert "standby" in text and "ivy" in text and text.count("standby for") == 1


def test_postgresql_restarted_while_hearing(house, maren, talk):
    meeting = maren.give(talk, language="en")
    until(lambda: maren.call("GET", f"/api/meetings/{meeting}/progress").json()["stage"] == "hear")
    house.cluster.stop()
    house.cluster.start()
    until(lambda: maren.call("GET", f"/api/meetings/{meeting}/progress").status == 200, 30)
    assert maren.ready(meeting)["state"] == "ready"


def test_the_web_server_killed_in_the_middle_of_an_upload(house, maren, talk):
    data = talk.read_bytes()
    half = len(data) // 2
    made = maren.call(
        "POST",
        "/api/uploads",
        b"",
        {"Upload-Length": str(len(data)), "Upload-Metadata": f"filename {base64.b64encode(b'half.wav').decode()}"},
    )
    place = made.headers["Location"]
    assert maren.call("PATCH", place, data[:half], {"Upload-Offset": "0"}).status == 204
    house.kill(house.web)
    house.start_web()
    offset = int(maren.call("HEAD", place).headers["Upload-Offset"])
    assert offset == half
    assert maren.call("PATCH", place, data[offset:], {"Upload-Offset": str(offset)}).status == 204
    answer = maren.call(
        "POST", "/api/meetings", {"upload": place.rsplit("/", 1)[1], "title": "half", "started_at": "2026-10-06T09:00:00Z", "again": True}
    )
    assert answer.status == 201
    [(size, name)] = house.rows("select size, original from capture_recording where meeting_id = %s", answer.json()["id"])
    assert size == len(data) and subprocess.run(["cmp", talk, house.folder / "media" / name]).returncode == 0


def test_database_web_and_worker_die_while_the_clerk_captures(house, maren):
    """Twenty-four seconds of a steady tone: not 20 ms of it are missing."""
    sound = tone(house.folder / "tone.flac", 24)
    room = {"name": "works", "voices": [{"name": "Idris Quaye", "sound": str(sound)}], "starts": "with somebody"}
    # Nobody gathers: the pieces are looked at as they came in.
    for worker in house.workers:
        worker.stop()
    with conference(house, [room]):
        live = house.start_live()
        house.start_clerk()
        key = send(house, maren, "works")
        until(lambda: visit_of(maren, key)["state"] == "on", 60)
        meeting = visit_of(maren, key)["meeting"]
        house.kill(live)
        house.cluster.stop()
        house.kill(house.web)
        until(lambda: clocks(house, "works")["Idris Quaye"] > 12, 60)
        house.cluster.start()
        house.start_web()
        house.start_live()
        until(lambda: not clocks(house, "works"), 60)
        assert maren.call("POST", f"/api/clerk/{key}/away", {}).status == 204
        until(lambda: visit_of(maren, key)["over"], 60)
    # Once it is wound up there is no gap, not even the one after its end.
    until(lambda: maren.call("GET", f"/api/meetings/{meeting}").json()["gaps"] == [], 60)
    lost, whole = missing(house, meeting, 1)
    assert lost == 0 and whole > 15 * 50


def test_postgresql_killed_comes_back_at_the_port_that_everybody_knows():
    cluster = Cluster("revived-postgres", durable=False)
    cluster.start()
    port = cluster.port
    postmaster = int((cluster.folder / "postmaster.pid").read_text().splitlines()[0])
    assert cluster.answers
    os.kill(postmaster, signal.SIGKILL)
    until(lambda: not cluster.answers, 20)
    cluster.revive()
    assert cluster.answers and cluster.port == port
    with psycopg.connect(host="127.0.0.1", port=port, user="aftershower", password=cluster.environment["PGPASSWORD"], dbname="aftershower") as asked:
        assert asked.execute("show log_min_error_statement").fetchone() == ("panic",)
    cluster.stop()

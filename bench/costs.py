"""What an hour of sound costs, of processors, memory and room: what a plan for many meetings is made of (docs/operating.md)."""

from __future__ import annotations

import threading
import time

import numpy as np

from bench.hearing import DEMO
from bench.house import memory, processor_seconds, running
from bench.tables import table
from core.media import RATE, decode, open_sound
from house.serve import Process
from tests.live import Client, House
from tests.sounds import write_wav

_MINUTES = 10
"""Of sound, from which an hour's is reckoned: what does not grow with it (loading models) is measured by a second meeting of a minute."""


def run() -> None:
    """Print it by stage, and what is kept."""
    with running("bench_costs") as house:
        house.load_people()
        client = Client(house, "maren@larkmoor.example")
        worker = house.start_worker()
        short, _ = _given(house, client, worker, 1, "a minute")
        before = _database(house)
        spent, peak = _given(house, client, worker, _MINUTES, "the talk")
        [(meeting, seconds)] = house.rows("select id::text, duration from meetings_meeting where title = 'the talk'")
        hours = seconds / 3600
        stages = house.rows(
            "select stage, extract(epoch from finished_at - started_at) from pipeline_stagerun where meeting_id = %s and finished_at is not null order by started_at", meeting
        )
        rows = [[stage, float(took) / hours / 60] for stage, took in stages if took > 0.5]
        print(table(["stage", "minutes, for an hour of sound"], rows))
        kept = {path.name: path.stat().st_size for path in (house.folder / "media" / meeting).rglob("*") if path.is_file()}
        grown = (_database(house) - before) / 2**20
        print(f"\nprocessor minutes for an hour of sound: {(spent - short) / 60 / hours:.1f}, and {short:.0f} s for each meeting; worker at most {peak} MB")
        print(f"kept for an hour of sound: files {sum(kept.values()) / 2**20 / hours:.0f} MB ({', '.join(f'{name} {size / 2**20 / hours:.1f}' for name, size in sorted(kept.items()))}), rows {grown / hours:.1f} MB")
        _looks(house, client, meeting)


def _given(house: House, client: Client, worker: Process, minutes: int, title: str) -> tuple[float, int]:
    """Seconds of processors until a recording of so many minutes is ready, and the worker's memory at its highest."""
    talks = []
    for path in sorted((DEMO / "sound").glob("*.opus")):
        decode(path, house.folder / "one.wav")
        talks.append(np.array(open_sound(house.folder / "one.wav")))
    talk, length = np.concatenate(talks), minutes * 60 * RATE
    path = house.folder / f"{title}.wav"
    write_wav(path, np.tile(talk, length // len(talk) + 1)[:length])
    most, done = [0], threading.Event()

    def watch() -> None:
        while not done.wait(0.5):
            most[0] = max(most[0], memory(worker))

    threading.Thread(target=watch, daemon=True).start()
    before = processor_seconds(worker)
    client.ready(client.give(path, title=title, language="en", again=True), 3600)
    time.sleep(3)  # what is put in order afterwards
    done.set()
    return processor_seconds(worker) - before, most[0]


def _looks(house: House, client: Client, meeting: str) -> None:
    rows = []
    for name, path in (("Today", "/api/today"), ("library", "/api/library"), ("record", f"/api/meetings/{meeting}/record"), ("search", "/api/search?q=glass")):
        client.call("GET", path)
        before, count = processor_seconds(house.web), 30
        for _ in range(count):
            assert client.call("GET", path).status == 200
        rows.append([name, (processor_seconds(house.web) - before) / count * 1000])
    print("\n" + table(["a look", "processor milliseconds of the web server"], rows))


def _database(house: House) -> int:
    house.settle()
    return int(house.rows("select pg_database_size(current_database())")[0][0])

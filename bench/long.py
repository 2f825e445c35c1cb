"""Three hours of sound through the real stages, with the worker killed twice; and ten minutes in which nobody speaks."""

from __future__ import annotations

import time
from pathlib import Path

import numpy as np

from bench.hearing import DEMO
from bench.house import running
from bench.tables import table
from core.media import RATE, decode, open_sound
from tests.live import Client, House
from tests.sounds import applause, write_wav

_HOURS = 3.0
_LOOK = 0.5  # seconds between looks at progress and memory
_KILLS = (0.25, 0.6)  # shares of the hearing at which the worker is killed with SIGKILL


def run() -> None:
    """Print time, peak memory of a worker, the longest time without progress, and how much sound a kill costs; then words heard in noise."""
    with running("bench_long") as house:
        house.load_people()
        _three_hours(house)
        _nobody_speaks(house)


def _three_hours(house: House) -> None:
    talks = []
    for path in sorted((DEMO / "sound").glob("*.opus")):
        decode(path, house.folder / "one.wav")
        talks.append(np.array(open_sound(house.folder / "one.wav")))
    talk = np.concatenate(talks)
    write_wav(house.folder / "long.wav", np.tile(talk, int(_HOURS * 3600 * RATE / len(talk)) + 1)[: int(_HOURS * 3600 * RATE)])
    client = Client(house, "maren@larkmoor.example")
    worker = house.start_worker()
    began = time.monotonic()
    meeting = client.give(house.folder / "long.wav", language="en")
    kills, peak, still, last, redone = list(_KILLS), 0, began, None, 0.0
    stillest: dict[str, float] = {}
    while True:
        work = client.call("GET", f"/api/meetings/{meeting}/progress").json()
        if work["state"] != "working":
            break
        if worker.running.poll() is None:
            peak = max(peak, _memory(worker.running.pid))
        state = house.rows("select stage, state, progress from pipeline_stagerun where meeting_id = %s order by stage", meeting)
        if state != last:
            last, still = state, time.monotonic()
        working = next((stage for stage, at, _ in state if at == "running"), "between two")
        stillest[working] = max(stillest.get(working, 0.0), time.monotonic() - still)
        heard = next((progress for stage, _, progress in state if stage == "hear"), 0.0)
        if kills and heard >= kills[0]:
            kills.pop(0)
            house.kill(worker)
            redone = max(redone, _unsaved(house, meeting))
            worker, still = house.start_worker(), time.monotonic()
        time.sleep(_LOOK)
    took = time.monotonic() - began
    print(
        table(
            ["hours of sound", "state", "s", "s/s", "worker MB at most", "s without progress", "kills", "s of sound done again at most"],
            [[_HOURS, work["state"], took, took / _HOURS / 3600, peak, max(stillest.values()), len(_KILLS), redone]],
        )
    )
    stages = house.rows(
        "select stage, extract(epoch from finished_at - started_at) from pipeline_stagerun where meeting_id = %s order by started_at",
        meeting,
    )
    print(
        "\n"
        + table(
            ["stage", "s since it was last begun", "s without progress"],
            [[stage, float(took), stillest.get(stage, 0.0)] for stage, took in stages],
        )
    )


def _unsaved(house: House, meeting: str) -> float:
    """Seconds of sound that a kill just before the next checkpoint would cost: the most that lies between two so far."""
    until = [row for (row,) in house.rows("select until from pipeline_hearingcheckpoint where meeting_id = %s order by until", meeting)]
    return max((after - before for before, after in zip([0.0, *until], until, strict=False)), default=0.0)


def _memory(pid: int) -> int:
    """Most resident memory a process has had, in MB."""
    try:
        status = Path(f"/proc/{pid}/status").read_text()
    except OSError:
        return 0
    return int(next((line.split()[1] for line in status.splitlines() if line.startswith("VmHWM")), "0")) // 1024


def _nobody_speaks(house: House) -> None:
    """Ten minutes each of silence, noise, tones, chords and applause: every word that is heard is invented."""
    chance, seconds = np.random.default_rng(1), 600
    at = np.arange(seconds * RATE) / RATE
    swell = 0.5 + 0.5 * np.sin(2 * np.pi * at / 7)
    sounds = {
        "silence": np.zeros(seconds * RATE),
        "noise": chance.normal(0, 0.08, seconds * RATE) * swell,
        "tones": 0.3 * np.sin(2 * np.pi * 440 * at) * (np.floor(at) % 2),
        "music": 0.12 * sum(np.sin(2 * np.pi * pitch * 2 ** (np.floor(at * 2) % 5 / 12) * at) for pitch in (220, 277.18, 329.63)) * swell,
        "applause": applause(seconds) / 32767,
    }
    client, rows = Client(house, "maren@larkmoor.example"), []
    for name, sound in sounds.items():
        write_wav(house.folder / f"{name}.wav", (sound * 32767).clip(-32768, 32767).astype(np.int16))
        meeting = client.give(house.folder / f"{name}.wav")
        state = client.ready(meeting, 600)["state"]
        [(words,)] = house.rows("select coalesce(sum(jsonb_array_length(words)), 0) from record_line where meeting_id = %s", meeting)
        rows.append([f"ten minutes of {name}", state, int(words)])
    print("\n" + table(["sound", "state", "words heard"], rows))

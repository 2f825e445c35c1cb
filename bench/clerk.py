"""The clerk: seconds from due to on the record, what a call costs, how many one process holds without losing sound, what a killed one costs.

Every participant is a steady tone, so that each 20 ms that are missing in what was kept can be counted.
"""

from __future__ import annotations

import os
import statistics
import subprocess
import time
from datetime import datetime
from pathlib import Path

import jiwer
import numpy as np

from bench.hearing import plain_text
from bench.house import running
from bench.tables import table
from core.media.chunks import CAPTURE_RATE, read_flac, write_flac
from demo.call import turns_of, voices_of
from house.serve import Process
from tests.calls import conference, missing, send, tone, visit_of
from tests.live import Client, House, until

_CALLS = (1, 4, 8)
_VOICES = 3  # in each
_SECONDS = 45.0
_RECORDING, _LENGTH = "08-heating-call", 75.0
_TICKS = os.sysconf("SC_CLK_TCK")


def run() -> None:
    """Print what calls cost, what a kill costs, and how well three people in a call are told apart and heard."""
    with running("bench_clerk") as house:
        house.load_people()
        client = Client(house, "maren@larkmoor.example")
        sound = tone(house.folder / "tone.flac", 30)
        rooms = [{"name": f"room-{number}", "voices": [{"name": f"Voice {one}", "sound": str(sound)} for one in range(_VOICES)]} for number in range(30)]
        with conference(house, [{**room, "starts": "with somebody", "again": True} for room in rooms]) as talking:
            time.sleep(8)  # the sound is prepared
            clerk = house.start_clerk("--at-once", str(max(_CALLS)))
            until(lambda: "VmRSS" in Path(f"/proc/{clerk.running.pid}/status").read_text())
            time.sleep(15)  # it has loaded what it needs
            free = iter(rooms)
            rows = [[count, *_calls(house, client, [clerk], talking, [next(free)["name"] for _ in range(count)])] for count in _CALLS]
            heads = ["calls", "due to on, median s", "worst s", "clerk, processors", "a call", "clerk, MB", "conference, processors", "20 ms lost of all"]
            print(table(heads, rows))
            print(f"\nprocessor a call at {_CALLS[-1]} calls, as a multiple of that at one: {rows[-1][4] / rows[0][4]:.2f}; {_VOICES} people in each")
            other = house.start_clerk("--at-once", "4")
            house.kill(clerk)
            clerk = house.start_clerk("--at-once", "4")
            time.sleep(15)
            count = _CALLS[-1]
            print("\n" + table(heads, [[f"{count}, on two processes", *_calls(house, client, [clerk, other], talking, [next(free)["name"] for _ in range(count)])]]))
            house.kill(other)
            print(f"\na killed clerk, with another running beside it: {_killed(house, client, clerk, next(free)['name']):.1f} s of the call are a gap")
        house.close()
    _attribution()


def _calls(house: House, client: Client, clerks: list[Process], talking: subprocess.Popen, rooms: list[str]) -> list[object]:
    """So many calls at once, for so long: seconds until on the record, processors, memory, what was lost."""
    visits = [send(house, client, room) for room in rooms]
    for key in visits:
        until(lambda key=key: visit_of(client, key)["state"] == "on", 120)
    pids = [clerk.running.pid for clerk in clerks]
    before, began = [_spent(pid) for pid in [talking.pid, *pids]], time.monotonic()
    time.sleep(_SECONDS)
    conferred, *spent = [(_spent(pid) - one) / (time.monotonic() - began) for pid, one in zip([talking.pid, *pids], before, strict=True)]
    memory = max(int(next(line for line in Path(f"/proc/{pid}/status").read_text().splitlines() if line.startswith("VmRSS")).split()[1]) / 1024 for pid in pids)
    waited = []
    for key in visits:
        found = visit_of(client, key)
        on = next(one["at"] for one in found["changes"] if one["state"] == "on")
        waited.append((datetime.fromisoformat(on) - datetime.fromisoformat(found["starts_at"])).total_seconds())
    lost, all_of_it = map(sum, zip(*(missing(house, visit_of(client, key)["meeting"], _VOICES) for key in visits), strict=True))
    for key in visits:
        client.call("POST", f"/api/clerk/{key}/away", {})
    for key in visits:
        until(lambda key=key: visit_of(client, key)["over"], 60)
    return [statistics.median(waited), max(waited), sum(spent), sum(spent) / len(rooms), round(memory), conferred, f"{lost} of {all_of_it}"]


def _spent(pid: int) -> float:
    """Seconds of processor time."""
    fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    return (int(fields[11]) + int(fields[12])) / _TICKS


def _killed(house: House, client: Client, clerk, room: str) -> float:
    house.start_clerk()
    time.sleep(12)
    key = send(house, client, room)
    until(lambda: visit_of(client, key)["state"] == "on", 60)
    holder = house.rows("select holder from clerk_visit where id = %s", key)[0][0]
    time.sleep(5)
    os.kill(int(holder.split()[1]), 9)
    meeting = f"/api/meetings/{visit_of(client, key)['meeting']}"
    length = until(lambda: next((gap["length"] for gap in client.call("GET", meeting).json()["gaps"]), None), 60)
    client.call("POST", f"/api/clerk/{key}/away", {})
    until(lambda: visit_of(client, key)["over"], 60)
    return length


def _attribution() -> None:
    """Three people of a recording in one call, a track each, beside the same three files given singly."""
    with running("bench_clerk_words") as house:
        house.load_people()
        client = Client(house, "maren@larkmoor.example")
        turns = [turn for turn in turns_of(_RECORDING) if turn.end < _LENGTH]
        sounds = voices_of(_RECORDING, house.folder)
        for path in sounds.values():
            sound = np.concatenate(list(read_flac(path)))[: int(_LENGTH * CAPTURE_RATE)]
            # A moment of silence first: who is in the call before the clerk has spoken by then.
            write_flac(path, [np.zeros((6 * CAPTURE_RATE, 1), np.int16), sound], 1)
        voices = [{"name": name, "sound": str(path)} for name, path in sounds.items()]
        with conference(house, [{"name": "heating", "voices": voices, "starts": "with somebody"}]):
            time.sleep(8)  # the sound is prepared
            house.start_clerk()
            time.sleep(12)
            key = send(house, client, "heating")
            until(lambda: visit_of(client, key)["over"], _LENGTH + 200)
        house.start_worker()
        meeting = visit_of(client, key)["meeting"]
        in_call = _by_name(client, meeting)
        rows = []
        for name, path in sounds.items():
            said = plain_text(" ".join(turn.text for turn in turns if turn.name == name))
            singly = " ".join(_by_name(client, client.give(path, language="en")).values())
            rows.append([name, len(said.split()), jiwer.wer(said, plain_text(in_call.get(name, ""))), jiwer.wer(said, plain_text(singly))])
        print("\n" + table(["in the call", "words", "WER of what stands under the name", "WER of the file given singly"], rows))
        print(f"\nnames in the record: {', '.join(in_call)}")


def _by_name(client: Client, meeting: str) -> dict[str, str]:
    assert client.ready(meeting, 600)["state"] == "ready"
    names = {voice["id"]: voice["name"] for voice in client.call("GET", f"/api/meetings/{meeting}").json()["voices"]}
    found: dict[str, str] = {}
    for turn in client.call("GET", f"/api/meetings/{meeting}/record").json()["turns"]:
        text = " ".join(line["text"] for line in turn["lines"])
        found[names[turn["voice"]]] = f"{found.get(names[turn['voice']], '')} {text}"
    return found

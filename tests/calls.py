"""Calls to try the clerk in: the stand-in conference started, the clerk sent there, and what is missing of what was kept."""

from __future__ import annotations

import json
import subprocess
import sys
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np

from core.media.chunks import CAPTURE_RATE, write_flac
from tests.live import Client, House, until

_PACKET = CAPTURE_RATE // 50
"""Samples of 20 ms: as much as a packet holds (RFC 7587)."""


@contextmanager
def conference(house: House, rooms: list[dict]) -> Iterator[subprocess.Popen]:
    """The stand-in with these rooms (`standins.conference.__main__.read_rooms`), at the house's port for calls."""
    path = house.folder / "rooms.json"
    path.write_text(json.dumps(rooms), encoding="utf-8")
    command = [sys.executable, "-m", "standins.conference", "--port", str(house.call_port), "--rooms", str(path)]
    started = subprocess.Popen(command, env={**house.settings, "PYTHONFAULTHANDLER": "1"})
    try:
        until(lambda: _there(house), 60)
        yield started
    finally:
        started.terminate()
        started.wait(20)


def _there(house: House) -> bool:
    try:
        return urllib.request.urlopen(f"http://127.0.0.1:{house.call_port}/page/room.css", timeout=1).status == 200
    except OSError:
        return False


def join_address(house: House, room: str) -> str:
    """By which one joins."""
    return f"http://127.0.0.1:{house.call_port}/join/{room}"


def clocks(house: House, room: str) -> dict[str, float]:
    """How far those have come who speak from a file, by name, in seconds of it."""
    return json.loads(urllib.request.urlopen(f"http://127.0.0.1:{house.call_port}/rooms/{room}/clock", timeout=10).read())


def send(house: House, client: Client, room: str) -> str:
    """Send the clerk; the visit's key."""
    sent = client.call("POST", "/api/clerk", {"link": join_address(house, room), "title": room})
    assert sent.status == 201, sent.body
    return sent.json()["id"]


def visit_of(client: Client, key: str) -> dict:
    """How it stands."""
    return next(one for one in client.call("GET", "/api/clerk").json() if one["id"] == key)


def tone(path: Path, seconds: float) -> Path:
    """A file of a steady tone, so that each 20 ms that are missing in what was kept can be counted."""
    moments = np.arange(int(seconds * CAPTURE_RATE)) / CAPTURE_RATE
    write_flac(path, [(8000 * np.sin(2 * np.pi * 350 * moments)).astype(np.int16).reshape(-1, 1)], 1)
    return path


def missing(house: House, meeting: str, voices: int) -> tuple[int, int]:
    """Of steady tones in a call that has not been gathered yet: pieces of 20 ms that are missing in tracks that had begun, and all there should be
    until the last that any of them gave."""
    rows = house.rows(
        "select c.data from capture_chunk c join capture_stretch s on s.id = c.stretch_id join capture_capture p on p.id = s.capture_id "
        "where p.meeting_id = %s order by s.number, c.number",
        meeting,
    )
    sound = np.concatenate([np.frombuffer(bytes(data), "<i2").reshape(-1, 4) for (data,) in rows])[:, :voices]
    pieces = sound[: len(sound) // _PACKET * _PACKET].reshape(-1, _PACKET, voices).astype(np.int32)
    loud = np.abs(pieces).max(axis=1) > 1000
    loud = loud[: len(loud) - np.argmax(loud.any(axis=1)[::-1])]
    lost = whole = 0
    for voice in range(voices):
        there = loud[np.argmax(loud[:, voice]) + 5 :, voice]
        lost, whole = lost + int((~there).sum()), whole + len(there)
    return lost, whole

"""Twenty people at once: how long they wait, beside one who is alone."""

from __future__ import annotations

import random
import statistics
import time
from concurrent.futures import ProcessPoolExecutor, ThreadPoolExecutor

from bench.house import running
from bench.tables import table
from tests.live import Client, House

_USERS, _SECONDS, _PROCESSES = 20, 30.0, 2
_THINKS = (0.2, 0.8)  # seconds between one look and the next
_EMAILS = ("maren@larkmoor.example", "idris@larkmoor.example", "yuki@larkmoor.example", "nerys@larkmoor.example")


class There:
    """What a client has to know of a house, for a process of its own."""

    def __init__(self, url: str):
        self.url = url


def run() -> None:
    """Print p50 and p95 of a mixed load in the same run: one user, then twenty."""
    with running("load") as house:
        house.manage("load_demo")
        meetings = [str(key) for (key,) in house.rows("select id from meetings_meeting where visibility = 'workspace' order by title")]
        alone = _together(house, meetings, 1)
        crowd = _together(house, meetings, _USERS)
    rows = [[path, *_figures(alone[path]), *_figures(crowd[path])] for path in crowd if path in alone]
    everything = [sum(kind.values(), []) for kind in (alone, crowd)]
    rows.append(["all", *(figure for times in everything for figure in _figures(times))])
    print(table(["milliseconds", "one user, p50", "p95", f"{_USERS} users, p50", "p95"], rows))
    asked = [len(times) / _SECONDS for times in everything]
    print(f"\nrequests a second: {asked[0]:.1f} and {asked[1]:.1f}; p95 of {_USERS} as a multiple of one: {rows[-1][4] / rows[-1][2]:.1f}")


def _figures(times: list[float]) -> list[float]:
    ordered = sorted(times)
    return [round(statistics.median(ordered), 1), round(ordered[min(len(ordered) - 1, round(0.95 * len(ordered)))], 1)]


def _together(house: House, meetings: list[str], users: int) -> dict[str, list[float]]:
    shares = [users // _PROCESSES + (index < users % _PROCESSES) for index in range(_PROCESSES)]
    with ProcessPoolExecutor(_PROCESSES) as pool:
        parts = list(pool.map(_several, [house.url] * _PROCESSES, [meetings] * _PROCESSES, shares))
    return {path: sum((part.get(path, []) for part in parts), []) for path in sorted(set().union(*parts))}


def _several(url: str, meetings: list[str], users: int) -> dict[str, list[float]]:
    times: dict[str, list[float]] = {}
    clients = [Client(There(url), _EMAILS[index % len(_EMAILS)]) for index in range(users)]
    with ThreadPoolExecutor(max(1, users)) as pool:
        for found in pool.map(lambda client: _one(client, meetings), clients):
            for path, waited in found:
                times.setdefault(path, []).append(waited)
    return times


def _one(client: Client, meetings: list[str]) -> list[tuple[str, float]]:
    """What somebody does all day: look at Today, search, open meetings, now and then write a note."""
    end, waited, chance = time.monotonic() + _SECONDS, [], random.Random()
    while time.monotonic() < end:
        at = f"/api/meetings/{chance.choice(meetings)}"
        asked = [("GET", "/api/today", ""), ("GET", "/api/library", ""), ("GET", f"/api/search?q={chance.choice(['glass', 'heating', 'order'])}", "")]
        asked += [("GET", at, "meeting"), ("GET", f"{at}/record", "record"), ("GET", f"{at}/minutes", "minutes"), ("POST", f"{at}/notes", "note")]
        method, path, name = chance.choice(asked)
        began = time.perf_counter()
        answer = client.call(method, path, {"text": "Ask again.", "at": 1.0} if method == "POST" else None)
        assert answer.status in (200, 201), (path, answer.status)
        waited.append((name or path.split("?")[0].removeprefix("/api/"), (time.perf_counter() - began) * 1000))
        time.sleep(chance.uniform(*_THINKS))
    return waited

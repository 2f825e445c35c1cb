"""Two hundred people following a meeting while fifty give files: how late they hear of what is new, how long somebody else waits, and what it takes."""

from __future__ import annotations

import asyncio
import random
import statistics
import threading
import time
from base64 import b64encode
from concurrent.futures import ProcessPoolExecutor, ThreadPoolExecutor
from contextlib import suppress
from http.client import HTTPConnection
from itertools import pairwise
from urllib.parse import urlsplit

from bench.house import memory, running
from bench.load import There
from bench.tables import table
from tests.live import Client, House

_LISTENERS, _UPLOADS = 200, 50
_SECONDS, _EVERY = 60.0, 2.0
_PIECE, _PART, _RATE = 2 * 1024**2, 64 * 1024, 10e6 / 8
"""Bytes of a piece, as the web application sends them; of what leaves at once; and a second: ten megabits, as from a good connection."""
_MAREN, _IDRIS = "maren@larkmoor.example", "idris@larkmoor.example"


def run() -> None:
    """Print it beside the same with one who follows and nobody who gives. What asks runs on the same processors."""
    with running("crowd") as house:
        house.manage("load_demo")
        [(meeting,)] = house.rows("select id::text from meetings_meeting where visibility = 'workspace' order by title limit 1")
        rows = [[name, *_measured(house, meeting, *load)] for name, load in (("one, none", (1, 0)), ("200, none", (_LISTENERS, 0)), ("200, 50", (_LISTENERS, _UPLOADS)))]
    heads = ["who follows, who gives", "events: p50, ms", "p95, ms", "not before the next", "looks: p50, ms", "p95, ms", "MB/s given", "answer to a piece: p95, ms", "web server, MB"]
    print(table(heads, rows))
    print(f"\np95 of the events as a multiple of one's: {rows[2][2] / rows[0][2]:.1f}; of a look: {rows[2][5] / rows[0][5]:.1f}")


def _measured(house: House, meeting: str, listeners: int, uploads: int) -> list[float]:
    stop, most = threading.Event(), [0]

    def watch() -> None:
        while not stop.wait(0.5):
            most[0] = max(most[0], memory(house.web))

    threading.Thread(target=watch, daemon=True).start()
    end = time.time() + _SECONDS
    with ProcessPoolExecutor(4) as pool:
        halves = [pool.submit(_follow, house.url, meeting, listeners // 2 + share, end) for share in range(2) if listeners // 2 + share]
        giving = pool.submit(_give, house.url, uploads, end)
        time.sleep(6.0)  # until all of them are there
        told, looks = _tell(house, meeting, end - 4)
        heard = [times for half in halves for times in half.result()]
        sent, pieces = giving.result()
    stop.set()
    late = [late for one in heard for late in _late(one, told)]
    lost = (len(told) - 1) * len(heard) - len(late)
    return [*_figures(late), lost, *_figures(looks), sent / _SECONDS / 1e6, _figures(pieces)[1], most[0]]


def _figures(times: list[float]) -> list[float]:
    ordered = sorted(times) or [0.0]
    return [round(statistics.median(ordered), 1), round(ordered[min(len(ordered) - 1, round(0.95 * len(ordered)))], 1)]


def _late(heard: list[float], told: list[float]) -> list[float]:
    """Milliseconds after which each thing that was told was heard of, where that was before the next."""
    firsts = ((begun, next((at for at in heard if begun <= at < following), None)) for begun, following in pairwise(told))
    return [(at - begun) * 1000 for begun, at in firsts if at is not None]


def _tell(house: House, meeting: str, end: float) -> tuple[list[float], list[float]]:
    """Somebody comments every two seconds, and somebody else looks at the meeting meanwhile."""
    writer, reader, told, looks = Client(house, _MAREN), Client(house, _IDRIS), [], []

    def look() -> None:
        while time.time() < end:
            begun = time.perf_counter()
            assert reader.call("GET", f"/api/meetings/{meeting}/record").status == 200
            looks.append((time.perf_counter() - begun) * 1000)
            time.sleep(0.3)

    looking = threading.Thread(target=look)
    looking.start()
    while (now := time.time()) < end:
        assert writer.call("POST", f"/api/meetings/{meeting}/comments", {"text": "Look at this again.", "start": 1.0, "end": 2.0}).status == 201
        told.append(now)
        time.sleep(max(0.0, now + _EVERY - time.time()))
    looking.join()
    return told, looks


def _follow(url: str, meeting: str, count: int, end: float) -> list[list[float]]:
    """Each with a connection of their own; when each heard of comments."""
    client = Client(There(url), _IDRIS)
    cookies = "; ".join(f"{one.name}={one.value}" for one in client.jar)

    async def one() -> list[float]:
        heard = []
        at = urlsplit(url)
        reader, writer = await asyncio.open_connection(at.hostname, at.port)
        writer.write(f"GET /api/meetings/{meeting}/events HTTP/1.1\r\nHost: {at.netloc}\r\nCookie: {cookies}\r\nAccept: text/event-stream\r\n\r\n".encode())
        with suppress(TimeoutError):
            async with asyncio.timeout(end - time.time()):
                while line := await reader.readline():
                    if line.startswith(b"data:") and b"comments" in line:
                        heard.append(time.time())
        writer.close()
        return heard

    async def everybody() -> list[list[float]]:
        return await asyncio.gather(*(one() for _ in range(count)))

    return asyncio.run(everybody())


def _give(url: str, count: int, end: float) -> tuple[float, list[float]]:
    """Bytes given by all, and milliseconds from the end of each piece to the answer."""
    if not count:
        return 0.0, []
    client, piece = Client(There(url), _MAREN), random.Random(1).randbytes(_PIECE)
    size = str(int(_RATE * _SECONDS * 2))
    name = b64encode(b"given.wav").decode()

    def one(_: int) -> list[float]:
        made = client.call("POST", "/api/uploads", b"", {"Upload-Length": size, "Upload-Metadata": f"filename {name}"})
        assert made.status == 201, made.body
        place = made.headers["Location"]
        took, offset = [], 0
        while time.time() < end:
            took.append(_piece(client, place, offset, piece))
            offset += len(piece)
        client.call("DELETE", place)
        return took

    with ThreadPoolExecutor(count) as pool:
        times = [took for share in pool.map(one, range(count)) for took in share]
    return float(len(times) * _PIECE), times


def _piece(client: Client, place: str, offset: int, piece: bytes) -> float:
    """One piece, as fast as the connection lets it through; milliseconds from its end to the answer."""
    at = urlsplit(client.house.url)
    line = HTTPConnection(at.hostname, at.port)
    cookies = "; ".join(f"{one.name}={one.value}" for one in client.jar)
    token = next(one.value for one in client.jar if one.name == "csrftoken")
    kind = "application/offset+octet-stream"
    line.putrequest("PATCH", place)
    for name, value in {"Cookie": cookies, "X-CSRFToken": token, "Content-Type": kind, "Content-Length": str(len(piece)), "Upload-Offset": str(offset)}.items():
        line.putheader(name, value)
    line.endheaders()
    begun = time.perf_counter()
    for start in range(0, len(piece), _PART):
        line.send(piece[start : start + _PART])
        time.sleep(max(0.0, begun + (start + _PART) / _RATE - time.perf_counter()))
    ended = time.perf_counter()
    answer = line.getresponse()
    assert answer.status == 204, answer.read()
    line.close()
    return (time.perf_counter() - ended) * 1000

"""A large upload over a connection that is cut ten times: does it arrive whole, and does the server's memory stay flat?"""

from __future__ import annotations

import base64
import hashlib
import http.client
import random
import time
from pathlib import Path

from bench.house import memory, running
from bench.tables import table
from tests.live import Client, House

_SIZE, _PIECE, _CUTS = 1024**3, 8 * 1024**2, 10


def run() -> None:
    """Send 1 GB by tus, cutting the connection in the middle of a piece ten times; print time, memory, and whether it is the same file."""
    with running("bench_uploads") as house:
        house.load_people()
        _run(house)


def _run(house: House) -> None:
    file, chance = house.folder / "large.wav", random.Random(1)
    with file.open("wb") as sink:
        block = chance.randbytes(1024**2)
        for index in range(_SIZE // len(block)):
            sink.write(index.to_bytes(8, "big") + block[8:])
    client = Client(house, "maren@larkmoor.example")
    name = base64.b64encode(b"large.wav").decode()
    place = client.call("POST", "/api/uploads", b"", {"Upload-Length": str(_SIZE), "Upload-Metadata": f"filename {name}"}).headers[
        "Location"
    ]
    cuts = set(chance.sample(range(1, _SIZE // _PIECE), _CUTS))
    before, most, began, cut = memory(house.web), 0, time.perf_counter(), 0
    with file.open("rb") as source:
        while (offset := int(client.call("HEAD", place).headers["Upload-Offset"])) < _SIZE:
            source.seek(offset)
            piece = source.read(_PIECE)
            if offset // _PIECE in cuts:
                cuts.discard(offset // _PIECE)
                cut += 1
                _send_and_cut(client, place, offset, piece)
            else:
                client.call("PATCH", place, piece, {"Upload-Offset": str(offset)})
            most = max(most, memory(house.web))
    took = time.perf_counter() - began
    began = time.perf_counter()
    given = client.call(
        "POST", "/api/meetings", {"upload": place.rsplit("/", 1)[1], "title": "large", "started_at": "2026-10-06T09:00:00Z"}
    ).json()
    taken = time.perf_counter() - began
    [(kept,)] = house.rows("select original from capture_recording where meeting_id = %s", given["id"])
    same = _hash(house.folder / "media" / kept) == _hash(file)
    print(
        table(
            ["MB", "cuts", "s", "MB/s", "s to take it in", "the same file", "server MB before", "at most"],
            [[_SIZE // 1024**2, cut, took, _SIZE / 1024**2 / took, taken, "yes" if same else "NO", before, most]],
        )
    )


def _send_and_cut(client: Client, place: str, offset: int, piece: bytes) -> None:
    """Half a piece, then the connection is gone."""
    host, port = client.house.url.removeprefix("http://").split(":")
    connection = http.client.HTTPConnection(host, int(port))
    cookies = "; ".join(f"{cookie.name}={cookie.value}" for cookie in client.jar)
    token = next(cookie.value for cookie in client.jar if cookie.name == "csrftoken")
    connection.putrequest("PATCH", place)
    for key, value in {
        "Cookie": cookies,
        "X-CSRFToken": token,
        "Upload-Offset": str(offset),
        "Content-Type": "application/offset+octet-stream",
        "Content-Length": str(len(piece)),
    }.items():
        connection.putheader(key, value)
    connection.endheaders()
    connection.send(piece[: len(piece) // 2])
    connection.close()


def _hash(path: Path) -> str:
    with path.open("rb") as source:
        return hashlib.file_digest(source, "sha256").hexdigest()

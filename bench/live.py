"""The live record: how long after a word is spoken it can be read, for one and for two captures at a time."""

from __future__ import annotations

import base64
import difflib
import hashlib
import re
import statistics
import time
import uuid
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

import av
import numpy as np

from bench.hearing import DEMO, MODELS
from bench.house import running
from bench.tables import table
from core.hearing import Ear
from core.media import RATE
from core.media.chunks import CAPTURE_RATE, CHUNK
from tests.live import Client

_SECONDS = 90
_LOOK = 0.2  # seconds between looks at the live record; that much of a delay may be the bench's own


@dataclass(frozen=True)
class Outcome:
    """Of one capture: seconds from the end of each word to its first appearance, the share of words ever shown, seconds behind at most."""

    delays: list[float]
    shown: float
    behind: float


def run() -> None:
    """Print the median and 95th percentile from the end of a word to its first appearance; and what a short window saves."""
    ear = Ear(MODELS, live=True)
    talks = [_talk(ear, path) for path in sorted((DEMO / "sound").glob("*.opus"))[:2]]
    _windows(ear, talks[0][0])
    with running("bench_live") as house:
        house.load_people()
        house.start_live()
        client = Client(house, "maren@larkmoor.example")
        _capture(client, talks[0], until=8.0)  # the worker loads its models at the first sound
        rows = []
        for count in (1, 2):
            with ThreadPoolExecutor(count) as together:
                outcomes = list(together.map(lambda talk: _capture(client, talk), talks[:count]))
            delays = [delay for outcome in outcomes for delay in outcome.delays]
            shown, behind = min(outcome.shown for outcome in outcomes), max(outcome.behind for outcome in outcomes)
            rows.append([count, statistics.median(delays), _percentile(delays, 95), shown, behind, len(delays)])
        print(table(["captures", "median s", "95th percentile s", "share of words shown", "most behind s", "words"], rows))


def _percentile(values: list[float], share: int) -> float:
    return statistics.quantiles(values, n=100)[share - 1]


def _talk(ear: Ear, path: Path) -> tuple[np.ndarray, list[tuple[str, float]]]:
    """The first seconds of a demo recording as a capture sends them, and its words with the end of each, as the full hearing has them."""
    words = [(_plain(w.text), w.end) for turn in ear.hear(path, language="en").record.turns for w in turn.words if w.end < _SECONDS - 5]
    with av.open(str(path)) as container:
        resampler = av.AudioResampler(format="s16", layout="mono", rate=CAPTURE_RATE)
        blocks = [block.to_ndarray().reshape(-1) for frame in container.decode(audio=0) for block in resampler.resample(frame)]
    return np.concatenate(blocks)[: _SECONDS * CAPTURE_RATE], words


def _plain(word: str) -> str:
    return re.sub(r"[^a-z0-9']", "", word.lower())


def _capture(client: Client, talk: tuple[np.ndarray, list[tuple[str, float]]], until: float = float(_SECONDS)) -> Outcome:
    """Send a talk second by second, as it would be spoken, and watch."""
    sound, words = talk
    key = str(uuid.uuid4())
    made = client.call(
        "POST", "/api/captures", {"id": key, "title": "bench", "started_at": datetime.now(UTC).isoformat(), "language": "en"}
    )
    meeting, at = made.json()["meeting"], f"/api/captures/{key}"
    client.call("PUT", f"{at}/stretches/0", {"tracks": ["room"], "begun_at": datetime.now(UTC).isoformat()})
    shown: dict[int, float] = {}
    most, chunks, began = 0.0, 0, time.monotonic()
    while (now := time.monotonic() - began) < until + 12:
        while chunks + 1 <= min(now, until):
            data = sound[chunks * CHUNK : (chunks + 1) * CHUNK].tobytes()
            stamp = f"sha-256=:{base64.b64encode(hashlib.sha256(data).digest()).decode()}:"
            client.call(
                "PUT", f"{at}/stretches/0/chunks/{chunks}", data, {"Content-Digest": stamp, "Content-Type": "application/octet-stream"}
            )
            chunks += 1
        live = client.call("GET", f"/api/meetings/{meeting}/live").json()
        now = time.monotonic() - began
        most = max(most, live["behind"])
        seen = [_plain(word) for line in live["lines"] for word in line["text"].split()]
        spoken = [word for word, end in words if end < now]
        for block in difflib.SequenceMatcher(None, spoken, seen, autojunk=False).get_matching_blocks():
            for index in range(block.a, block.a + block.size):
                shown.setdefault(index, now)
        time.sleep(_LOOK)
    client.call("POST", f"{at}/stretches/0/end", {"chunks": chunks, "reason": "stop"})
    client.call("POST", f"{at}/stop", {})
    said = [end for _, end in words if end < until]
    delays = [shown[index] - said[index] for index in range(len(said)) if index in shown]
    return Outcome(delays, len(delays) / max(1, len(said)), most)


def _windows(ear: Ear, sound: np.ndarray) -> None:
    """A hearing of the last ten seconds, in a window that ends soon after them and in the recogniser's whole window."""
    samples = np.asarray(sound[10 * CAPTURE_RATE : 20 * CAPTURE_RATE])
    frame = av.AudioFrame.from_ndarray(samples.reshape(1, -1), format="s16", layout="mono")
    frame.sample_rate = CAPTURE_RATE
    heard = np.concatenate([b.to_ndarray().reshape(-1) for b in av.AudioResampler(format="s16", layout="mono", rate=RATE).resample(frame)])
    short = _timed(lambda: ear.recogniser.quick(heard, "en"))
    whole = _timed(lambda: ear.recogniser.quick(np.concatenate([heard, np.zeros(28 * RATE - len(heard), np.int16)]), "en"))
    print(
        table(["ten seconds heard in", "s", "ratio"], [["the whole window", whole, 1.0], ["a short window", short, short / whole]]) + "\n"
    )


def _timed(work) -> float:
    work()
    took = []
    for _ in range(5):
        began = time.perf_counter()
        work()
        took.append(time.perf_counter() - began)
    return statistics.median(took)

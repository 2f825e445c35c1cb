"""The plain engine, faster-whisper with its defaults, in a process of its own and with the system's own memory and threads.

Paths go in, a line each; JSON goes out: `text`, `seconds` of work, `duration` of the sound, `language`, `megabytes` at most so far.
"""

from __future__ import annotations

import json
import os
import resource
import subprocess
import sys
import time
from dataclasses import dataclass
from pathlib import Path

from faster_whisper import WhisperModel

from core.hearing import WHISPER
from house.setting_up import KEEPING


@dataclass(frozen=True)
class PlainlyHeard:
    """What the plain engine made of a file."""

    text: str
    seconds: float
    duration: float
    language: str
    megabytes: int


class PlainEngine:
    """The process, seen from the bench."""

    def __init__(self):
        self._process = subprocess.Popen(
            [sys.executable, "-m", "bench.plain"],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            text=True,
            env={name: value for name, value in os.environ.items() if name not in KEEPING},
        )

    def hear(self, sound: Path, language: str | None = None) -> PlainlyHeard:
        """Transcribe a file; language: ISO 639-1, found out where it is None."""
        print(json.dumps([str(sound), language]), file=self._process.stdin, flush=True)
        return PlainlyHeard(**json.loads(self._process.stdout.readline()))


def _serve() -> None:
    folder = Path(os.environ["AFTERSHOWER_MODELS"]) / WHISPER
    engine = WhisperModel(str(folder), device="cpu", compute_type="int8", local_files_only=True)
    for line in sys.stdin:
        sound, language = json.loads(line)
        began = time.perf_counter()
        segments, facts = engine.transcribe(sound, language=language)
        text = " ".join(segment.text for segment in segments)
        seconds, most = time.perf_counter() - began, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
        print(json.dumps(vars(PlainlyHeard(text, seconds, facts.duration, facts.language, most))), flush=True)


if __name__ == "__main__":
    _serve()

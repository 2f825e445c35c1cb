"""Words and voices on the demo's sound, beside the plain engine (faster-whisper with its defaults)."""

from __future__ import annotations

import os
import resource
import string
import time
from pathlib import Path

import jiwer
import meeteval
from faster_whisper import WhisperModel
from pyannote.core import Annotation, Segment
from pyannote.metrics.diarization import DiarizationErrorRate

from bench.tables import table
from core.hearing import WHISPER, Ear

DEMO = Path(__file__).resolve().parent.parent / "demo" / "sound"
MODELS = Path(os.environ["AFTERSHOWER_MODELS"])


def plain_text(text: str) -> str:
    """Lower case, without punctuation: as error rates are counted."""
    return " ".join(text.lower().replace("-", " ").translate(str.maketrans("", "", string.punctuation)).split())


def run() -> None:
    """Print word, speaker-attributed and diarization error rates, and work per second of sound, of both."""
    ear, plain, rows = Ear(MODELS), WhisperModel(str(MODELS / WHISPER), device="cpu", compute_type="int8", local_files_only=True), []
    for path in sorted(DEMO.glob("*.opus")):
        script = [line.split("\t") for line in path.with_suffix(".reference.tsv").read_text(encoding="utf-8").splitlines()]
        said = plain_text(" ".join(row[3] for row in script))
        began = time.perf_counter()
        segments, info = plain.transcribe(str(path), language="en")
        words = plain_text(" ".join(segment.text for segment in segments))
        plain_rate = (time.perf_counter() - began) / info.duration
        heard = ear.hear(path, language="en")
        ours, by_voice, by_speaker, true, found = "", {}, {}, Annotation(), Annotation()
        for turn in heard.record.turns:
            ours += " " + turn.text
            by_voice[turn.speaker] = by_voice.get(turn.speaker, "") + " " + plain_text(turn.text)
            found[Segment(turn.start, turn.end), turn.id] = turn.speaker
        for index, (speaker, start, end, text) in enumerate(script):
            by_speaker[speaker] = by_speaker.get(speaker, "") + " " + plain_text(text)
            true[Segment(float(start), float(end)), index] = speaker
        rate = heard.timings["total"] / heard.record.duration
        rows.append(
            [
                path.stem,
                jiwer.wer(said, plain_text(ours)),
                jiwer.wer(said, words),
                float(meeteval.wer.cp_word_error_rate(by_speaker, by_voice).error_rate),
                float(DiarizationErrorRate(collar=0.5)(true, found)),
                rate,
                plain_rate,
                rate / plain_rate,
            ]
        )
    heads = ["sound", "WER", "plain WER", "cpWER", "DER", "s/s words and voices", "s/s plain, words alone", "ratio"]
    print(table(heads, rows))
    print(f"\npeak memory {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024**2:.2f} GB (both engines in one process)")

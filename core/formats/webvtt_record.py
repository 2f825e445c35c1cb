"""WebVTT (W3C) in and out; a voice span names the speaker."""

from __future__ import annotations

import io

import webvtt
from webvtt.errors import MalformedCaptionError, MalformedFileError

from core.formats.cues import check_timings, split_speaker
from core.problems import InputProblem
from core.record.assemble import turns_from_cues
from core.record.model import Record


def load(text: str, name: str) -> Record:
    """Read a transcript. Speakers come from voice spans, else from "Name: …", else "A". Raises InputProblem."""
    if not text.lstrip().startswith("WEBVTT"):
        raise InputProblem("not WebVTT: it does not begin with the word WEBVTT.")
    check_timings(text)
    try:
        captions = webvtt.from_buffer(io.StringIO(text), format="vtt").captions
    except (MalformedFileError, MalformedCaptionError) as error:
        raise InputProblem(f"not well-formed WebVTT: {error}.") from error
    cues, last = [], "A"
    for caption in captions:
        spoken = " ".join(caption.text.split())
        last, spoken = (caption.voice, spoken) if caption.voice else split_speaker(spoken, last)
        cues.append((last, _seconds(caption.start), _seconds(caption.end), spoken))
    turns = turns_from_cues(sorted(cues, key=lambda cue: cue[1]))
    return Record(id=name, turns=turns, duration=max((turn.end for turn in turns), default=0.0))


def _seconds(clock_text: str) -> float:
    hours, minutes, seconds = clock_text.split(":")
    return int(hours) * 3600 + int(minutes) * 60 + float(seconds)


def dump(record: Record) -> str:
    """The record as WebVTT: a cue a line, the speaker as its voice."""
    blocks = ["WEBVTT\n"]
    for turn in record.turns:
        speaker = turn.speaker.replace(">", " ").replace("\n", " ")
        for line in turn.lines:
            spoken = line.text.replace("&", "&amp;").replace("<", "&lt;").replace("-->", "→")
            blocks.append(f"{clock(line.start)} --> {clock(line.end)}\n<v {speaker}>{spoken}\n")
    return "\n".join(blocks)


def clock(seconds: float) -> str:
    """Seconds as 00:01:02.500."""
    milliseconds = round(seconds * 1000)
    return f"{milliseconds // 3_600_000:02}:{milliseconds // 60_000 % 60:02}:{milliseconds // 1000 % 60:02}.{milliseconds % 1000:03}"

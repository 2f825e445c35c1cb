"""SubRip (SRT) in and out; the speaker stands before a colon."""

from __future__ import annotations

from datetime import timedelta

import srt

from core.formats.cues import check_timings, split_speaker
from core.problems import InputProblem
from core.record.assemble import turns_from_cues
from core.record.model import Record


def load(text: str, name: str) -> Record:
    """Read a transcript; a passage without a speaker continues the last one's. Raises InputProblem."""
    check_timings(text)
    try:
        subtitles = sorted(srt.parse(text))
    except (srt.SRTParseError, ValueError) as error:
        raise InputProblem("not well-formed SRT: each passage needs a number, a line of times and its text.") from error
    cues, last = [], "A"
    for subtitle in subtitles:
        last, spoken = split_speaker(" ".join(subtitle.content.split()), last)
        cues.append((last, subtitle.start.total_seconds(), subtitle.end.total_seconds(), spoken))
    turns = turns_from_cues(cues)
    return Record(id=name, turns=turns, duration=max((turn.end for turn in turns), default=0.0))


def dump(record: Record) -> str:
    """The record as SRT: a passage a line, each with its speaker."""
    lines = [(turn.speaker, line) for turn in record.turns for line in turn.lines]
    return srt.compose(
        [
            srt.Subtitle(index, timedelta(seconds=line.start), timedelta(seconds=line.end), f"{speaker}: {line.text}")
            for index, (speaker, line) in enumerate(lines, start=1)
        ]
    )

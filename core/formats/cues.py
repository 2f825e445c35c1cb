"""What WebVTT and SRT share: timing lines, and speakers written before a colon."""

from __future__ import annotations

import re

from core.problems import InputProblem

_TIMING = re.compile(r"^\s*(?:(\d+):)?(\d{1,2}):(\d{1,2})[.,](\d{1,3})\s*-->\s*(?:(\d+):)?(\d{1,2}):(\d{1,2})[.,](\d{1,3})(?:\s.*)?$")
# "Name: text" with a name of one to four capitalised words.
_SPEAKER = re.compile(r"^((?:[^\W\d_][\w.'’-]*)(?: [^\W\d_][\w.'’-]*){0,3}):\s+(?=\S)")


def check_timings(text: str) -> None:
    """Raise InputProblem naming the first line whose times are broken or run backwards."""
    seen = False
    for number, line in enumerate(text.splitlines(), start=1):
        if "-->" not in line:
            continue
        seen = True
        match = _TIMING.match(line)
        if not match:
            raise InputProblem(
                f"the times in line {number} cannot be read: {line.strip()[:60]!r}. Write them as 00:01:02.500 --> 00:01:04.000."
            )
        h1, m1, s1, f1, h2, m2, s2, f2 = (int(part or 0) for part in match.groups())
        if (h2, m2, s2, f2) < (h1, m1, s1, f1):
            raise InputProblem(f"in line {number} a passage ends before it starts: {line.strip()[:60]!r}. Correct its times.")
    if not seen:
        raise InputProblem("no passages with times were found in it.")


def split_speaker(text: str, last: str) -> tuple[str, str]:
    """("Name", rest) where the text begins with a name and a colon, otherwise (last, text)."""
    match = _SPEAKER.match(text)
    return (match.group(1), text[match.end() :]) if match else (last, text)

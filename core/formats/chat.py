"""What people wrote into the chat of a meeting, as a text file: a time, a name, words; a line that has no time goes on where the last one ends."""

from __future__ import annotations

import re
from datetime import datetime

from core.problems import InputProblem
from core.text import one_line

_DAY = 86_400.0
_BEFORE, _AFTER = 600.0, 600.0
"""Seconds before its start and after its end at which something may have been written into a meeting's chat."""
_MOST = 5000
_LINE = re.compile(
    r"^\s*[\[(]?(?:\d{4}-\d\d-\d\d[T ])?(?P<h>\d{1,2}):(?P<m>[0-5]\d)(?::(?P<s>[0-5]\d)(?:[.,]\d+)?)?(?:\s?(?P<half>[ap])\.?m\.?)?[\])]?"
    r"[\s–—-]*(?P<name>[^:\t\n]{1,80}?)\s*(?::\s|\t)\s*(?P<text>\S.*)$",
    re.IGNORECASE,
)


def read_chat(text: str, started: datetime, duration: float) -> list[tuple[float, str, str]]:
    """Messages in order: second of the recording, who, what. started: when the recording began, on the clocks of where it was made.

    Times are taken for those of the recording where all of them lie within it, else for times of the day. Raises InputProblem.
    """
    found: list[tuple[float, str, list[str]]] = []
    for line in text.splitlines():
        if match := _LINE.match(line):
            if len(found) == _MOST:
                raise InputProblem(f"This chat has more than {_MOST} messages, which no meeting's has.")
            found.append((_seconds(match), one_line(match["name"])[:120], [match["text"].strip()]))
        elif found and line.strip():
            found[-1][2].append(line.strip())
    if not found:
        raise InputProblem("This is no chat: no line of it has a time, a name and words, such as “10:31 Maren: the drawing is number 88”.")
    zero = started.hour * 3600.0 + started.minute * 60.0 + started.second
    by_day = [(at - zero + _DAY / 2) % _DAY - _DAY / 2 for at, _, _ in found]
    within = all(at <= duration for at, _, _ in found) and not all(-_BEFORE <= at <= duration + _AFTER for at in by_day)
    seconds = [at for at, _, _ in found] if within else by_day
    placed = [(min(max(0.0, at), duration), name, "\n".join(words)) for at, (_, name, words) in zip(seconds, found, strict=True)]
    return sorted(placed, key=lambda one: one[0])


def _seconds(match: re.Match[str]) -> float:
    hour = int(match["h"])
    if match["half"]:
        hour = hour % 12 + (12 if match["half"].lower() == "p" else 0)
    return hour * 3600.0 + int(match["m"]) * 60.0 + int(match["s"] or 0)

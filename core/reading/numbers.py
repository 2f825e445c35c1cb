"""Numbers as they are said and as they are written: "three forty" in talk is 340 in minutes."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

_UNITS = dict(
    zip(
        "zero one two three four five six seven eight nine ten eleven twelve thirteen fourteen fifteen sixteen seventeen eighteen nineteen".split(),
        range(20),
        strict=True,
    )
)
_TENS = dict(zip("twenty thirty forty fifty sixty seventy eighty ninety".split(), range(20, 100, 10), strict=True))
_GREAT = {"hundred": 100, "thousand": 1000, "million": 1_000_000, "k": 1000, "grand": 1000}
_ORDINALS = dict(
    zip(
        "third fourth fifth sixth seventh eighth ninth tenth eleventh twelfth thirteenth fourteenth fifteenth sixteenth seventeenth eighteenth "
        "nineteenth".split(),
        range(3, 20),
        strict=True,
    )
) | {f"{ten[:-1]}ieth": value for ten, value in _TENS.items()}
_HALF = {"half": 0.5, "quarter": 0.25}
_COUNTED = {"dozen": 12, "couple": 2, "pair": 2, "both": 2, "twice": 2, "double": 2}
_SMALL = {**_UNITS, **_TENS, **_ORDINALS, "first": 1, "second": 2}
_SAID = {**_SMALL, **_GREAT, **_HALF}
_TOKEN = re.compile(r"\d[\d,]*(?:\.\d+)?|[a-z]+")
_CLOCK = re.compile(r"\b(\d{1,2})[.:](\d{2})\b")
_PAST = re.compile(rf"\b(half|quarter) (past |to )?({'|'.join(list(_UNITS)[1:13])}|\d{{1,2}})\b")
_POINT = re.compile(r"\b(\w+) point ((?:zero|oh|one|two|three|four|five|six|seven|eight|nine)\b(?: (?:zero|oh|one|two|three|four|five|six|seven|eight|nine)\b)*)")
_FILLING = {"and", "a"}


def numbers_in(text: str) -> set[float]:
    """Every number that a text can be said to name: of a run of number words each part of it, and the ways to read it. Times of the clock
    are hours times a hundred, and minutes."""
    plain = _decimals(text.lower())
    found = set(_times(plain))
    for run in _runs(plain):
        for first in range(len(run)):
            for end in range(first + 1, len(run) + 1):
                found |= _readings(run[first:end])
    return found | {value for word, value in _COUNTED.items() if re.search(rf"\b{word}\b", plain)}


def stated_in(text: str) -> set[float]:
    """The numbers that a text states: of each run of number words the whole. One and the first are words like others, and left out."""
    plain = _decimals(text.lower())
    stated = set(_times(plain))
    for run in _runs(_PAST.sub(" ", _CLOCK.sub(" ", plain))):
        readings = _readings(run)
        stated |= {max(readings)} if readings else {value for token in run for value in _readings([token])}
    return {value for value in stated if value > 1} - ({2.0} if re.search(r"\bsecond\b", plain) else set())


def _decimals(plain: str) -> str:
    """ "Seven point nine" as 7.9."""

    def figures(match: re.Match[str]) -> str:
        whole = _value(match[1]) if match[1][0].isdigit() or match[1] in _SMALL else None
        if whole is None:
            return match[0]
        return f"{whole:g}." + "".join(str(_UNITS.get(word, 0)) for word in match[2].split())

    return _POINT.sub(figures, plain)


def _times(plain: str) -> Iterator[float]:
    for hours, minutes in _CLOCK.findall(plain):
        yield float(int(hours) * 100 + int(minutes))
    for part, how, hour in _PAST.findall(plain):
        value, minutes = _UNITS.get(hour) or int(hour), 30 if part == "half" else 15
        yield float(value * 100 + minutes if how != "to " else (value - 1 or 12) * 100 + 60 - minutes)


def _runs(plain: str) -> Iterator[list[str]]:
    """Number words and figures that follow each other, with the "and" and "a" between them."""
    run: list[str] = []
    last = 0
    for match in _TOKEN.finditer(plain):
        token = match[0]
        number = token in _SAID or token[0].isdigit()
        if token in _HALF and run and run[-1] not in _FILLING:
            number = False  # "two half-term afternoons" are no two and a half
        apart = plain[last : match.start()].strip(" -£€$") != ""  # a comma or a full stop ends a run
        if run and (apart or not (number or token in _FILLING)):
            yield _trimmed(run)
            run = []
        if number or token == "a" or run and token in _FILLING:
            run.append(token)
        last = match.end()
    if run:
        yield _trimmed(run)


def _trimmed(run: list[str]) -> list[str]:
    while run and run[-1] in _FILLING:
        run = run[:-1]
    while run and run[0] in _FILLING and (len(run) == 1 or run[1] not in {**_GREAT, **_HALF}):
        run = run[1:]
    return run


def _value(token: str) -> float | None:
    return float(token.replace(",", "")) if token[0].isdigit() else _SMALL.get(token)


def _readings(run: Sequence[str]) -> set[float]:
    """The ways to read a run as one number; none where it is no number by itself."""
    words = [token for token in run if token not in _FILLING]
    if not words or run[-1] in _FILLING:
        return set()
    readings: set[float] = set()
    total = part = 0.0
    least = float("inf")  # of what was added last: what follows is smaller
    for token in words:
        value = _value(token)
        if token in _GREAT:
            part = (part or 1.0) * _GREAT[token]
            if _GREAT[token] > 100:
                total, part = total + part, 0.0
            least = _GREAT[token]
        elif token in _HALF:
            part += _HALF[token]
            least = 0.0
        elif value is None or value >= least or part and (value > 9 or part % 10) and least not in _GREAT.values():
            break
        else:
            part += value
            least = value if value < 20 or value % 10 else 10.0
    else:
        readings.add(total + part)
    values = [value for token in words if (value := _value(token)) is not None]
    if len(values) == len(words) == 2 and 0 < values[0] < 100 and 10 <= values[1] < 100:
        readings |= {values[0] * 100 + values[1], values[0] + values[1] / 100}  # "three forty", "two fifty"
    if len(words) == 3 and len(values) == 3 and 0 < values[0] < 100 and values[1] in _TENS.values() and values[2] < 10:
        readings.add(values[0] * 100 + values[1] + values[2])  # "three forty-five"
    return readings

"""The map of a talk, drawn: a path down the page, a stretch a chapter, with a bend wherever the talk came back to an earlier subject."""

from __future__ import annotations

import math
from collections.abc import Sequence
from pathlib import Path

from core.formats.drawing import Drawing, Stroke, Words, fitted
from core.minutes.markdown import clock
from core.minutes.talk_map import Stretch
from core.reading.base import Finding, first_name
from core.text import Put, as_written

PAGE = (462.0, 660.0)
"""Points of an A4 page between its margins, below a heading."""
_PATH, _BEND, _TEXT = 76.0, 54.0, 96.0
"""Where the path runs, where it runs along a bend, and where the words begin, from the left."""
_HEAD, _NEXT, _FOOT = 26.0, 16.0, 9.0
"""Height of a title with who carried it, of a finding, of what is free before the next stretch."""
_TURN = 20.0
"""How far a bend takes to come and to go."""
_REACH = 24.0
"""How far the line back to an earlier subject keeps off."""
_NAMES = {"decision": "settled", "action": "to do", "question": "left open"}
_COLOURS = {"decision": "lichen", "action": "clay", "question": "puddle"}


def draw_map(stretches: Sequence[Stretch], fonts: Path, width: float = PAGE[0], height: float | None = PAGE[1], put: Put = as_written) -> Drawing:
    """Draw it so wide. height: what it must not be higher than, at the price of findings; without it, all are named. put: what is said
    beside titles and sentences."""
    shown = _shown(stretches, height)
    heights = _heights(stretches, shown, height)
    tops = [14.0 + sum(heights[:place]) for place in range(len(stretches))]
    strokes: list[Stroke] = []
    words: list[Words] = []
    middle = {place: top + heights[place] / 2 for place, top in enumerate(tops)}
    for place, stretch in enumerate(stretches):
        x = _lane(stretch)
        if stretch.back_to is not None:
            strokes.append(_way_back(x, tops[place] + _TURN, middle[stretch.back_to], stretch.start))
        strokes += _way(stretch, tops[place], heights[place], x, place == len(stretches) - 1)
    for place, stretch in enumerate(stretches):
        top, room = tops[place], width - _TEXT
        words.append(Words(0, top + 9, clock(stretch.start), "sans", 9, "faded", stretch.start))
        words.append(Words(_TEXT, top + 9, fitted(stretch.title, "serif-bold", 11, room, fonts), "serif-bold", 11, "ink", stretch.start))
        under = _under(stretch, stretches, put)
        words.append(Words(_TEXT, top + 21, fitted(under, "sans", 8.5, room, fonts), "sans", 8.5, "faded", stretch.start))
        x = _lane(stretch)
        for finding in stretch.findings:
            y = _fell(stretch, finding, top, heights[place])
            strokes += [Stroke(_round(x, y, 3.4), "paper"), Stroke(_round(x, y, 2.6), _COLOURS[finding.kind], at=finding.start)]
        for row, finding in enumerate(shown[place]):
            y = top + _HEAD + _NEXT * (row + 1) - 5
            strokes += _sign(finding.kind, _TEXT + 5, y - 3.4, finding.start)
            text = fitted(finding.text, "serif", 9.5, room - 15, fonts)
            words.append(Words(_TEXT + 15, y, text, "serif", 9.5, "ink", finding.start))
    whole = 14.0 + sum(heights) + 8
    return Drawing(width, whole, tuple(strokes), tuple(words), _told(stretches, put))


def _shown(stretches: Sequence[Stretch], height: float | None) -> list[list[Finding]]:
    """What is named beneath each title: where room is short, decisions before actions before questions, the surest first."""
    everything = [(place, one) for place, stretch in enumerate(stretches) for one in stretch.findings]
    most = len(everything) if height is None else max(0, int((height - 22 - len(stretches) * (_HEAD + _FOOT)) / _NEXT))
    ranked = sorted(everything, key=lambda pair: (list(_NAMES).index(pair[1].kind), -pair[1].confidence))[:most]
    kept = {id(one) for _, one in ranked}
    return [[one for one in stretch.findings if id(one) in kept] for stretch in stretches]


def _heights(stretches: Sequence[Stretch], shown: Sequence[Sequence[Finding]], height: float | None) -> list[float]:
    """Each as high as its words need; what is left of the page goes to the long ones."""
    least = [_HEAD + _NEXT * len(findings) + _FOOT for findings in shown]
    whole = sum(stretch.end - stretch.start for stretch in stretches) or 1.0
    spare = 0.0 if height is None else max(0.0, height - 22 - sum(least))
    wanted = [max(0.0, (sum(least) + spare) * (stretch.end - stretch.start) / whole - low) for stretch, low in zip(stretches, least, strict=True)]
    scale = min(1.0, spare / sum(wanted)) if sum(wanted) and height is not None else 1.0
    return [low + scale * more for low, more in zip(least, wanted, strict=True)]


def _lane(stretch: Stretch) -> float:
    return _PATH if stretch.back_to is None else _BEND


def _under(stretch: Stretch, stretches: Sequence[Stretch], put: Put) -> str:
    minutes = max(1, round((stretch.end - stretch.start) / 60))
    said = [f"{minutes} min", *(f"{first_name(name)} {share:.0%}" for name, share in stretch.carried)]
    if stretch.back_to is not None:
        said.append(put("back to {title}").format(title=stretches[stretch.back_to].title))
    return " · ".join(said)


def _way(stretch: Stretch, top: float, height: float, x: float, last: bool) -> list[Stroke]:
    """The path through a stretch, out to its bend and back, and the sill it begins with."""
    end = top + height - (6 if last else 0)
    points = [(_PATH, top)]
    if x != _PATH:
        points += [(_PATH + (x - _PATH) * _ease(step / 8), top + _TURN * step / 8) for step in range(1, 9)]
        if last:
            points.append((x, end))
        else:
            points += [(x + (_PATH - x) * _ease(step / 8), end - _TURN + _TURN * step / 8) for step in range(9)]
    else:
        points.append((_PATH, end))
    sill = ((_PATH - 7, top), (_PATH + 7, top))
    return [Stroke(tuple(points), "rule", 9, at=stretch.start), Stroke(sill, "edge", 1.2)]


def _ease(share: float) -> float:
    return (1 - math.cos(math.pi * share)) / 2


def _way_back(x: float, y: float, there: float, at: float) -> Stroke:
    """From a bend to the stretch whose subject it is again."""
    begin, end = x - 6, _PATH - 6
    points = [
        (begin + (end - begin) * step / 24 - _REACH * math.sin(math.pi * step / 24), y + (there - y) * step / 24) for step in range(25)
    ]
    return Stroke(tuple(points), "edge", 0.9, dashed=True, at=at)


def _fell(stretch: Stretch, finding: Finding, top: float, height: float) -> float:
    share = (finding.start - stretch.start) / max(1e-9, stretch.end - stretch.start)
    first = 6 if stretch.back_to is None else _TURN
    return top + first + share * (height - 2 * first - 2)


def _round(x: float, y: float, radius: float) -> tuple[tuple[float, float], ...]:
    return tuple((x + radius * math.cos(angle / 8 * math.pi), y + radius * math.sin(angle / 8 * math.pi)) for angle in range(16))


def _sign(kind: str, x: float, y: float, at: float) -> list[Stroke]:
    """The signs of the interface: a settled stone, a drop, a ripple."""
    colour = _COLOURS[kind]
    turns = [2 * math.pi * step / 24 for step in range(25)]
    if kind == "decision":
        stone = tuple((x + 4.2 * math.cos(turn), y + (3.2 + 0.5 * math.sin(turn + 0.6)) * math.sin(turn)) for turn in turns)
        return [Stroke(stone, colour, at=at)]
    if kind == "action":
        drop = tuple((x + 3.4 * math.sin(turn) * math.sin(turn / 2) ** 1.5, y - 0.4 - 4.2 * math.cos(turn)) for turn in turns)
        return [Stroke(drop, colour, 1.1, at=at)]
    rings = [tuple((x + wide * math.cos(turn), y - 2 + deep * math.sin(turn)) for turn in turns[:13]) for wide, deep in ((2.6, 3), (4.6, 5.4))]
    return [Stroke(_oval(x, y - 2.2), colour, 1, at=at), *(Stroke(ring, colour, 1, at=at) for ring in rings)]


def _oval(x: float, y: float) -> tuple[tuple[float, float], ...]:
    return tuple((x + 1.3 * math.cos(step / 6 * math.pi), y + 0.6 * math.sin(step / 6 * math.pi)) for step in range(13))


def _told(stretches: Sequence[Stretch], put: Put) -> str:
    return " ".join(
        f"{clock(stretch.start)} {stretch.title} ({_under(stretch, stretches, put)})."
        + "".join(f" {put(_NAMES[one.kind]).capitalize()}: {one.text.rstrip('.')}." for one in stretch.findings)
        for stretch in stretches
    )

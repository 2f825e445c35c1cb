"""Minutes written anew: what people wrote, confirmed, moved or took out stands, where they put it; and what that changes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from core.minutes.write import MinutesLine

_KINDS = ("decision", "action", "question")


def merge(standing: Sequence[MinutesLine], drawn: Sequence[MinutesLine]) -> list[MinutesLine]:
    """People's lines from `standing`, each after as many lines of its section as stood before it, and `drawn` around them.

    A person's line stands for the drawn one it was: that one, wherever the template would have it, is left out.
    """
    kept = [line for line in standing if line.kept]
    drawn = [line for line in drawn if not any(_stands_for(own, line) for own in kept)]
    merged: list[MinutesLine] = []
    for section in dict.fromkeys(line.section for line in (*drawn, *standing)):
        lines = [line for line in drawn if line.section == section]
        for place, line in enumerate(line for line in standing if line.section == section):
            if line.kept:
                lines.insert(min(place, len(lines)), line)
        merged += lines
    return merged


def _stands_for(own: MinutesLine, drawn: MinutesLine) -> bool:
    """Is a person's line the one that is drawn again: of the same kind, or else in the same section, resting on the same lines?"""
    if not own.drawn or not own.said:
        return False
    shared = {said.index for said in own.said} & {said.index for said in drawn.said}
    if len(shared) * 2 <= max(len(own.said), len(drawn.said)):
        return False
    return _kind(own) == _kind(drawn)


def _kind(line: MinutesLine) -> str:
    return line.finding.kind if line.finding and line.finding.kind in _KINDS else line.section


@dataclass(frozen=True, slots=True)
class Change:
    """What differs between two states of minutes: `how` is "added", "gone", "reworded" or "moved"; `before` is empty for what is added."""

    how: str
    section: str
    text: str
    before: str = ""


def compare(before: Sequence[MinutesLine], after: Sequence[MinutesLine]) -> list[Change]:
    """What changes from one state to the other, in the order of what stands after, then what is gone."""
    left = list(before)
    changes: list[Change] = []
    rest: list[MinutesLine] = []
    for line in after:
        same = next((one for one in left if one.text == line.text and one.section == line.section), None)
        if same:
            left.remove(same)
        else:
            rest.append(line)
    for line in rest:
        moved = next((one for one in left if one.text == line.text), None)
        worded = moved or next(
            (
                one
                for one in left
                if one.section == line.section and one.said and {s.index for s in one.said} & {s.index for s in line.said}
            ),
            None,
        )
        if worded:
            left.remove(worded)
            changes.append(Change("moved" if moved else "reworded", line.section, line.text, worded.section if moved else worded.text))
        else:
            changes.append(Change("added", line.section, line.text))
    return changes + [Change("gone", line.section, line.text) for line in left]

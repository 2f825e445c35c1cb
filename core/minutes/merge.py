"""Minutes written anew: what people wrote stands, where they put it."""

from __future__ import annotations

from collections.abc import Sequence

from core.minutes.write import SECTIONS, MinutesLine


def merge(standing: Sequence[MinutesLine], drawn: Sequence[MinutesLine]) -> list[MinutesLine]:
    """Lines by hand from `standing`, each after as many lines of its section as stood before it, and `drawn` around them.

    A person who corrects a drawn line makes it theirs; the drawn line that rests on the same lines is then left out.
    """
    merged: list[MinutesLine] = []
    sections = list(dict.fromkeys([*SECTIONS, *(line.section for line in standing), *(line.section for line in drawn)]))
    for section in sections:
        before = [line for line in standing if line.section == section]
        taken = {line.said for line in before if line.hand and line.drawn and line.said}
        lines = [line for line in drawn if line.section == section and line.said not in taken]
        for place, line in enumerate(before):
            if line.hand:
                lines.insert(min(place, len(lines)), line)
        merged += lines
    return merged

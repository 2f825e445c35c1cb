"""An incident review: what happened, in the order of the clock; why; what was done about it and is to be done."""

from __future__ import annotations

import re
from collections.abc import Sequence

from core.reading.base import Said, table
from core.reading.owner import as_typed
from core.reading.passages.base import Detector, Passage, by_cues, told
from core.record.model import Record

CAUSES = table(
    r"because\b", r"the (?:cause|reason|trouble) (?:is|was)\b", r"(?:that's|which is) why\b", r"due to\b", r"root cause\b", r"(?:led|leads) to\b", r"so (?:it|the|nobody|they|that) (?:didn't|never|couldn't|wasn't|failed|froze|tripped|stopped)\b",
    r"(?:nobody|no one) (?:had|was|knew|checked|told|noticed|saw)\b", r"(?:wasn't|weren't|hadn't been|was never|were never) (?:set|checked|tested|replaced|told|connected|switched|charged|labelled|logged)\b", r"should have\b", r"forgot\b", r"assumed\b", r"if (?:we|i|somebody|they) had\b",
)  # fmt: skip
MEASURES = table(
    r"from now on\b", r"in future\b", r"next time\b", r"so that it (?:doesn't|can't|won't)\b", r"(?:we|i)(?:'ll| will| should| need to| have to) (?:check|test|put|fit|add|log|write|train|label|move|replace|set|change|keep|have|make|stop)\b",
    r"(?:we|i) (?:reset|restarted|switched|moved|closed|covered|drained|replaced|called|shut|turned|lit|carried|evacuated|stopped)\b", r"a (?:second|spare|new|proper|written) \w+", r"checklist\b", r"procedure\b", r"drill\b", r"alarm (?:to|on|for)\b",
)  # fmt: skip

_HOURS = {word: number for number, word in enumerate("twelve one two three four five six seven eight nine ten eleven".split())}
_MINUTES = {
    "five": 5, "ten": 10, "quarter": 15, "a quarter": 15, "twenty": 20, "twenty-five": 25, "half": 30,
    "oh five": 5, "fifteen": 15, "thirty": 30, "forty": 40, "forty-five": 45, "fifty": 50,
}  # fmt: skip
_HOUR = "|".join(sorted(_HOURS, key=len, reverse=True))
_MINUTE = "|".join(sorted(_MINUTES, key=len, reverse=True))
_DIGITS = re.compile(r"\b(?:at|by|around|about|until|till|from|before|after|since)? ?(\d{1,2})[:.](\d{2})\b(?! (?:percent|degrees|metres))")
_PAST = re.compile(rf"\b({_MINUTE}) past ({_HOUR})\b")
_TO = re.compile(rf"\b({_MINUTE}) to ({_HOUR})\b")
_SAID = re.compile(
    rf"\b(?:at|by|around|about|until|till|before|after|just after|since) ({_HOUR})(?: ({_MINUTE}))?(?: o'clock)?\b(?! (?:of|degrees|minutes|hours|people|percent|days|weeks))"
)
_LATE = re.compile(r"\b(?:evening|afternoon|pm|p\.m\.|at night|noon)\b")
_EARLY = re.compile(r"\b(?:in the morning|am|a\.m\.|this morning|dawn|before light)\b")
_THEN = table(
    r"(?:was|were|went|came|got|had|did|saw|heard|rang|called|stopped|started|tripped|fell|rose|dropped|found|told|noticed|turned|opened|closed|froze|failed|lost|took|left|put|switched|slows?|stops?|fails?|comes?)\b",
)  # fmt: skip


def clock_time(plain: str) -> int | None:
    """The time of day named in a text in lower case, in minutes from midnight: "ten past four", "4.10", "at nine fourteen" as far as told; None where there is none."""
    if found := _PAST.search(plain):
        minutes = 60 * _HOURS[found[2]] + _MINUTES[found[1]]
    elif found := _TO.search(plain):
        minutes = 60 * (_HOURS[found[2]] or 12) - _MINUTES[found[1]]
    elif (found := _DIGITS.search(plain)) and int(found[1]) < 24 and int(found[2]) < 60:
        minutes = 60 * int(found[1]) + int(found[2])
    elif found := _SAID.search(plain):
        minutes = 60 * _HOURS[found[1]] + _MINUTES.get(found[2] or "", 0)
    else:
        return None
    if minutes < 12 * 60 and _LATE.search(plain):
        minutes += 12 * 60
    return minutes


def _happened(lines: Sequence[Said], record: Record) -> list[Passage]:
    """What happened and when, in the order of the clock; from evening to morning the evening comes first."""
    timed = []
    for said in lines:
        plain = as_typed(said.text)
        at = clock_time(plain)
        if at is not None and not said.text.rstrip().endswith("?") and _THEN.search(plain) and len(plain.split()) >= 5:
            timed.append((at, Passage(told(said), (said,), 1 + len(plain.split()) / 40)))
    overnight = any(at >= 18 * 60 for at, _ in timed) and any(at < 9 * 60 for at, _ in timed)
    timed.sort(key=lambda one: one[0] - 24 * 60 if overnight and one[0] >= 12 * 60 else one[0])
    return [passage for _, passage in timed]


SUBJECTS: dict[str, Detector] = {
    "happened": _happened,
    "causes": by_cues(CAUSES, quote=False, asked=False),
    "measures": by_cues(MEASURES, quote=False, asked=False),
}

"""What kind of meeting it is, proposed from its title, from who is there and from the talk."""

from __future__ import annotations

import re
from collections.abc import Sequence

from core.reading.base import Said, table
from core.reading.owner import as_typed
from core.record.model import Record

TITLES: dict[str, re.Pattern[str]] = {
    "one_to_one": table(r"one[- ]to[- ]one", r"1[: -]1", r"1on1", r"appraisal", r"catch[- ]?up with"),
    "interview": table(r"interview", r"candidate", r"applicant"),
    "incident": table(r"incident", r"post[- ]?mortem", r"after[- ]action", r"outage", r"night review", r"near miss", r"what happened"),
    "retrospective": table(r"retro", r"look(?:ing)? back", r"lessons learn", r"debrief", r"wash[- ]?up"),
    "board": table(r"board", r"trustees", r"governors", r"committee", r"general meeting", r"agm"),
    "brainstorm": table(r"brainstorm", r"ideas?\b", r"workshop"),
    "handover": table(r"handover", r"hand[- ]?over", r"shift change"),
    "planning": table(r"planning", r"plan\b", r"kick[- ]?off", r"preparations?"),
    "supplier": table(r"supplier", r"contractor", r"client", r"customer", r"vendor", r"call with", r"\w+ calls?\b"),
    "status": table(r"status", r"stand[- ]?up", r"weekly", r"works meeting", r"team meeting", r"round[- ]?up", r"progress"),
}
"""Words of a title that say the kind, tried in order."""

TALK: dict[str, re.Pattern[str]] = {
    "one_to_one": table(
        r"how are you\b",
        r"how(?:'s| is) (?:it|the work|home|the team)\b",
        r"between us\b",
        r"your (?:holiday|hours|pay|course|role|week)\b",
        r"you (?:seem|look|sound)\b",
        r"appraisal\b",
        r"proud\b",
        r"i(?:'m| am) tired\b",
    ),
    "interview": table(
        r"(?:find|found) us\b",
        r"tell (?:us|me) (?:about|a bit)\b",
        r"why (?:do you want|this|did you leave)\b",
        r"your (?:cv|application|notice|experience|references?)\b",
        r"any questions for us\b",
        r"notice period\b",
        r"let you know\b",
        r"when could you start\b",
    ),
    "incident": table(
        r"nobody(?:'s| is) in trouble\b",
        r"(?:isn't|not) (?:a |about )?(?:disciplinary|blame)\b",
        r"(?:this is the )?review of\b",
        r"what happened\b",
        r"from the top\b",
        r"timeline\b",
        r"alarm\b",
        r"at (?:\w+ past|\w+ to|nine|ten|eleven|twelve|one|two|three|four|five|six) \w+teen\b",
        r"so that it doesn't\b",
        r"root cause\b",
        r"outage\b",
    ),
    "retrospective": table(
        r"(?:what )?went well\b",
        r"good thing\b",
        r"next (?:time|year)\b",
        r"(?:the )?worst\b",
        r"stickers?\b",
        r"columns?\b",
        r"what (?:would|should) we (?:do|change)\b",
        r"looking back\b",
        r"(?:last|this) time round\b",
        r"kind to each other\b",
    ),
    "board": table(
        r"quor(?:um|ate)\b",
        r"motion\b",
        r"(?:i second|seconded)\b",
        r"all in favour\b",
        r"minutes of (?:the|our)\b",
        r"apologies\b",
        r"matters arising\b",
        r"(?:madam |mr )?chair(?:man|woman)?\b",
        r"item (?:one|two|three|four|five|six|\d)\b",
        r"carried\b",
        r"abstain\w*\b",
        r"order, please\b",
    ),
    "brainstorm": table(
        r"no bad (?:ideas|ones)\b",
        r"what if\b",
        r"(?<!no )ideas?\b",
        r"imagine\b",
        r"wild\b",
        r"on the (?:wall|board)\b",
        r"marker\b",
        r"(?:i )?love that\b",
        r"or (?:maybe|what)\b",
        r"yes, and\b",
    ),
    "handover": table(
        r"hand(?:ing)? ?over\b",
        r"(?:my|your) shift\b",
        r"night shift\b",
        r"overnight\b",
        r"beds?\b",
        r"keys?\b",
        r"keep an eye\b",
        r"watch (?:out|the|for)\b",
        r"(?:it's|they're|that's) all yours\b",
        r"anything else i\b",
        r"before i go\b",
        r"if it (?:trips|stops|does|goes)\b",
        r"one's\b",
    ),
    "planning": table(
        r"\w+ weeks (?:from|to go|out|on|today)\b",
        r"the (?:day|week) before\b",
        r"on the day\b",
        r"how many (?:people|chairs|of us|do we)\b",
        r"who(?:'s| is) (?:doing|bringing|on)\b",
        r"volunteers?\b",
        r"budget\b",
        r"permit\b",
        r"book(?:ed|ing)? the\b",
        r"last year\b",
        r"(?:set|pack) up\b",
        r"rota\b",
    ),
    "supplier": table(
        r"thanks? (?:you )?for (?:having|coming|making)\b",
        r"(?:your|our) (?:quote|offer|price|order|contract|invoice|engineer|account|terms|system|lads|driver)\b",
        r"lead time\b",
        r"warranty\b",
        r"deliver(?:y|ies|ed)?\b",
        r"discount\b",
        r"we(?:'d| would) need from you\b",
        r"from our side\b",
        r"your side\b",
        r"per (?:unit|month|week|day|visit)\b",
        r"somebody else as well\b",
    ),
    "status": table(
        r"(?:quick|short) (?:round|one)\b",
        r"where are we\b",
        r"this week\b",
        r"last week\b",
        r"update\b",
        r"still waiting\b",
        r"on (?:track|schedule)\b",
        r"numbers\b",
        r"who(?:'s| is) (?:not )?here\b",
        r"fifteen minutes\b",
        r"that's me\b",
        r"who(?:'s| is) next\b",
        r"release\b",
    ),
}
"""What is said in a meeting of each kind, and hardly in another."""

_LEAST, _AHEAD = 2.0, 1.3
"""The least weight of what is said, and how much more than of the kind next to it, from which the kind is proposed."""


def propose_kind(title: str, record: Record, lines: Sequence[Said]) -> str | None:
    """The name of the template that fits, or None where nothing says so clearly."""
    named = next((kind for kind, pattern in TITLES.items() if pattern.search(as_typed(title))), None)
    if named:
        return named
    weights = weigh(record, lines)
    best, second = sorted(weights, key=lambda kind: -weights[kind])[:2]
    return best if weights[best] >= _LEAST and weights[best] >= _AHEAD * weights[second] else None


def weigh(record: Record, lines: Sequence[Said]) -> dict[str, float]:
    """How much speaks for each kind: different things said, each by how much of the talk says it, and who is there."""
    weights = {}
    opening = {said.turn for said in lines[:12]}
    for kind, pattern in TALK.items():
        said_of_kind: dict[str, float] = {}
        for said in lines:
            for match in pattern.finditer(as_typed(said.text)):
                # What is said as people sit down says most of why they are there.
                said_of_kind[match.group()] = said_of_kind.get(match.group(), 0.0) + (1.5 if said.turn in opening else 0.5)
        # One saying alone may be chance.
        weights[kind] = sum(min(2.0, weight) for weight in said_of_kind.values()) * (0.5 if len(said_of_kind) == 1 else 1.0)
    roles = " ".join(one.role.lower() for one in record.participants)
    if "candidate" in roles:
        weights["interview"] += 8
    if "(" in roles or re.search(r"\b(?:supplier|contractor|client|customer|sales|account manager|hire)\b", roles):
        weights["supplier"] += 2
    if re.search(r"\b(?:trustee|governor|president|chair\b)", roles):
        weights["board"] += 2
    if len(record.speakers) == 2:
        weights["one_to_one"] = 2 * weights["one_to_one"] + 1
    else:
        weights["one_to_one"] *= 0.3
    return weights

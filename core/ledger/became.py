"""What became of a matter that a meeting comes back to."""

from __future__ import annotations

import re
from collections.abc import Sequence

import numpy as np

from core.ledger.matter import Open, StepKind
from core.reading.encoder import LABELS
from core.record.model import Turn

LATER = (StepKind.DONE, StepKind.CARRIED, StepKind.CHANGED, StepKind.DROPPED)
"""What a later meeting may do; the columns of the weights."""
OF_DECISIONS = (StepKind.CARRIED, StepKind.CHANGED)
_SHORT_QUESTION = 14

_CUES = {
    "not yet": (
        r"\b(?:not yet|haven't|hasn't|isn't|aren't|didn't|not been|never got|never went|no news|nobody|nothing|not a word|still|waiting|half|third|"
        r"behind|supposed|not started|not done|only)\b|,? not\."
    ),
    "holds": r"\b(?:still|stays?|holds|same|as agreed|we said|i said|been through)\b",
    "reports": (
        r"\b(?:i|i've|we|we've|he's|she's|they've|they're|he|she|they) (?:just |finally |have |has |only )?(?:did|done|sent|rang|rung|called|got|told|asked|"
        r"spoke|spoken|saw|seen|went|wrote|written|booked|ordered|found|made|put|took|taken|had|bought|paid|fixed|finished|tried|tested|met|\w+ed)\b"
    ),
    "is there": (
        r"\b(?:it's|that's|they're|he's|she's|it is|is) (?:all )?(?:done|in|up|out|gone|off|on|there|here|sent|booked|ordered|finished|ready|fixed|paid|ours|"
        r"signed|arrived)\b|\b(?:came|has come|in the end|finally|since|all (?:in|done|of))\b"
    ),
    "past day": r"\b(?:that|on the|on|last) (?:monday|tuesday|wednesday|thursday|friday|saturday|sunday|week|night)\b|\byesterday\b|\bago\b",
    "gives up": (
        r"\b(?:forget|drop(?:ped)?|bin|binned|don't (?:need|have to|bother|buy|pour|do)|no longer|needn't|any more|cancel|can stop|scrap|no point|"
        r"let them go|then (?:i don't|you don't|we don't|the)|keep the|not (?:wanted|needed))\b"
    ),
    "ahead": r"\b(?:i'll|we'll|you'll|shall|will|going to|by (?:the|monday|tuesday|wednesday|thursday|friday|next)|until|till|give me|next week|tomorrow|then)\b",
    "takes over": (
        r"\b(?:give (?:it|them|us|me)|i'll (?:do|take|have|get|pick|dig)|hand it|over (?:to|from)|instead|rather|sooner|in (?:my|your|his|her) place|"
        r"take (?:it|that|them)|you have (?:it|them))\b"
    ),
    "asks": r"\?",
    "number": r"\d|\b(?:one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|twenty|thirty|forty|fifty|hundred)\b",
    "opens": r"^(?:no|nope|ah|oh|um|well)\b",
    "pleased": r"\b(?:beautiful|lovely|beauty|nice|great|happy)\b",
}
_PATTERNS = {name: re.compile(cue) for name, cue in _CUES.items()}
_AFTER = ("not yet", "ahead", "takes over", "gives up")
"""Cues that count in the next turn too."""


def is_short_question(plain: str) -> bool:
    """Does it ask, and say little of its own?"""
    return "?" in plain and len(plain.split()) < _SHORT_QUESTION


def became(
    matter: Open, turns: Sequence[Turn], plain: Sequence[str], place: int, likely: np.ndarray, weights: dict[str, list[float]]
) -> dict[StepKind, float]:
    """How likely each of LATER is, by what is said at a place and after it: multinomial logistic regression; of decisions there are two
    outcomes alone. plain: the turns in lower case; likely: see core.reading.encoder; weights: by the names of `signs`."""
    may_be = OF_DECISIONS if matter.kind == "decision" else LATER
    logits = np.sum([np.array(weights[name]) * value for name, value in signs(matter, turns, plain, place, likely).items()], axis=0)
    parts = {kind: float(np.exp(logits[LATER.index(kind)])) for kind in may_be}
    return {kind: part / sum(parts.values()) for kind, part in parts.items()}


def signs(matter: Open, turns: Sequence[Turn], plain: Sequence[str], place: int, likely: np.ndarray) -> dict[str, float]:
    """What speaks for the one or the other, by name."""
    after = plain[place + 1] if place + 1 < len(plain) else ""
    asks = is_short_question(plain[place])
    said = f"{plain[place]} {after}" if asks else plain[place]
    settles = likely[max(0, place - 1) : place + 4]
    return {
        "at all": 1.0,
        **{name: float(bool(pattern.search(said))) for name, pattern in _PATTERNS.items()},
        **{f"after: {name}": float(bool(_PATTERNS[name].search(after))) for name in _AFTER},
        "asked before": float(place > 0 and "?" in plain[place - 1]),
        "short question": float(asks),
        "decision": float(matter.kind == "decision"),
        "long ago": float(matter.since > 1),
        "owner speaks": float(turns[place].speaker == matter.owner),
        **{f"likely {name}": float(settles[:, LABELS.index(name)].max()) for name in ("action", "decision", "settled")},
    }

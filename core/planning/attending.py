"""The clerk at a call: where it stands, what may happen next, and the words for it.

Sound is taken on the record and nowhere else. From an end there is no way back: who was turned away or shown out takes no second of sound after
it, whatever happens.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from enum import StrEnum


class Standing(StrEnum):
    """Where it stands."""

    EXPECTED = "expected"
    KNOCKING = "knocking"
    WAITING = "waiting"
    ON = "on"
    OFF = "off"
    LEFT = "left"
    TURNED_AWAY = "turned_away"
    REMOVED = "removed"
    FAILED = "failed"


ENDS = frozenset({Standing.LEFT, Standing.TURNED_AWAY, Standing.REMOVED, Standing.FAILED})
INSIDE = frozenset({Standing.WAITING, Standing.ON, Standing.OFF})
"""In the call."""


class Cause(StrEnum):
    """What happens to it."""

    DUE = "due"
    ADMITTED = "admitted"
    SOMEBODY = "somebody"
    PAUSED = "paused"
    DISAGREED = "disagreed"
    RESUMED = "resumed"
    LOST = "lost"
    TAKEN_OVER = "taken_over"
    ALONE = "alone"
    ENDED = "ended"
    SENT_AWAY = "sent_away"
    LONG_ENOUGH = "long_enough"
    NOT_WANTED = "not_wanted"
    NOT_ALLOWED = "not_allowed"
    REFUSED = "refused"
    NOT_OPENED = "not_opened"
    REMOVED = "removed"
    WRONG_PASSCODE = "wrong_passcode"
    NO_ROOM = "no_room"
    FULL = "full"
    OUT_OF_REACH = "out_of_reach"
    BROKEN = "broken"


WORDS: Mapping[Cause, str] = {
    Cause.DUE: "knocks",
    Cause.ADMITTED: "was let in, says who it is, and waits until somebody is there",
    Cause.SOMEBODY: "is on the record",
    Cause.PAUSED: "is off the record, because {who} asked for it",
    Cause.DISAGREED: "is off the record, because {who} does not agree",
    Cause.RESUMED: "is to go on, because {who} asked for it",
    Cause.LOST: "has lost the conference, and knocks again",
    Cause.TAKEN_OVER: "knocks again: the machine it ran on had stopped",
    Cause.ALONE: "left, because nobody else was there any more",
    Cause.ENDED: "left, because the call was over",
    Cause.SENT_AWAY: "left, because {who} sent it away",
    Cause.LONG_ENOUGH: "left, because it was not to stay longer",
    Cause.NOT_WANTED: "left, because {who} does not agree",
    Cause.NOT_ALLOWED: "left: {who}",
    Cause.REFUSED: "was not let in",
    Cause.NOT_OPENED: "went, because nobody opened",
    Cause.REMOVED: "was shown out",
    Cause.WRONG_PASSCODE: "could not get in: the passcode is not right. Send it again with the right one",
    Cause.NO_ROOM: "could not get in: that link leads to no call. Check the link and send it again",
    Cause.FULL: "could not get in: the call is full",
    Cause.OUT_OF_REACH: "could not get in: the conference does not answer",
    Cause.BROKEN: "had to give up after a fault of its own, which is written into its log",
}
"""What is told of it, after "the clerk"."""

_MANY = frozenset({Standing.KNOCKING, *INSIDE})
_NEXT: Mapping[Cause, tuple[frozenset[Standing], Standing]] = {
    Cause.DUE: (frozenset({Standing.EXPECTED}), Standing.KNOCKING),
    Cause.ADMITTED: (frozenset({Standing.KNOCKING}), Standing.WAITING),
    Cause.SOMEBODY: (frozenset({Standing.WAITING}), Standing.ON),
    Cause.PAUSED: (frozenset({Standing.WAITING, Standing.ON}), Standing.OFF),
    Cause.DISAGREED: (frozenset({Standing.WAITING, Standing.ON}), Standing.OFF),
    Cause.RESUMED: (frozenset({Standing.OFF}), Standing.WAITING),
    Cause.LOST: (INSIDE, Standing.KNOCKING),
    Cause.TAKEN_OVER: (_MANY, Standing.KNOCKING),
    Cause.ALONE: (INSIDE, Standing.LEFT),
    Cause.ENDED: (_MANY, Standing.LEFT),
    Cause.SENT_AWAY: (frozenset({Standing.EXPECTED, *_MANY}), Standing.LEFT),
    Cause.LONG_ENOUGH: (_MANY, Standing.LEFT),
    Cause.NOT_WANTED: (INSIDE, Standing.LEFT),
    Cause.NOT_ALLOWED: (_MANY, Standing.LEFT),
    Cause.REFUSED: (frozenset({Standing.KNOCKING}), Standing.TURNED_AWAY),
    Cause.NOT_OPENED: (frozenset({Standing.KNOCKING}), Standing.TURNED_AWAY),
    Cause.REMOVED: (INSIDE, Standing.REMOVED),
    Cause.WRONG_PASSCODE: (frozenset({Standing.KNOCKING}), Standing.FAILED),
    Cause.NO_ROOM: (frozenset({Standing.KNOCKING}), Standing.FAILED),
    Cause.FULL: (frozenset({Standing.KNOCKING}), Standing.FAILED),
    Cause.OUT_OF_REACH: (frozenset({Standing.KNOCKING}), Standing.FAILED),
    Cause.BROKEN: (frozenset({Standing.EXPECTED, *_MANY}), Standing.FAILED),
}


def after(state: Standing, cause: Cause) -> Standing | None:
    """Where it stands after something has happened; None where that cannot happen to it there, so that it stays."""
    before, then = _NEXT[cause]
    return then if state in before else None


_NO = frozenset(
    "no|no thanks|no thank you|i do not agree|i don't agree|i disagree|i do not consent|i don't consent|do not record|don't record|please don't|"
    "please do not|no record|not me|nein|ich bin nicht einverstanden|nicht einverstanden|no estoy de acuerdo|no acepto|non|je ne suis pas d'accord|"
    "não|não concordo|non sono d'accordo|nee".split("|")
)
_YES = frozenset("yes|yes please|i agree|agreed|ok|okay|fine|fine by me|sure|ja|einverstanden|sí|si|de acuerdo|oui|d'accord|sim|va bene".split("|"))


def answer_in(text: str) -> bool | None:
    """What a message in the chat answers to the notice, where it answers it and says nothing else; None where it does not."""
    said = re.sub(r"[^\w' ]", "", text.replace("’", "'")).strip().lower()
    return True if said in _YES else False if said in _NO else None

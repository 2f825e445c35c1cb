"""Who and by when, as the sentence of an action says it: so that what stands beside the sentence never says otherwise."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import date

from core.minutes.write import Agreed
from core.reading.base import first_name
from core.reading.due import find_due
from core.text import folded

_HEAD = re.compile(r"^(?P<name>[^,:;.]{1,60}?)(?P<link>:| (?:to|will|is to|has to|must|should)\b)")


NOTHING = Agreed()


def agreed_in(text: str, people: Sequence[str], day: date) -> Agreed:
    """What a sentence of minutes says of it: the owner is named first, "Tomas to send …" or "Tomas: send …"; a date where one is named.

    people: names of those it may be, full ones. day: the meeting's.
    """
    head = _HEAD.match(text)
    return Agreed(_who(head["name"], people) if head else None, find_due(text, day))


def whom(there: Sequence[str], owner: str | None) -> Sequence[str]:
    """Whom an action's sentence may name: those who were there, and whose it is."""
    return [*there, owner] if owner and owner not in there else there


def _who(named: str, people: Sequence[str]) -> str | None:
    """The one person who is called so, by full or first name."""
    key = folded(named)
    whole = [name for name in people if folded(name) == key]
    called = whole or [name for name in people if folded(first_name(name)) == key]
    return called[0] if len(called) == 1 else None


def for_another(text: str, people: Sequence[str], owner: str | None) -> str:
    """The sentence with another owner named first, where it names one of `people` there; else as it is. owner: None for nobody."""
    head = _HEAD.match(text)
    if head is None or _who(head["name"], people) is None:
        return text
    rest = text[head.end() :].strip()
    if owner is None:
        return rest[:1].upper() + rest[1:]
    named = first_name(owner) if folded(head["name"]) != folded(_who(head["name"], people) or "") else owner
    return f"{named}{head['link']} {rest}"

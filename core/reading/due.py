"""When something is due: what is said, resolved against the meeting's own date."""

from __future__ import annotations

import calendar
import re
from collections.abc import Callable, Sequence
from datetime import date, timedelta

WEEKDAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
MONTHS = ("january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november", "december")
ORDINALS = {
    word: number
    for number, word in enumerate(
        "first second third fourth fifth sixth seventh eighth ninth tenth eleventh twelfth thirteenth fourteenth fifteenth sixteenth "
        "seventeenth eighteenth nineteenth twentieth twenty-first twenty-second twenty-third twenty-fourth twenty-fifth twenty-sixth "
        "twenty-seventh twenty-eighth twenty-ninth thirtieth thirty-first".split(),
        start=1,
    )
}
NUMBERS = {"a": 1, "one": 1, "two": 2, "a couple of": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8, "ten": 10}

_WEEKDAY = "|".join(WEEKDAYS)
_MONTH = "|".join(MONTHS)
_ORDINAL = "|".join(sorted(ORDINALS, key=len, reverse=True)) + r"|\d{1,2}(?:st|nd|rd|th)"
# A number that high hardly counts anything but days when "the" stands before it.
_HIGH_ORDINAL = (
    "|".join(sorted((word for word, number in ORDINALS.items() if number > 12), key=len, reverse=True)) + r"|\d{2}(?:st|nd|rd|th)"
)
_NUMBER = "|".join(sorted(NUMBERS, key=len, reverse=True)) + r"|\d{1,2}"


def _friday(day: date) -> date:
    return day + timedelta(days=(4 - day.weekday()) % 7)


def _weekday(match: re.Match[str], day: date) -> date:
    ahead = (WEEKDAYS.index(match["weekday"]) - day.weekday()) % 7 or 7
    return day + timedelta(days=ahead)


def _next_weekday(match: re.Match[str], day: date) -> date:
    monday = day + timedelta(days=7 - day.weekday())
    return monday + timedelta(days=WEEKDAYS.index(match["weekday"]))


def _month_end(day: date, ahead: int = 0) -> date:
    year, month = day.year + (day.month - 1 + ahead) // 12, (day.month - 1 + ahead) % 12 + 1
    return date(year, month, calendar.monthrange(year, month)[1])


def _day_of_month(match: re.Match[str], day: date) -> date | None:
    said = match["ordinal"]
    number = ORDINALS.get(said) or int(re.sub(r"\D", "", said))
    wanted = match.groupdict().get("month")
    for ahead in range(13):
        year, month = day.year + (day.month - 1 + ahead) // 12, (day.month - 1 + ahead) % 12 + 1
        if wanted and MONTHS[month - 1] != wanted or number > calendar.monthrange(year, month)[1]:
            continue
        if (found := date(year, month, number)) > day:
            return found
    return None


def _month_named(match: re.Match[str], day: date) -> date:
    return _month_end(day, (MONTHS.index(match["month"]) + 1 - day.month) % 12)


def _counted(match: re.Match[str]) -> int:
    said = match["number"]
    return NUMBERS.get(said) or int(said)


# What is said → when that is, tried in order: the more exact before the less.
RULES: list[tuple[str, Callable[[re.Match[str], date], date | None]]] = [
    (rf"(?:the )?(?P<ordinal>{_ORDINAL})(?: of)? (?P<month>{_MONTH})\b", _day_of_month),
    (rf"(?P<month>{_MONTH}) (?:the )?(?P<ordinal>{_ORDINAL}|\d{{1,2}})\b", _day_of_month),
    (rf"next (?P<weekday>{_WEEKDAY})\b", _next_weekday),
    (rf"(?P<weekday>{_WEEKDAY}) week\b", lambda m, day: _weekday(m, day) + timedelta(days=7)),
    (r"day after tomorrow", lambda m, day: day + timedelta(days=2)),
    (r"(?:a )?week today|today week", lambda m, day: day + timedelta(days=7)),
    (rf"end of (?P<month>{_MONTH})\b", _month_named),
    (r"tomorrow", lambda m, day: day + timedelta(days=1)),
    (r"end of (?:the )?next week|next week", lambda m, day: _friday(day + timedelta(days=7 - day.weekday()))),
    (rf"(?P<weekday>{_WEEKDAY})\b(?!s)", _weekday),
    (r"end of (?:the|this) month|month[- ]end|(?:before )?(?:the|this) month(?:'s| is) out", lambda m, day: _month_end(day)),
    (r"end of next month|next month", lambda m, day: _month_end(day, 1)),
    (r"end of (?:the|this) week|this week|before the weekend|by the weekend|the week's (?:out|over)", lambda m, day: _friday(day)),
    (rf"(?:in|say|give (?:me|it)|it'll be) (?P<number>{_NUMBER}) weeks?", lambda m, day: day + timedelta(days=7 * _counted(m))),
    (rf"in (?P<number>{_NUMBER}) days?", lambda m, day: day + timedelta(days=_counted(m))),
    (rf"\b(?:by|before|on|until|till|for|than|say|it's|be) the (?P<ordinal>{_ORDINAL})\b", _day_of_month),
    (rf"\bthe (?P<ordinal>{_HIGH_ORDINAL})\b(?! (?:floor|time|century|of))", _day_of_month),
    (rf"^(?P<ordinal>{_HIGH_ORDINAL})\b", _day_of_month),
    (r"(?<!this )(?<!tomorrow )(?:in the morning|first thing)(?! today)", lambda m, day: day + timedelta(days=1)),
    (
        r"today|tonight|this (?:morning|afternoon|evening)|end of (?:the )?day|by close of play|before (?:i|you|anybody|anyone) (?:go|goes|leave|leaves)\b(?! near)|by noon|(?:by|at|before) lunch(?:time)?\b|soon as i(?:'m| am) (?:off|out|back)",
        lambda m, day: day,
    ),
]
_COMPILED = [(re.compile(rf"\b(?:{pattern})"), when) for pattern, when in RULES]

# A date that says when something happened or happens, or when not, and not when it is due.
_PAST = re.compile(
    rf"\b(?:last|since|until now|every|each) (?:{_WEEKDAY}|week|month)|\b(?:{_WEEKDAY})s\b|yesterday|"
    rf"\bnot (?:on |by |this |before )?(?:{_WEEKDAY}|today|tomorrow|tonight)\b|\b(?:{_WEEKDAY})(?:'s| is) (?:not|no good|too)\b|"
    rf"\bdon't \w+ (?:it |them )?(?:until|till|before) (?:{_WEEKDAY}|today|tomorrow)|\bwhy wait for \w+|"
    # How long something lasts: "closed until Monday", "on loan till the end of February".
    r"\b(?:away|off|out|on (?:loan|hire|leave|holiday)|closed|shut|open|booked|hired|rented|lent|paid|valid|good|free|stay\w*|last\w*|runs?|holds?|kept|keep it)"
    rf"(?: \w+)? (?:until|till|through) (?:the )?(?:(?:next |end of (?:the )?)?(?:{_WEEKDAY}|{_MONTH}|week|month|year)|tomorrow|tonight|{_ORDINAL})(?: of (?:{_MONTH}))?"
)


def days_named(text: str, day: date) -> list[date]:
    """Every day to come that is named in a text of a meeting held on `day`, in order."""
    plain = _PAST.sub(" ", text.lower().replace("’", "'"))
    taken: list[tuple[int, int, date]] = []
    for pattern, when in _COMPILED:
        for match in pattern.finditer(plain):
            if all(match.end() <= start or match.start() >= end for start, end, _ in taken) and (found := when(match, day)):
                taken.append((match.start(), match.end(), found))
    return [when for _, _, when in sorted(taken)]


_NO = re.compile(r"\b(?:no|not|sorry|actually|instead|make it|rather|say)\b")


def find_due(text: str, day: date) -> date | None:
    """The due date named in a text of a meeting held on `day`, or None. Of several the last one stands."""
    return next(reversed(days_named(text, day)), None)


def due_of(texts: Sequence[str], day: date) -> tuple[date | None, int]:
    """The due date of what is agreed in several texts, one a turn, and the index of the text that says it last.

    The last one named stands; but where a later text says an earlier one's date again, that one is agreed, whatever else it names.
    """
    agreed: date | None = None
    at = -1
    for index, text in enumerate(texts):
        named = days_named(text, day)
        if named:
            at = index
            if agreed not in named or _NO.search(text.lower()):
                agreed = named[-1]
    return agreed, at

"""Actions: a commitment of one's own, a request that is taken up, an assignment that is not refused."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import date

from core.reading.base import Finding, Said, clause, first_name, table
from core.reading.due import find_due
from core.record.model import Record

COMMITS = re.compile(
    r"\b(?:i'll|i will|i'm going to|i am going to|i can|let me|i'm getting|you'll have|i've got to|i need to) (?P<rest>[a-z].*)"
)
REQUESTS = re.compile(
    r"\b(?:can|could|would|will) you (?:please |just |also |then )*(?P<rest>[a-z].*)|\b(?:please|i'd like you to|i need you to|you could|"
    r"if you could|would you be able to) (?P<rest2>[a-z].*)"
)
# Tells somebody to, by name: "Tobias, get a price off the two brothers".
TELLS = re.compile(
    r"(?:^|[.,;] |\band |\bso )(?P<name>[A-Z][\w'’-]+),? (?:can you|could you|would you|will you|please|you|will|to|get|send|ask|ring|write|take|bring|make|"
    r"find|check|put|draw|book)\b"
)
# After "I'll" and its like these are manners of speaking and no tasks.
IDLE = table(
    r"be honest",
    r"tell you",
    r"say\b",
    r"admit",
    r"come (?:back )?to",
    r"be (?:quick|brief|right|there|fine|here)",
    r"never",
    r"see\b",
    r"go (?:first|next)",
    r"start\b",
    r"stop (?:there|you)",
    r"take that",
    r"have (?:to|a|the)",
    r"bet",
    r"just say",
    r"believe",
    r"live with",
    r"imagine",
    r"remember",
    r"hear",
    r"understand",
    r"put it",
    r"try\b",
    r"do\b(?: my| that| it)?\W*$",
    r"live",
    r"leave (?:it|that) (?:there|at)",
    r"be (?:honest|careful|glad|happy)",
    r"give you that",
    r"miss",
    r"think",
    r"only",
    r"always",
    r"not",
    r"stay",
    r"read (?:it|that) out",
    r"know",
    r"talk",
    r"sleep",
    r"finish",
    r"get (?:it|that|there)\b",
    r"manage",
    r"drink",
    r"be (?:in|on|at|away|off)\b",
)
# A request that is really a question or a courtesy.
IDLE_REQUEST = table(
    r"hear",
    r"see (?:me|that|my)",
    r"imagine",
    r"remember",
    r"explain",
    r"say (?:that|a)",
    r"tell me (?:about|how|why|what)",
    r"describe",
    r"believe",
    r"talk (?:me|us)",
    r"walk (?:me|us)",
    r"give (?:me|us) an example",
    r"be (?:honest|more)",
    r"live with",
    r"speak",
    r"stop",
    r"repeat",
    r"think",
    r"move it\b",
    r"do\b(?: that| it)?\W*$",
)
ACCEPTS = re.compile(
    r"^(?:oh,? )?(?:yes|yeah|yep|yup|okay|ok|sure|will do|of course|fine|i can|i'll|happy to|no problem|no bother|on it|consider it done|"
    r"monday|tuesday|wednesday|thursday|friday|tomorrow|today|great|right|leave it with me|mm-hm|course|by )\b|will do|i'll do|can do|leave it with me"
)
REFUSES = re.compile(r"^(?:no\b|not (?:me|really|this)|i can't|i'd rather not|sorry, (?:i|no)|i don't)|\bi can't\b|\bnot until\b")
DOES = table(
    r"send",
    r"write",
    r"ring",
    r"call",
    r"phone",
    r"text",
    r"email",
    r"e-mail",
    r"book",
    r"order",
    r"ask",
    r"check",
    r"find out",
    r"draw",
    r"draft",
    r"put",
    r"get",
    r"bring",
    r"take",
    r"make",
    r"fix",
    r"update",
    r"share",
    r"set up",
    r"look",
    r"talk to",
    r"speak to",
    r"chase",
    r"pay",
    r"read",
    r"rig",
    r"redo",
    r"give",
    r"fill",
    r"have",
    r"arrange",
    r"prepare",
    r"circulate",
    r"move",
    r"measure",
    r"test",
    r"try",
    r"do\b",
    r"add",
    r"sort",
    r"cut",
    r"print",
    r"sign",
    r"go through",
    r"let you know",
    r"let \w+ know",
    r"pick",
    r"drop",
    r"buy",
    r"collect",
    r"show",
    r"hand",
    r"confirm",
    r"schedule",
    r"label",
    r"lag",
    r"wire",
    r"weigh",
    r"count",
    r"replace",
)
UNREAL = table(r"would have", r"if i were", r"i'd have", r"used to", r"i can't", r"i could have")

_REACH = 3


def find_actions(lines: Sequence[Said], record: Record) -> list[Finding]:
    """Actions with owner (a name among those present, or None) and due date (resolved from the meeting's own, or None)."""
    names = {first_name(name).lower(): name for name in record.people}
    day = record.started_at.date() if record.started_at else None
    found: list[Finding] = []
    for said in lines:
        plain = said.plain
        if UNREAL.search(plain):
            continue
        request = REQUESTS.search(plain)
        told = TELLS.search(said.text)
        if request and not IDLE_REQUEST.match(rest := request["rest"] or request["rest2"]) and DOES.match(rest):
            found += _asked(lines, said, rest, names, day, vocative=_called(said, names))
        elif (
            told
            and (owner := names.get(told["name"].lower()))
            and owner != said.speaker
            and (doing := DOES.search(plain, told.end("name")))
        ):
            found += _asked(lines, said, plain[doing.start() :], names, day, vocative=owner)
        elif (
            (own := COMMITS.search(plain))
            and not IDLE.match(own["rest"])
            and (doing := DOES.match(own["rest"]))
            and "?" not in said.text[own.start() :]
        ):
            found.append(
                _finding(
                    said.speaker,
                    _own_words(said, own.start("rest")),
                    (said, *_when(lines, said, day)),
                    day,
                    0.68 if own.group().startswith(("i'll", "i will", "i'm going")) else 0.5,
                )
            )
    return _apart(found, day)


def _own_words(said: Said, start: int) -> str:
    return said.text[start:] if len(said.plain) == len(said.text) else said.plain[start:]


def _asked(lines: Sequence[Said], said: Said, rest: str, names: dict[str, str], day: date | None, vocative: str | None) -> list[Finding]:
    """A request, with the answer to it: taken up, refused, or left hanging."""
    answer = None
    for later in lines[said.index + 1 : said.index + 1 + _REACH]:
        if later.speaker == said.speaker:
            continue
        if vocative and later.speaker != vocative:
            break
        if REFUSES.search(later.plain):
            return []
        if ACCEPTS.search(later.plain):
            answer = later
        break
    if answer is None and vocative is None:
        return []
    owner = vocative or (answer.speaker if answer else None)
    start = said.plain.find(rest)
    evidence = (said, answer) if answer else (said,)
    doing = re.sub(r"\bme\b", first_name(said.speaker), _own_words(said, start) if start >= 0 else rest)
    return [_finding(owner, doing, (*evidence, *_when(lines, evidence[-1], day)), day, 0.75 if answer else 0.52)]


def _called(said: Said, names: dict[str, str]) -> str | None:
    """The one present whom the speaker calls by name in this line."""
    called = re.match(r"^(?:\w+, )?([\w'’-]+),|,\s*([\w'’-]+)\s*[?.!]?$", said.text)
    owner = names.get((called.group(1) or called.group(2)).lower()) if called else None
    return owner if owner != said.speaker else None


def _when(lines: Sequence[Said], said: Said, day: date | None) -> tuple[Said, ...]:
    """The line right after, where it only adds when ("Thursday, yep."; "By Monday?" and what is said to it)."""
    if day is None:
        return ()
    after = lines[said.index + 1 : said.index + 3]
    for count, later in enumerate(after, start=1):
        if len(later.text.split()) <= 6 and find_due(later.text, day):
            return tuple(after[:count])
    return ()


_MINE = [
    (re.compile(r"\bmy\b"), "their"),
    (re.compile(r"\bmyself\b"), "themselves"),
    (re.compile(r"\bI'm\b|\bi'm\b"), "they are"),
    (re.compile(r"\bI\b|\bi\b"), "they"),
]


def _finding(owner: str | None, doing: str, said: tuple[Said, ...], day: date | None, sure: float) -> Finding:
    said = tuple({line.index: line for line in said}.values())
    text = re.split(r"(?<=[a-z])[.;!?](?:\s|$)", doing, maxsplit=1)[0].strip(" ,.;:!?")
    text = re.sub(r"^(?:just|also|then|probably) ", "", text)
    for pattern, other in _MINE:
        text = pattern.sub(other, text)
    due = None
    if day:
        stated = [when for line in said if (when := find_due(line.text, day))]
        due = stated[-1] if stated else None
    full = f"{first_name(owner)} to {text[:1].lower()}{text[1:]}" if owner else clause(text)
    return Finding("action", full, said, sure, owner, due)


def _apart(found: list[Finding], day: date | None) -> list[Finding]:
    """A task said twice in a row by or to the same owner is one: the first wording, the last date, the lines of both."""
    kept: list[Finding] = []
    for finding in found:
        last = kept[-1] if kept else None
        if last and finding.owner == last.owner and finding.said[0].index <= last.said[-1].index + 1:
            said = tuple({line.index: line for line in last.said + finding.said}.values())
            kept[-1] = Finding(
                "action", last.text, said, min(0.95, max(last.confidence, finding.confidence) + 0.1), last.owner, finding.due or last.due
            )
        else:
            kept.append(finding)
    return kept

"""Who takes an action on: the one who commits to it, accepts it or is told to, among those present."""

from __future__ import annotations

import re
from collections.abc import Sequence

from core.reading.base import first_name
from core.record.model import Turn

COMMITS = re.compile(
    r"\b(?:i'll|i will|i shall|i'm going to|i am going to|i can(?! (?:you|i|see|hear|tell|imagine|live))\b|i could\b|i'd do|let me\b|"
    r"i'm (?:on it|seeing|meeting|writing|adding|doing|making|calling|ringing|sending|getting)|i've got to|i have to|i need to|i must|"
    r"i do it|i go\b|i make\b|i send|i put|i bring|i ask|i take|i call|i ring|i write|i order|i run|"
    r"leave (?:it|that|them|the \w+(?: \w+)?) (?:with|to) me|give (?:it|that|them|me) (?:to me|till|until)|give me (?:till|until|a week|two|the)|"
    r"(?:that's|it's) (?:mine|me|on me)|you'll have|you shall have|you can have|you(?:'ll| will)? get it|i'd (?:be happy|love|like) to|i'd have (?:it|them|that)\b|give (?:it|that|them) here|give me a go\b|i (?:want|would like) to\b)"
)
"""Said by the one who does it."""
_ELLIPTIC = re.compile(
    r"^(?:(?:yes|yeah|right|okay|ok|so),? )?(?:doing|writing|calling|ringing|sending|will do|can do|on it|consider it done)\b"
)
ASKS = re.compile(
    r"\b(?:(?:can|could|would|will|won't|are) you\b|you could\b|you're (?:doing|on|the one)|if you(?:'d| would| could)\b|would you be able|"
    r"i(?:'d| would) like you to|i need you to|you (?:do|take|write|ring|call|ask|send|get|put|tell|make|sort|find|check)\b|please\b)"
)
"""Said to the one who is to do it."""
ACCEPTS = re.compile(
    r"^(?:(?:oh|um|uh|well|mm|er)[,.]? )*(?:yes|yeah|yep|yup|okay|ok|sure|will do|of course|course|fine|happy to|no problem|no bother|on it|"
    r"consider it done|done|great|right|righto|gladly|deal|mm-hm|mhm|by\b|it is|it's|all right|alright|monday|tuesday|wednesday|thursday|friday|"
    r"saturday|sunday|tomorrow|today|tonight|absolutely|copy|doing|if i (?:must|have)|go on,? then|soon as|when|i know|i do\b|i have\b|i did|fair enough|"
    r"gone|already|same|first thing|no later|next week|not (?:today|tomorrow))\b|\bwill do\b|\bcan do\b|\bleave (?:it|that) (?:with|to) me\b|\bi'll\b|\bi can\b|\bi will\b"
)
REFUSES = re.compile(
    r"^(?:oh,? |um,? )*(?:no\b(?! (?:problem|bother|worries))|not (?:me|really|this)\b|can't\b|i can't\b|i'd rather not|sorry,? (?:i|no)\b)|\bi can't (?:do|take|make|move)"
)
_MINDS = re.compile(r"\b(?:do|would|if) you mind\b|\bany objections?\b")
"""Asks so that a "no" takes it on."""
NOBODY = re.compile(r"\b(?:somebody|someone|one of (?:us|the)|whoever|anybody|nobody)\b")
"""A task put to all and to none."""
TOGETHER = re.compile(r"\b(?:everybody|everyone|all of (?:us|you)|the two of us|both of us|we both|each of us|let's)\b")
"""A task of several."""
DOES = re.compile(
    r"\b(?:send|write|ring|call|phone|text|e-?mail|book|order|ask|check|find|draw|draft|put|get|bring|take|make|fix|update|share|look|talk|"
    r"speak|chase|pay|read|give|have|arrange|prepare|move|test|try|do|add|sort|cut|print|sign|go|tell|let|pick|drop|buy|collect|show|hand|log|"
    r"confirm|label|count|measure|run|set|keep|start|finish|see)\b"
)


_TELLS = re.compile(
    rf"(?:^|[.?!,] )(?:(?:and|so|then|but|right|okay|true enough|no),? )*(?:{DOES.pattern[len(chr(92) + 'b') :]}) (?:it|them|him|her|me|us|the|that|those|these|this|a|an|my|your)\b|"
    r"\b(?:want|need)s? (?:somebody|someone|it|that|them|the \w+|every \w+) (?:to|done|on paper|in writing)\b|\bi(?:'d| would) (?:like|want) (?:it|that|the \w+|to see)\b|\bhave (?:it|that|them) \w+ed\b|\bfalls to\b"
)
"""Says that something is to be done, to whoever answers."""


def find_owner(turns: Sequence[Turn], after: Sequence[Turn], people: Sequence[str]) -> str | None:
    """The owner of an action said in `turns`: a name among `people` (or a voice), None when nobody takes it on or is told to.

    turns: those the action rests on, in order; the last word on who does it stands. after: what is said right after the last.
    """
    owner: str | None = None
    asked: str | None = None  # who was asked by name
    open_request, minds = "", False  # who asks, while no answer is in, and whether a "no" is a yes
    for turn in [*turns, *after[:1]]:
        told = turn in turns
        plain = as_typed(turn.text)
        if open_request and turn.speaker != open_request and (asked is None or turn.speaker == asked or _nameless(turn.speaker)):
            if REFUSES.search(plain) and not minds:
                owner, open_request = None if owner == asked else owner, ""
                continue
            if ACCEPTS.search(plain) or minds and REFUSES.search(plain):
                # Unnamed voices are known by what they are called.
                owner, open_request = asked if asked and _nameless(turn.speaker) else turn.speaker, ""
                continue
        if not told:
            continue
        minds = bool(_MINDS.search(plain))
        commits = COMMITS.search(plain) or _ELLIPTIC.search(plain)
        asks = ASKS.search(plain)
        called = _called(turn, people)
        # "I'll catch her, just the two of us" is one's own.
        together = TOGETHER.search(plain)
        if together and not (commits and commits.start() < together.start()):
            owner, asked, open_request = None, None, ""
        elif third := _assigned(turn, people):
            owner, asked, open_request = third, third, turn.speaker
        elif asks and (not commits or asks.start() > commits.start()):
            asked, open_request = called, turn.speaker
            owner = called or owner
        elif commits:
            owner, asked, open_request = turn.speaker, None, ""
        elif called and DOES.search(plain):
            owner, asked, open_request = called, called, turn.speaker
        elif NOBODY.search(plain) or _TELLS.search(plain):
            asked, open_request = None, turn.speaker
    return owner if owner or not turns else _left(turns)


def _left(turns: Sequence[Turn]) -> str | None:
    """Nobody says "I" and nobody is called: of two who speak, the one who answers shortly takes it on."""
    speakers = list(dict.fromkeys(turn.speaker for turn in turns))
    first = as_typed(turns[0].text)
    if len(speakers) == 1 and re.search(r"\b(?:i|me|my)\b", first) and not ASKS.search(first):
        return speakers[0]
    open_to_all = any(NOBODY.search(as_typed(turn.text)) or TOGETHER.search(as_typed(turn.text)) for turn in turns)
    if open_to_all or len(speakers) != 2 or turns[-1].speaker == turns[0].speaker:
        return None
    last = as_typed(turns[-1].text)
    if REFUSES.search(last):
        return None
    if re.match(r"(?:no, |then )?(?:get|have|do|put|tell|log) (?:it|that|them)\b", last):  # told, by the one who speaks last
        return turns[0].speaker
    return turns[-1].speaker


def as_typed(text: str) -> str:
    """In lower case, with the apostrophes that raw recognition and hasty typing leave out."""
    plain = text.lower().replace("’", "'")
    return _BARE.sub(lambda match: _FULL[match[0]], plain)


_FULL = {
    "ill": "i'll", "im": "i'm", "ive": "i've", "id": "i'd", "youll": "you'll", "youre": "you're", "dont": "don't", "cant": "can't",
    "didnt": "didn't", "wont": "won't", "thats": "that's", "its": "it's", "theyll": "they'll", "whos": "who's", "isnt": "isn't",
}  # fmt: skip
_BARE = re.compile(r"\b(?:" + "|".join(_FULL) + r")\b")


def _nameless(speaker: str) -> bool:
    return bool(re.fullmatch(r"(?:Voice|Speaker) \w+", speaker))


def _called(turn: Turn, people: Sequence[str]) -> str | None:
    """Whom the speaker calls by name: at the beginning or the end of a sentence."""
    for name in people:
        short = re.escape(first_name(name))
        if name != turn.speaker and re.search(
            rf"(?:^|[.?!] )(?:(?:and|so|then|right|okay|yes|yeah|but|well|oh|now),? )*{short}\b(?!['’]s)|,? {short}\s*(?:[?.!]|$)|, {short},",
            turn.text,
            re.IGNORECASE,
        ):
            return name
    return None


def _assigned(turn: Turn, people: Sequence[str]) -> str | None:
    """Who is told to, or said to, do it: "Tomas will …", "get Agata to", "that's you, Luis"."""
    for name in people:
        short = re.escape(first_name(name).lower())
        if name != turn.speaker and re.search(
            rf"\b{short}(?:,? (?:to|will|can|could you|can you|would you|will you|please|you (?:do|take|write|ring|get|put|could)|take|bring|"
            rf"write|get|ring|call|send|ask)\b|'ll\b)|\b(?:get|ask|have) {short}\b|\b(?:that's|it's|that is|then it's) (?:you,? )?{short}\b|"
            rf"\b(?:that's|it's) (?:you|yours),? {short}\b|\b{short} does\b",
            as_typed(turn.text),
        ):
            return name
    return None

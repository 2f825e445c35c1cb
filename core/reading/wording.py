"""What is found, worded: in the third person and the present where that is certain, else in the speaker's own words, marked as such."""

from __future__ import annotations

import re
from collections.abc import Sequence

from core.frequency import zipf
from core.reading.base import Said, clause, first_name
from core.reading.due import MONTHS, WEEKDAYS
from core.reading.passage import Passage

_OWN = re.compile(
    r"\b(?:I'll|I will|I shall|I'm going to|I am going to|let me|I can|I could|I need to|I've got to|I have to|I must|I'd like to|I want to|"
    r"I'll go and|I'd better)\s+(?:just |also |then |probably |actually |have to )*(?P<do>[a-z].*)",
    re.IGNORECASE,
)
"""A commitment, and what is committed to."""
_ASKED = re.compile(
    r"\b(?:(?:can|could|would|will|won't) you|you could|if you(?:'d| would| could)|would you be able to|I(?:'d| would) like you to|I need you to)"
    r"(?:,? [A-Z][\w'’-]+,)?\s+(?:please |just |also |then |maybe )*(?P<do>[a-z].*)|"
    r"(?:^|[.,;] )(?:please,? |then |so |and |no, |yes, )*(?P<do2>(?:get|send|write|ring|call|book|order|ask|check|find|draft|put|bring|take|make|"
    r"fix|tell|let(?!'s)|log|print|chase|arrange|set|keep|sort|add|buy|collect|pick|move|test|try|do|give|have|show|run)\b.*)",
    re.IGNORECASE,
)
"""A request, and what is asked for."""
_ASKING = re.compile(
    r"(?:is|are|was|were|do|does|did|has|have|had|can|could|would|will|shall|should|isn't|aren't|don't|doesn't|who|what|when|where|why|how|which)\b",
    re.IGNORECASE,
)
"""How a question begins: beside a sentence nothing is asked."""
_WHEN_FIRST = re.compile(r"^(?:(?:next (?:time|week|month)|tomorrow|today|tonight|this (?:week|morning|afternoon|evening))\b,? ?)+", re.IGNORECASE)
"""A time before what is to be done: "I'll tomorrow ring him" is "to ring him"."""
_PROMISES = re.compile(r"\b(?:you'll have|you(?:'ll| will| can) get|leave (?:it|that) (?:with|to) me|somebody|someone)\b", re.IGNORECASE)
"""A commitment in another form."""
_DAYS = frozenset((*WEEKDAYS, *MONTHS))
_ORDINARY = 3.5
"""Zipf frequency (van Heuven et al. 2014) from which a word at the head of a sentence is taken for no name."""
_EMPTY = re.compile(r"(?:do|take|have|get|put|see|say|try|live|manage|be|make)(?: (?:it|that|this|them|so|my best))?\W*$", re.IGNORECASE)
"""Verbs that say nothing alone."""
_PERSONAL = re.compile(r"\b(?:I|I'\w+|me|my|mine|myself|you|you'\w+|your|yours)\b")
_PUT = re.compile(
    r"^(?:so )?(?:what if we|shall we|should we|why don't we|how about|could we|can we|let's|we could|we should|we'll|we will|what about|"
    r"(?:the )?proposal is that(?: we)?|I(?:'d| would) suggest(?: that)?(?: we)?|I(?:'d| would) say|I propose(?: that)?(?: we)?|I(?:'d like to)? move(?: that)?(?: we)?|I think we should|"
    r"I'm going to suggest (?:that )?(?:we )?|we just|I'd (?:rather|sooner) we)\s+(?:just |actually )*",
    re.IGNORECASE,
)
"""How a choice is put forward."""
_TAGS = re.compile(
    r",? (?:then|please|though|would you|will you|could you|can you|shall we|do we|isn't it|right|okay|yes|no)\s*$", re.IGNORECASE
)


def action(lines: Sequence[Said], owner: str | None, people: Sequence[str]) -> str:
    """ "Tomas to send the drawings" from the lines of an action; the words of the fullest line where it cannot be told for certain."""
    best: tuple[int, str] = (0, "")
    for said in lines:
        text = said.text.replace("’", "'")
        own, asked = _OWN.search(text), _ASKED.search(text)
        if own and owner in (said.speaker, None):
            doing = _as_told(own["do"], said.speaker, None, people)
        elif asked and owner != said.speaker:
            doing = _as_told(asked["do"] or asked["do2"], None, said.speaker, people)
        else:
            continue
        if doing and not _EMPTY.match(doing) and (size := min(12, len(doing.split()))) > best[0]:
            best = (size, doing)
    if best[0] < 2:
        return quoted(
            max(lines, key=lambda said: min(25, len(said.text.split())) + 25 * bool(_OWN.search(said.text) or _PROMISES.search(said.text)))
        )
    return f"{first_name(owner)} to {best[1]}" if owner else best[1][:1].upper() + best[1][1:]


def _as_told(doing: str, doer: str | None, asker: str | None, people: Sequence[str]) -> str:
    """A verb and what follows, as a third person tells it: up to the end of the sentence; "" where a pronoun cannot be resolved.

    doer: who says "I" and does it; asker: who says "me" and has it done.
    """
    text = re.split(r"(?<=[a-z0-9])[.;!?](?:\s|$)|, (?:because|so|and I|but|if)\b", doing, maxsplit=1)[0].strip(" ,.;:!?")
    text = _WHEN_FIRST.sub("", _TAGS.sub("", text))
    text = _unaddressed(text, people)  # who is spoken to does it, and is named before it
    if doer:
        changes = {
            "I'm": "they are",
            "I've": "they have",
            "I'll": "they will",
            "I": "they",
            "me": "them",
            "my": "their",
            "myself": "themselves",
        }
        # Of two people the other one is meant; of more, "you" may be anybody.
        other = next((name for name in people if name != doer), None) if len(people) == 2 else None
        if other:
            changes |= {"you": first_name(other), "your": f"{first_name(other)}'s"}
    else:
        name = first_name(asker or "")
        changes = {"me": name, "my": f"{name}'s", "I": name, "your": "their", "yourself": "themselves"}
    text = re.sub(r"\b[A-Za-z]+(?:'[a-z]+)?\b", lambda match: changes.get(match[0], match[0]), text)
    return "" if is_personal(text) else text[:1].lower() + text[1:] if not text[:2].isupper() else text


def aside(said: str, speaker: str, cut: Passage) -> str:
    """A clause of the evidence as it is told beside a sentence; "" where it says "I" or "you" and it is not certain who that is."""
    text = clause(said.replace("’", "'"))
    if cut.kind == "action":
        own, asked = _OWN.search(text), _ASKED.search(text)
        if own and speaker == cut.owner:
            return _as_told(own["do"], speaker, None, cut.present)
        if asked and speaker != cut.owner:
            return _as_told(asked["do"] or asked["do2"], None, speaker, cut.present)
    text = _unaddressed(_TAGS.sub("", _PUT.sub("", text)), cut.present)
    return "" if is_personal(text) or _ASKING.match(text) else _within(text)


def _within(text: str) -> str:
    """As it stands within a sentence: with a small letter, unless its first word is a name."""
    first = re.match(r"[A-Z][a-z'-]*", text)
    return text[:1].lower() + text[1:] if first and first[0].lower() not in _DAYS and zipf(first[0].lower(), "en") >= _ORDINARY else text


PROCEDURE = re.compile(
    r"^(?:(?:so|and|then|right|okay|well|good|thank you|thanks|any discussion|no)\b[,.?!]? ?)*(?:(?:all|those|everyone|everybody)? ?(?:those )?in favour|carried|moved|"
    r"proposed|(?:i(?:'ll)? )?second(?:ed)?\b|agreed|unanimous|passed|against|that's (?:everyone|carried|agreed|settled)|motion carried|would somebody|(?:is|do i have) (?:there )?a)\b",
    re.IGNORECASE,
)
"""Said to settle something, without saying what."""
_SETTLING = re.compile(
    r"\b(?:we'll|we will|we go|let's|go (?:for|with)|instead|from now on|from the|(?:the )?proposal is|it stays|no longer|stop|keep|only|until)\b",
    re.IGNORECASE,
)


def decision(lines: Sequence[Said]) -> str:
    """What was settled, from the line that says most of it: rather the proposal than the vote on it."""

    def says(said: Said) -> float:
        put = clause(said.text).replace("’", "'")
        return (
            min(22, len(said.text.split()))
            - 6 * ("?" in said.text)
            + 8 * bool(_PUT.search(put))
            + 4 * bool(_SETTLING.search(put))
            - 30 * bool(PROCEDURE.search(said.text))
        )

    return settled(max(lines, key=says))


def settled(said: Said) -> str:
    """A proposal without the way it was put, where the rest names nobody by "I" or "you"; else in the speaker's own words."""
    text = clause(_PUT.sub("", clause(said.text).replace("’", "'")))
    return quoted(said) if is_personal(text) or len(text.split()) < 3 else _TAGS.sub("", text)


def puts(text: str) -> bool:
    """Is a choice put forward in one of its sentences?"""
    return any(_PUT.search(clause(sentence).replace("’", "'")) for sentence in re.split(r"(?<=[.?!])\s+", text))


_GREETING = re.compile(r"^(?:(?:good )?(?:morning|afternoon|evening)|hello|hi)\b[^,.?!]{0,20}[,.!] ", re.IGNORECASE)


def _unaddressed(text: str, people: Sequence[str]) -> str:
    """A sentence without the one of these that it is said to, named first or last in it. Others stay: "Glass, who orders it?" asks of the glass."""
    names = "|".join(re.escape(first_name(one)) for one in people)
    return re.sub(rf"^(?:{names}), |(?<!\bor), (?:{names})$", "", text) if names else text


def question(lines: Sequence[Said], people: Sequence[str]) -> str:
    """What was left open, as it was asked, and not whom."""
    asked = [said for said in lines if "?" in said.text] or list(lines)
    chosen = max(asked, key=lambda said: min(25, len(said.text.split())))
    text = clause(_unaddressed(clause(_GREETING.sub("", chosen.text)), people))
    return quoted(chosen) if is_personal(text) else text + ("?" if "?" in chosen.text else "")


def is_personal(text: str) -> bool:
    """Does a text say "I" or "you", so that it says something else when another tells it?"""
    return bool(_PERSONAL.search(text))


def quoted(said: Said) -> str:
    """Somebody's own words, as such."""
    return f"{first_name(said.speaker)}: “{said.text.strip()}”"

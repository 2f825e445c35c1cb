"""Sentences that people wrote, spoilt: what a judge has to tell from what is so."""

from __future__ import annotations

import random
import re
from collections import defaultdict
from collections.abc import Iterator, Sequence

from bench.examples import Example
from core.frequency import zipf
from core.reading import wording
from core.reading.base import Said, first_name
from core.reading.due import WEEKDAYS
from core.reading.numbers import stated_in
from core.reading.passage import Passage
from core.reading.writer.rewording import with_owner
from core.record.model import Line

_NUMBERS = "two three four five six seven eight nine ten eleven twelve fifteen twenty thirty forty fifty sixty hundred thousand".split()
_FIGURE = re.compile(rf"\d+|\b(?:{'|'.join(_NUMBERS)})\b")
_STATES = re.compile(r"\b(is|are|was|were|will|has|have|can|must|may)\b(?! not)")
_DENIES = re.compile(r"\b(is|are|was|were|will|has|have|can|must|may|does|do) not\b|\b(No|no)\b")
_DOES = re.compile(r"^(\w+) (\w{2,})s\b(?! not)")
_THING = re.compile(r"\b(?:the|an?|our|my|his|her|their|your|this|that|these|those|some|any|every|each|both|of|for|with|to the) ([a-z][a-z-]{2,})(?![\w'’-])")
"""What follows an article or the like: mostly a noun, so that the sentence stays one."""
_COMMON = 5.6
"""Zipf frequency from which a word says too little for a sentence to say something else without it."""


JUDGED = ("decision", "action", "question", "gist")
"""Kinds of sentences that are judged; a title states nothing."""


def beside(wanted: Sequence[Example]) -> dict[int, list[Example]]:
    """For each example, by its place, other sentences of the same meeting, or of the same hand's passages, and the same kind."""
    groups = defaultdict(list)
    for one in wanted:
        groups[_group(one)].append(one)
    return {place: [other for other in groups[_group(one)] if other.text != one.text] for place, one in enumerate(wanted)}


def source_of(one: Example) -> tuple[str, tuple[str, ...]]:
    """The meeting that an example is of, by its hand and who was there; of passages, the hand."""
    return one.hand, one.passage.present if one.part is not None else ()


def _group(one: Example) -> tuple[object, str]:
    return source_of(one), one.passage.kind


def stated(example: Example) -> str:
    """The sentence as it is stated: an action with its owner before it."""
    return with_owner(example.text, example.passage.owner) if example.passage.kind == "action" else example.text


def spoilt(example: Example, near: Sequence[Example], draw: random.Random) -> Iterator[tuple[str, str]]:
    """(how, the sentence spoilt that way), for each way that there is. near: other sentences of the same meeting, or hand, and kind."""
    text, passage = stated(example), example.passage
    named = [name for name in map(first_name, passage.present) if re.search(rf"\b{name}\b", text)]
    others = [name for name in map(first_name, passage.present) if name not in text]
    if named and others:
        yield "another of those present", re.sub(rf"\b{draw.choice(named)}\b", draw.choice(others), text)
    if len(named) > 1:
        one, other = draw.sample(named, 2)
        yield "two of them exchanged", re.sub(rf"\b(?:{one}|{other})\b", lambda match: other if match[0] == one else one, text)
    if found := _FIGURE.search(text):
        changed = str(int(found[0]) + draw.randint(2, 9)) if found[0].isdigit() else draw.choice([one for one in _NUMBERS if one != found[0]])
        if stated_in(changed := text[: found.start()] + changed + text[found.end() :]) != stated_in(text):
            yield "another number", changed
    if day := next((day for day in WEEKDAYS if day.capitalize() in text), None):
        yield "another weekday", text.replace(day.capitalize(), draw.choice([one for one in WEEKDAYS if one != day]).capitalize())
    if _DENIES.search(text):
        plain = " ".join(_DENIES.sub(lambda match: match[1] or "", text, count=1).split())
        yield "denied", plain[:1].upper() + plain[1:]
    elif _STATES.search(text):
        yield "denied", _STATES.sub(r"\1 not", text, count=1)
    elif found := _DOES.search(text):
        yield "denied", f"{found[1]} does not {found[2]}{text[found.end() :]}"
    elif passage.kind == "action":
        yield "denied", text.replace(" to ", " not to ", 1) if " to " in text else f"Do not {text[0].lower()}{text[1:]}"
    if changed := _another_thing(text, passage, draw):
        yield "another thing", changed
    if put := _put_beside(example):
        yield "something else that was put", draw.choice(put)
    if near:
        yield "of another passage", stated(draw.choice(near))


def _another_thing(text: str, passage: Passage, draw: random.Random) -> str | None:
    """A word that says something exchanged for another one of the passage."""
    own = [match for match in _THING.finditer(text) if zipf(match[1], "en") < _COMMON]
    there = {word for piece in passage.pieces for word in _THING.findall(piece.text) if zipf(word, "en") < _COMMON and word not in text}
    if not own or not there:
        return None
    chosen = draw.choice(own)
    return text[: chosen.start(1)] + draw.choice(sorted(there)) + text[chosen.end(1) :]


def _put_beside(example: Example) -> list[str]:
    """What else was put forward or taken on in the passage, as the rules word it: what was turned down is among it."""
    beside = [piece for piece in example.passage.pieces if not piece.evidence]
    said = [Said(piece.at, piece.at, 0, piece.speaker, Line(piece.text, 0.0, 0.0)) for piece in beside]
    if example.passage.kind == "decision":
        worded = [wording.settled(one) for one in said if wording.puts(one.text)]
    elif example.passage.kind == "action":
        worded = [wording.action([one], one.speaker, example.passage.present) for one in said]
    else:
        worded = []
    return [text for text in worded if "“" not in text]

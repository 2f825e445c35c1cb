"""A reading in a writer's words, as far as its lines hold them. What they do not hold stays as the rules or its speaker worded it.

What matters most comes first: decisions, actions, the opening, open questions, titles of chapters.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date
from typing import Protocol

from core.reading.base import Finding, Said, all_said, first_name
from core.reading.chapters import Chapter
from core.reading.gist import write_gist
from core.reading.passage import Kind, Passage, passage
from core.reading.reader import Reading
from core.reading.writer.held import unheld
from core.record.model import Record

LANGUAGE = "en"
"""What the writer is taught. Of a record in another language nothing is worded anew."""
TOGETHER = 8
"""Passages that are written at once and remembered before the next: more is no faster on two cores, and takes more memory."""
TRIES = 2
"""How often a sentence is written until it is held."""
_ORDER: tuple[Kind, ...] = ("decision", "action", "gist", "question", "chapter")
_STATUSES = ("standing", "superseded", "proposed")
_SUMMED_UP, _OPENS_WITH = 6, 12
"""Turns that the sentence about a chapter rests on at most; turns of one that are shown to title it."""
_LONGEST: dict[Kind, int] = {"decision": 45, "action": 40, "question": 40, "gist": 60, "chapter": 9}
"""Words of a sentence, or of a title: what is longer has run on."""


class Writes(Protocol):
    """Whatever turns passages into sentences."""

    def write(self, passages: Sequence[Passage], attempt: int = 0) -> list[str]:
        """A sentence for each, "" where there is none; another one at a later attempt."""
        ...


Follows = Callable[[str, Passage], bool]
"""Does what a sentence says follow from its passage?"""


@dataclass(frozen=True)
class _Wanted:
    """A sentence that is wanted: of a finding, or of a chapter, by its place in the reading."""

    place: int
    passage: Passage
    said: tuple[Said, ...] = ()


def key(cut: Passage) -> str:
    """What a passage is known by: written once, it is not written again as long as nothing in it has changed."""
    return hashlib.sha256(cut.text.encode()).hexdigest()


def reworded(
    reading: Reading,
    record: Record,
    on: date | None = None,
    known: Mapping[str, str] | None = None,
    writer: Writes | None = None,
    remember: Callable[[Mapping[str, str]], None] = lambda written: None,
    report: Callable[[float], None] = lambda done: None,
    judge: Follows | None = None,
) -> Reading:
    """The reading with the sentences that are known, and with those of a writer for the rest, where there is one.

    on: the meeting's day. known: by `key`, "" for a passage of which nothing was held. remember: told what is written, as soon as it is.
    report: told the share that is done. judge: has the last word on what was looked up and found, where there is one.
    """
    if (record.language or LANGUAGE) != LANGUAGE or not record.turns or not (known or writer):
        return reading
    wanted = sorted(_wanted(reading, record, on), key=lambda one: _ORDER.index(one.passage.kind))
    texts = dict(known or {})
    missing = list({key(one.passage): one.passage for one in wanted if key(one.passage) not in texts}.items()) if writer else []
    for first in range(0, len(missing), TOGETHER):
        report(first / len(missing))
        batch = missing[first : first + TOGETHER]
        assert writer is not None
        written = dict(zip((name for name, _ in batch), held_sentences([cut for _, cut in batch], writer, judge), strict=True))
        remember(written)
        texts |= written
    return _worded(reading, record, [(one, text) for one in wanted if (text := texts.get(key(one.passage)))])


def held_sentences(cuts: Sequence[Passage], writer: Writes, judge: Follows | None = None) -> list[str]:
    """What a writer makes of passages, "" where none of its tries is held."""
    found = [""] * len(cuts)
    for attempt in range(TRIES):
        left = [place for place, text in enumerate(found) if not text]
        if not left:
            break
        for place, text in zip(left, writer.write([cuts[place] for place in left], attempt), strict=True):
            if is_held(text, cuts[place], judge):
                found[place] = text
    return found


def is_held(text: str, cut: Passage, judge: Follows | None = None) -> bool:
    """May it be stated? Every name, number, day and negation is in the passage, an action does not begin with another than its owner, and what
    it says follows, as far as a judge can tell; a title says nothing that could."""
    if not text or not any(sign.isalpha() for sign in text) or len(text.split()) > _LONGEST[cut.kind] or "\n" in text or unheld(text, cut):
        return False
    others = {first_name(name) for name in cut.present if name != cut.owner}
    if cut.kind == "action" and _opens(text) in others and _opens(text) != first_name(cut.owner or ""):
        return False
    return judge is None or cut.kind == "chapter" or judge(with_owner(text, cut.owner) if cut.kind == "action" else text, cut)


def _opens(text: str) -> str:
    return text.split()[0].strip(".,:;").removesuffix("'s").removesuffix("’s")


_NO_VERBS = frozenset(
    "the a an if when once as after before until in on at by for from with no not nobody all each every both his her their our my it there this "
    "that these those someone somebody everyone everybody".split()
)
"""What a task does not begin with where it is told as one."""


def with_owner(text: str, owner: str | None) -> str:
    """ "Ring the roofer." → "Bo to ring the roofer." An action is written as what is to be done; whose it is stands before it."""
    if owner is None or _opens(text) == first_name(owner):
        return text
    word = text.split()[0]
    if word.lower().strip(",") in _NO_VERBS or word[1:] != word[1:].lower():
        return f"{first_name(owner)}: {text}"
    return f"{first_name(owner)} to {text[0].lower()}{text[1:]}"


def _wanted(reading: Reading, record: Record, on: date | None) -> Iterator[_Wanted]:
    turns = [(turn.speaker, turn.text) for turn in record.turns]
    places = {turn.id: place for place, turn in enumerate(record.turns)}
    present = [one.name for one in record.participants] or list(record.speakers)
    for status in _STATUSES:
        for number, finding in enumerate(reading.findings):
            if finding.status == status and finding.kind in _ORDER:
                evidence = {places[said.turn] for said in finding.said}
                yield _Wanted(number, passage(finding.kind, turns, evidence, present, on, finding.owner))
    lines = all_said(record)
    for number, (chapter, inside) in enumerate(_stretches(reading.chapters, len(turns), places)):
        if evidence := _evidence(reading.findings, inside, places, turns):
            said = tuple(one for one in lines if places[one.turn] in evidence)
            yield _Wanted(number, passage("gist", turns, evidence, present, on), said)
        if chapter.by != "agenda":
            yield _Wanted(number, passage("chapter", turns, shown(turns, inside), present))


def _stretches(chapters: Sequence[Chapter], count: int, places: Mapping[int, int]) -> Iterator[tuple[Chapter, range]]:
    starts = [places[chapter.from_turn] for chapter in chapters]
    for chapter, first, end in zip(chapters, starts, [*starts[1:], count], strict=False):
        yield chapter, range(first, end)


def _evidence(findings: Iterable[Finding], inside: range, places: Mapping[int, int], turns: Sequence[tuple[str, str]]) -> set[int]:
    """The turns that a chapter is summed up from: those of what came of it, the surest first; else those that say most."""
    standing = [one for one in findings if one.status == "standing" and one.kind in ("decision", "action", "question")]
    evidence: set[int] = set()
    for finding in sorted(standing, key=lambda one: (one.kind != "decision", -one.confidence)):
        rests_on = {places[said.turn] for said in finding.said}
        if rests_on <= set(inside) and len(evidence | rests_on) <= _SUMMED_UP:
            evidence |= rests_on
    return evidence or set(sorted(inside, key=lambda place: -len(turns[place][1]))[:4])


def shown(turns: Sequence[tuple[str, str]], inside: range) -> set[int]:
    """The turns of a chapter that say what it is about: the first of it, and the longest of the rest."""
    opening = range(inside.start, min(inside.stop, inside.start + _OPENS_WITH // 2))
    rest = sorted(range(opening.stop, inside.stop), key=lambda place: -len(turns[place][1]))[: _OPENS_WITH // 2]
    return {*opening, *rest}


def _worded(reading: Reading, record: Record, told: Iterable[tuple[_Wanted, str]]) -> Reading:
    findings, chapters = list(reading.findings), list(reading.chapters)
    for one, text in told:
        if one.passage.kind == "chapter":
            chapters[one.place] = replace(chapters[one.place], title=text.rstrip("."), by="writer")
        elif one.passage.kind == "gist":
            chapters[one.place] = replace(chapters[one.place], summary=text, rests_on=one.said)
        else:
            finding = findings[one.place]
            whole = with_owner(text, finding.owner) if finding.kind == "action" else text
            findings[one.place] = replace(finding, text=whole, written="writer")
    changed = {id(before): after for before, after in zip(reading.findings, findings, strict=True)}
    return replace(
        reading,
        findings=tuple(findings),
        chapters=tuple(chapters),
        gist=tuple(write_gist(record, findings, chapters, all_said(record))),
        replaced=tuple((changed[id(earlier)], changed[id(later)]) for earlier, later in reading.replaced),
    )

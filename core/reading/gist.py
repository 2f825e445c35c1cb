"""The gist: three to six sentences on top of the minutes, each with its lines."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from core.reading.base import Finding, Said
from core.reading.chapters import Chapter
from core.record.model import Record
from core.text import Put, as_written

MOST = 6
TALKED = "Talked about"
LEADS = {"decision": "Settled", "action": "To do", "question": "Left open"}
"""What a sentence about a finding of a kind begins with, in English: these are our words, and stand beside theirs in the meeting's language."""


@dataclass(frozen=True, slots=True)
class GistSentence:
    """A sentence and the lines it rests on (never none)."""

    text: str
    said: tuple[Said, ...]


def write_gist(
    record: Record, findings: Sequence[Finding], chapters: Sequence[Chapter], lines: Sequence[Said], put: Put = as_written
) -> list[GistSentence]:
    """What was talked about, what came of it, what stayed open.

    Where chapters are summed up: those sentences, of the chapters of which most came, and what they leave out. Else the subjects, what was
    settled, who does what, what stayed open, the surest of each. put: how our own words are put in the meeting's language.
    """
    sentences = _summaries(findings, chapters)
    if not sentences and (subjects := _subjects(chapters, lines, put)):
        sentences = [subjects]
    told = {said.index for sentence in sentences for said in sentence.said if not is_of_subjects(sentence.text, put)}
    count = sum(map(_length, sentences))
    for kind, most in (("decision", 2), ("action", 1), ("question", 1)):
        # What could only be quoted says less by itself.
        standing = [f for f in findings if f.kind == kind and f.status == "standing" and not {said.index for said in f.said} <= told]
        chosen = sorted(standing, key=lambda f: ("“" in f.text, -f.confidence, f.start))[:most]
        for finding in sorted(chosen, key=lambda f: f.start):
            if count < MOST:
                sentences.append(GistSentence(in_short(kind, finding.text, put), finding.said))
                count += 1
    return sentences


def _length(sentence: GistSentence) -> int:
    return max(1, len(re.findall(r"[.!?](?:\s|$)", sentence.text)))


def _summaries(findings: Sequence[Finding], chapters: Sequence[Chapter]) -> list[GistSentence]:
    """Of the chapters of which most came, as many as there is room for, in order."""
    ends = [*(chapter.from_turn for chapter in chapters[1:]), float("inf")]
    weights = [
        sum(f.confidence for f in findings if f.status == "standing" and f.kind in LEADS and chapter.from_turn <= f.turns[0] < end)
        for chapter, end in zip(chapters, ends, strict=False)
    ]
    told = [GistSentence(chapter.summary, chapter.rests_on) for chapter in chapters]
    room, chosen = MOST, set()
    for place in sorted(range(len(told)), key=lambda place: -weights[place]):
        if told[place].text and told[place].said and _length(told[place]) <= room:
            room -= _length(told[place])
            chosen.add(place)
    return [told[place] for place in sorted(chosen)]


def is_of_subjects(text: str, put: Put = as_written) -> bool:
    """Does a sentence say what was talked about, and not what came of it?"""
    return text.startswith(f"{put(TALKED)}: ")


def _subjects(chapters: Sequence[Chapter], lines: Sequence[Said], put: Put) -> GistSentence | None:
    """What the chapters are called, in a sentence that rests on the first line of each."""
    starts = {chapter.from_turn for chapter in chapters}
    opening = tuple(said for said in lines if said.turn in starts and said.number == 0)
    if not opening:
        return None
    # Of several chapters the first word of each title; of a single one, all of its words.
    words = [chapter.title.split(", ")[0] for chapter in chapters[:5]] if len(chapters) > 1 else chapters[0].title.split(", ")
    subjects = list(dict.fromkeys(_within(word, lines) for word in words))
    joined = f"{', '.join(subjects[:-1])} {put('and')} {subjects[-1]}" if len(subjects) > 1 else subjects[0]
    return GistSentence(f"{put(TALKED)}: {joined}.", opening)


def in_short(kind: str, text: str, put: Put = as_written) -> str:
    """The sentence about a finding, from what is stated of it."""
    return f"{put(LEADS[kind])}: {_ended(text, '?' if kind == 'question' else '.')}"


def _ended(text: str, stop: str) -> str:
    """With its stop; somebody's own words have theirs."""
    return text if text.endswith("”") else text.rstrip(".?") + stop


def _within(word: str, lines: Sequence[Said]) -> str:
    """A title's first word as it stands within a sentence: with a small letter, unless it is always said with a capital."""
    small = word[:1].lower() + word[1:]
    return small if any(small in said.text for said in lines) else word

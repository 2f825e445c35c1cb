"""The gist: at most five sentences on top of the minutes, each with its lines."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from core.reading.base import Finding, Said
from core.reading.chapters import Chapter
from core.record.model import Record

MOST = 5
LEADS = {"decision": "Settled", "action": "To do", "question": "Left open"}
"""What a sentence about a finding of a kind begins with."""


@dataclass(frozen=True, slots=True)
class GistSentence:
    """A sentence and the lines it rests on (never none)."""

    text: str
    said: tuple[Said, ...]


def write_gist(record: Record, findings: Sequence[Finding], chapters: Sequence[Chapter], lines: Sequence[Said]) -> list[GistSentence]:
    """What was talked about, what was settled, who does what, what stayed open: in that order, the surest of each."""
    sentences: list[GistSentence] = []
    starts = {chapter.from_turn for chapter in chapters}
    opening = tuple(said for said in lines if said.turn in starts and said.number == 0)
    if opening:
        # Of several chapters the first word of each title; of a single one, all of its words.
        words = [chapter.title.split(", ")[0] for chapter in chapters[:5]] if len(chapters) > 1 else chapters[0].title.split(", ")
        subjects = list(dict.fromkeys(_within(word, lines) for word in words))
        sentences.append(
            GistSentence(f"Talked about: {', '.join(subjects[:-1])}{' and ' if len(subjects) > 1 else ''}{subjects[-1]}.", opening)
        )
    for kind, most in (("decision", 2), ("action", 1), ("question", 1)):
        # What could only be quoted says less by itself.
        standing = [f for f in findings if f.kind == kind and f.status == "standing"]
        chosen = sorted(standing, key=lambda f: ("“" in f.text, -f.confidence, f.start))[:most]
        for finding in sorted(chosen, key=lambda f: f.start):
            sentences.append(GistSentence(in_short(kind, finding.text), finding.said))
    return sentences[:MOST]


def in_short(kind: str, text: str) -> str:
    """The sentence about a finding, from what is stated of it."""
    return f"{LEADS[kind]}: {_ended(text, '?' if kind == 'question' else '.')}"


def _ended(text: str, stop: str) -> str:
    """With its stop; somebody's own words have theirs."""
    return text if text.endswith("”") else text.rstrip(".?") + stop


def _within(word: str, lines: Sequence[Said]) -> str:
    """A title's first word as it stands within a sentence: with a small letter, unless it is always said with a capital."""
    small = word[:1].lower() + word[1:]
    return small if any(small in said.text for said in lines) else word

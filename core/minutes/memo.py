"""A memo of one kind of thing across a record: all requests, all decisions, everything said about something, what one person said."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from core.minutes.templates import FINDINGS, SUBJECT_HEADINGS
from core.problems import InputProblem
from core.reading.base import Finding, Said
from core.reading.passages import SUBJECTS
from core.reading.wording import quoted
from core.reading.words import terms
from core.record.model import Record


@dataclass(frozen=True, slots=True)
class MemoLine:
    """Something of the kind asked for, with the lines it rests on (never none)."""

    text: str
    said: tuple[Said, ...]


def memo(
    record: Record, lines: Sequence[Said], findings: Sequence[Finding], kind: str = "", about: str = "", speaker: str = ""
) -> list[MemoLine]:
    """What a record has of a kind of finding or a subject, about something, by somebody; each that is given narrows it, in order of time.

    Raises InputProblem where nothing is asked for, or a kind there is not.
    """
    if not (kind or about or speaker):
        raise InputProblem("Say what to gather: a kind of thing, what it is about, or who said it.")
    if kind and kind not in FINDINGS and kind not in SUBJECTS:
        raise InputProblem(f"There is no {kind!r} to gather. There is: {', '.join((*FINDINGS, *SUBJECTS))}.")
    if kind in FINDINGS:
        found = [MemoLine(one.text, one.said) for one in findings if one.kind == kind and one.status == "standing"]
    elif kind:
        found = [MemoLine(one.text, one.said) for one in SUBJECTS[kind](lines, record)]
    else:
        found = [MemoLine(quoted(said), (said,)) for said in lines]
    if about:
        wanted = set(terms(about))
        if not wanted:
            raise InputProblem(f"“{about}” has no word that could be looked for. Name a thing.")
        bags = [set(terms(said.text)) for said in lines]
        found = [one for one in found if any(_is_about(bags, said.index, wanted) for said in one.said)]
    if speaker:
        found = [one for one in found if any(said.speaker == speaker for said in one.said)]
    return sorted(found, key=lambda one: min(said.index for said in one.said))


def _is_about(bags: Sequence[set[str]], index: int, wanted: set[str]) -> bool:
    """Does a line say one of the words, and together with the line before all of them: "The boiler. It leaks"?"""
    return bool(wanted & bags[index]) and wanted <= bags[index] | (bags[index - 1] if index else set())


def heading_of(kind: str) -> str:
    """What a kind of thing is called."""
    return SUBJECT_HEADINGS.get(
        kind,
        {"decision": "Decisions", "action": "Actions", "question": "Open questions", "date": "Dates named", "figure": "Figures named"}.get(
            kind, ""
        ),
    )

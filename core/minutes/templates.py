"""Templates: which sections the minutes of a kind of meeting have, and what goes into each."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from core.problems import InputProblem
from core.reading.passages import SUBJECTS
from core.text import Put

FINDINGS = ("decision", "action", "question", "date", "figure")
OF_ITS_OWN = ("gist", "chapters")
"""What a section may take besides findings and passages of a subject."""
_MOST = 60


@dataclass(frozen=True, slots=True)
class Section:
    """A section of the minutes.

    key: stays the same whatever the heading, so that lines by hand stay in it. takes: kinds of findings, subjects of passages, "gist" or
    "chapters"; none: any line that `cues` or `topics` choose. speakers: names or roles, whose lines alone count; none: everyone's.
    topics: only what is said where one of these is talked about. cues: only lines with one of these words. most: at most so many lines.
    """

    key: str
    heading: str
    takes: tuple[str, ...] = ()
    speakers: tuple[str, ...] = ()
    topics: tuple[str, ...] = ()
    cues: tuple[str, ...] = ()
    most: int = 30


@dataclass(frozen=True, slots=True)
class Template:
    """Sections in their order. `kind` is the template's name in addresses and on the command line."""

    kind: str
    title: str
    sections: tuple[Section, ...]

    def section(self, key: str) -> Section | None:
        """The section of this key."""
        return next((section for section in self.sections if section.key == key), None)


def put_into(template: Template, put: Put) -> Template:
    """A template that comes with the program, its title and headings in another language."""
    return replace(template, title=put(template.title), sections=tuple(replace(one, heading=put(one.heading)) for one in template.sections))


GIST = Section("gist", "In short", ("gist",), most=5)
DECISIONS = Section("decisions", "Decisions", ("decision",))
ACTIONS = Section("actions", "Actions", ("action",))
QUESTIONS = Section("questions", "Open questions", ("question",))


def _subject(subject: str, heading: str, most: int = 8) -> Section:
    return Section(subject, heading, (subject,), most=most)


def _template(kind: str, title: str, *own: Section, actions: str = "Actions", after: Sequence[Section] = ()) -> Template:
    return Template(kind, title, (GIST, *own, DECISIONS, replace(ACTIONS, heading=actions), *after, QUESTIONS))


BUILT_IN: dict[str, Template] = {
    template.kind: template
    for template in (
        Template("plain", "In plain order", (GIST, DECISIONS, ACTIONS, QUESTIONS)),
        Template("chronological", "As it went", (GIST, Section("course", "In order of time", ("chapters", "decision", "action", "question"), most=_MOST))),
        _template("status", "Status round", _subject("progress", "Where things stand"), _subject("blocked", "What is in the way", 6)),
        _template("one_to_one", "One-to-one", _subject("wishes", "How it is going", 6), _subject("feedback", "Said to one another", 6), actions="Agreed to do"),
        _template("supplier", "Supplier or client call", _subject("needs", "Needs", 6), _subject("problems", "Problems", 6), _subject("requests", "Requests"), _subject("objections", "Objections", 6), _subject("terms", "Prices and terms", 6), actions="Next steps"),
        _template("interview", "Interview", _subject("background", "Background", 6), _subject("experience", "Experience with named things"), _subject("strengths", "Strengths, in their words", 6), _subject("asked", "Asked and answered", 10), actions="Next steps"),
        _template("incident", "Incident review", _subject("happened", "What happened", 14), _subject("causes", "Causes", 6), _subject("measures", "Measures"), actions="To be done"),
        _template("retrospective", "Looking back", _subject("went_well", "What went well"), _subject("went_badly", "What did not"), _subject("changes", "To do differently")),
        _template("board", "Board", _subject("motions", "Motions", 20), _subject("reports", "Reports", 6)),
        _template("planning", "Planning", Section("dates", "Dates named", ("date",), most=10), Section("figures", "Figures named", ("figure",), most=8), after=[_subject("concerns", "What speaks against it", 5)]),
        _template("brainstorm", "Ideas", _subject("ideas", "Ideas", 14), _subject("concerns", "What speaks against them", 6)),
        _template("handover", "Handing over", _subject("progress", "How things stand", 10), _subject("blocked", "To watch", 8)),
    )
}  # fmt: skip
"""Kind → the template that comes with the program."""

SUBJECT_HEADINGS = {
    section.takes[0]: section.heading
    for template in BUILT_IN.values()
    for section in template.sections
    if section.takes and section.takes[0] in SUBJECTS
}
"""Subject → how the templates call it."""


def template_from(data: Mapping[str, Any]) -> Template:
    """A template from what a workspace wrote: {"kind", "title", "sections": [{"heading", "takes", "speakers", "topics", "cues", "most"}]}.

    Raises InputProblem that says which section is wrong, and how.
    """
    title = str(data.get("title", "")).strip()
    if not title:
        raise InputProblem("A template needs a title.")
    sections: list[Section] = []
    for number, one in enumerate(data.get("sections") or [], start=1):
        heading = str(one.get("heading", "")).strip()
        if not heading:
            raise InputProblem(f"Section {number} needs a heading.")
        takes, speakers, topics, cues = (_words(one.get(name)) for name in ("takes", "speakers", "topics", "cues"))
        if unknown := set(takes) - {*FINDINGS, *OF_ITS_OWN, *SUBJECTS}:
            raise InputProblem(
                f"Section “{heading}” is to take {min(unknown)!r}, which there is not. There is: {', '.join((*OF_ITS_OWN, *FINDINGS, *SUBJECTS))}."
            )
        if not (takes or speakers or topics or cues):
            raise InputProblem(f"Section “{heading}” takes nothing. Say what goes in: kinds, people, topics, or cue words.")
        most = one.get("most") or 30
        if not isinstance(most, int) or not 1 <= most <= _MOST:
            raise InputProblem(f"Section “{heading}”: between 1 and {_MOST} lines at the most.")
        key = str(one.get("key") or "").strip() or _key(
            heading, takes if not (speakers or topics or cues) else (), {section.key for section in sections}
        )
        if key in {section.key for section in sections}:
            raise InputProblem(f"There are two sections “{heading}”. Give each a heading of its own.")
        sections.append(Section(key, heading, takes, speakers, topics, cues, most))
    if not sections:
        raise InputProblem("A template needs a section.")
    return Template(str(data.get("kind") or "own"), title, tuple(sections))


def _words(given: object) -> tuple[str, ...]:
    return tuple(dict.fromkeys(str(word).strip() for word in given if str(word).strip())) if isinstance(given, list | tuple) else ()


def _key(heading: str, takes: tuple[str, ...], taken: set[str]) -> str:
    """Sections that take just what a built-in one takes have its key, so that lines by hand find their place in both."""
    known = next((s.key for s in (GIST, DECISIONS, ACTIONS, QUESTIONS) if takes and s.takes == takes and s.key not in taken), None)
    return known or re.sub(r"\W+", "_", heading.lower()).strip("_")[:40] or "section"

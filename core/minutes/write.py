"""A reading laid out as minutes."""

from __future__ import annotations

from dataclasses import dataclass

from core.reading import Reading
from core.reading.base import Finding, Said

SECTIONS = {"gist": "Gist", "decisions": "Decisions", "actions": "Actions", "questions": "Open questions"}
"""Section → heading, in the order in which they stand."""

_SECTION_OF = {"decision": "decisions", "action": "actions", "question": "questions"}


@dataclass(frozen=True, slots=True)
class MinutesLine:
    """A line of the minutes. `hand` is None for a drawn line, else whose words it is in; a drawn line has at least one line of the record.

    `drawn` is True also for a drawn line that a person has worded anew, confirmed or taken out.
    """

    section: str
    text: str
    said: tuple[Said, ...] = ()
    finding: Finding | None = None
    hand: str | None = None
    drawn: bool = True


def write_minutes(reading: Reading) -> list[MinutesLine]:
    """Drawn lines in order of section and time. Only what is standing is stated."""
    lines = [MinutesLine("gist", sentence.text, sentence.said) for sentence in reading.gist]
    standing = [finding for finding in reading.findings if finding.status == "standing"]
    for kind, section in _SECTION_OF.items():
        lines += [MinutesLine(section, finding.text, finding.said, finding) for finding in standing if finding.kind == kind]
    return lines

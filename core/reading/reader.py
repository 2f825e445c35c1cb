"""Everything that is read from a record, in one go."""

from __future__ import annotations

from dataclasses import dataclass, replace

from core.reading.actions import find_actions
from core.reading.base import PROPOSED, STATED, Finding, all_said
from core.reading.chapters import Chapter, find_chapters
from core.reading.decisions import find_decisions
from core.reading.gist import GistSentence, write_gist
from core.reading.particulars import find_dates, find_figures
from core.reading.questions import find_questions
from core.record.model import Record

READER_VERSION = "tables-1"
"""Stored with what was read, so that a newer reader knows what it may replace."""

DETECTORS = (find_decisions, find_actions, find_questions, find_dates, find_figures)
"""Each takes all lines and the record, and returns findings with a confidence."""


@dataclass(frozen=True, slots=True)
class Reading:
    """What a record holds, for minutes: findings in order of time, chapters, gist."""

    findings: tuple[Finding, ...]
    chapters: tuple[Chapter, ...]
    gist: tuple[GistSentence, ...]


def read(record: Record) -> Reading:
    """Read a record. Every finding and every sentence of the gist names the lines it rests on."""
    lines = all_said(record)
    findings = [_judged(finding) for detect in DETECTORS for finding in detect(lines, record) if finding.confidence >= PROPOSED]
    findings.sort(key=lambda finding: (finding.start, finding.kind))
    chapters = find_chapters(record)
    return Reading(tuple(findings), tuple(chapters), tuple(write_gist(record, findings, chapters, lines)))


def _judged(finding: Finding) -> Finding:
    return finding if finding.confidence >= STATED else replace(finding, status="proposed")

"""Everything that is read from a record, in one go."""

from __future__ import annotations

from dataclasses import dataclass, replace

from core.reading.base import PROPOSED, STATED, Finding, all_said
from core.reading.chapters import Chapter, find_chapters
from core.reading.encoder import Encoder
from core.reading.findings import find_findings
from core.reading.gist import GistSentence, write_gist
from core.reading.particulars import find_dates, find_figures
from core.record.model import Record

READER_VERSION = "taught-1"
"""Stored with what was read, so that a newer reader knows what it may replace."""


@dataclass(frozen=True, slots=True)
class Reading:
    """What a record holds, for minutes: findings in order of time, chapters, gist."""

    findings: tuple[Finding, ...]
    chapters: tuple[Chapter, ...]
    gist: tuple[GistSentence, ...]


def read(record: Record, encoder: Encoder) -> Reading:
    """Read a record. Every finding and every sentence of the gist names the lines it rests on."""
    lines = all_said(record)
    turns = encoder.turns(record.turns)
    drawn = [*find_findings(record, lines, turns.likely), *find_dates(lines, record), *find_figures(lines, record)]
    findings = sorted(
        (_judged(finding) for finding in drawn if finding.confidence >= PROPOSED), key=lambda finding: (finding.start, finding.kind)
    )
    chapters = find_chapters(record, turns)
    return Reading(tuple(findings), tuple(chapters), tuple(write_gist(record, findings, chapters, lines)))


def _judged(finding: Finding) -> Finding:
    return finding if finding.confidence >= STATED else replace(finding, status="proposed")

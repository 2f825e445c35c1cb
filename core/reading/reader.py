"""Everything that is read from a record, in one go."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

from core.reading.base import PROPOSED, STATED, Finding, all_said
from core.reading.chapters import AgendaPoint, Chapter, find_chapters
from core.reading.compression import LANGUAGE, in_full
from core.reading.encoder import Encoder, Turns
from core.reading.findings import find_findings
from core.reading.gist import GistSentence, write_gist
from core.reading.particulars import find_dates, find_figures
from core.reading.passage import passage
from core.reading.topics import Topic, find_topics
from core.reading.words import terms
from core.record.model import Record
from core.text import Put, as_written

READER_VERSION = "taught-4"
"""Stored with what was read, so that a newer reader knows what it may replace."""


@dataclass(frozen=True, slots=True)
class Reading:
    """What a record holds, for minutes: findings in order of time, chapters, gist, key terms.

    `replaced`: what was settled first, with the decision that took its place. `turns`: what the encoder says of the record's turns.
    """

    findings: tuple[Finding, ...]
    chapters: tuple[Chapter, ...]
    gist: tuple[GistSentence, ...]
    topics: tuple[Topic, ...] = ()
    replaced: tuple[tuple[Finding, Finding], ...] = ()
    turns: Turns | None = None


@dataclass(frozen=True, slots=True)
class Read:
    """A meeting as it was read: its record, what was found in it, what the encoder says of its turns."""

    record: Record
    findings: Sequence[Finding]
    turns: Turns


def read(
    record: Record,
    encoder: Encoder,
    agenda: Sequence[AgendaPoint] = (),
    report: Callable[[float], None] = lambda done: None,
    turns: Turns | None = None,
    put: Put = as_written,
    brief: bool = False,
) -> Reading:
    """Read a record. Every finding and every sentence of the gist names the lines it rests on.

    report: told now and then how much is done, 0 to 1. turns: what the encoder says of the record's turns, where it is known already.
    put: how our own words are put in the record's language. brief: sentences as the rules word them and no more, where somebody waits for them.
    """
    lines = all_said(record)
    turns = turns or encoder.turns(record.turns, report)
    read_from = [*find_findings(record, lines, turns.likely), *find_dates(lines, record), *find_figures(lines, record)]
    drawn: Iterable[Finding] = [finding for finding in read_from if finding.confidence >= PROPOSED]
    if not brief:
        drawn = _in_full(drawn, record, encoder)
    findings = sorted(map(_judged, drawn), key=lambda finding: (finding.start, finding.kind))
    chapters = find_chapters(record, turns, agenda)
    return Reading(
        tuple(findings),
        tuple(chapters),
        tuple(write_gist(record, findings, chapters, lines, put)),
        tuple(find_topics(record)),
        tuple(_replaced(findings)),
        turns,
    )


def _in_full(findings: Iterable[Finding], record: Record, encoder: Encoder) -> Iterator[Finding]:
    """Findings with what else of the lines they cite belongs into their sentences; in the language that this is known of."""
    turns, places = [(turn.speaker, turn.text) for turn in record.turns], {turn.id: place for place, turn in enumerate(record.turns)}
    for finding in findings:
        if finding.kind == "date" or finding.kind == "figure" or (record.language or LANGUAGE) != LANGUAGE:
            yield finding
            continue
        cited, shown = {places[said.turn] for said in finding.said}, turns.copy()
        for place in cited:
            shown[place] = turns[place][0], " ".join(said.text for said in finding.said if places[said.turn] == place)
        cut = passage(finding.kind, shown, cited, record.people, owner=finding.owner)
        yield replace(finding, text=in_full(finding.text, cut, encoder.compressor.wanted), written="rules")


def _judged(finding: Finding) -> Finding:
    return finding if finding.confidence >= STATED or finding.status == "superseded" else replace(finding, status="proposed")


def _replaced(findings: Sequence[Finding]) -> list[tuple[Finding, Finding]]:
    """Each decision that did not stand, with the later one that took its place: the one that shares most words, of equals the nearest."""
    pairs = []
    standing = [finding for finding in findings if finding.kind == "decision" and finding.status == "standing"]
    words = {id(finding): set(terms(" ".join(said.text for said in finding.said))) for finding in findings if finding.kind == "decision"}
    spread = Counter(term for bag in words.values() for term in bag)
    for earlier in (finding for finding in findings if finding.status == "superseded"):
        later = [finding for finding in standing if finding.start > earlier.start]
        shared = {id(one): sum(1 / spread[term] for term in words[id(one)] & words[id(earlier)]) for one in later}
        if later:
            pairs.append((earlier, max(later, key=lambda one: (shared[id(one)], -one.start))))
    return pairs

"""Minutes as core sees them: the reading as it is kept, the lines that stand, the templates there are."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import Literal, cast

from django.db.models import Prefetch

from core.minutes import BUILT_IN, Template, template_from
from core.minutes import MinutesLine as Drawn
from core.minutes.markdown import headings
from core.minutes.templates import put_into
from core.minutes.write import Agreed
from core.reading import Reading
from core.reading.base import Finding as Found
from core.reading.base import Kind, Said, Status, Written, all_said
from core.reading.chapters import Chapter as Stretch
from core.reading.gist import write_gist
from core.record.model import Record
from server.accounts.models import Workspace
from server.languages import alongside, translated
from server.meetings.models import Meeting
from server.minutes.models import Chapter, Finding, FindingKind, FindingStatus, MinutesLine
from server.minutes.models import Template as Own
from server.record.models import Line

# Only which lines they are: words and search vectors are heavy.
LINE_NUMBERS = Prefetch("lines", Line.objects.only("pk", "number", "start", "end"))
OWN = "own-"
"""How the name of a workspace's own template begins."""


def find_template(workspace: Workspace, name: str) -> Template | None:
    """A template by its name, built in or of the workspace's own, or None."""
    if name in BUILT_IN:
        return put_into(BUILT_IN[name], translated)
    key = name.removeprefix(OWN)
    own = Own.objects.filter(workspace=workspace, pk=int(key), removed_at=None).first() if name.startswith(OWN) and key.isdigit() else None
    return template_from({**own.data, "title": own.title, "kind": name}) if own else None


def template_of(meeting: Meeting) -> Template:
    """How a meeting's minutes are laid out: as somebody chose, else as the talk suggests, else plainly."""
    for name in (meeting.template, meeting.proposed_template):
        if name and (found := find_template(meeting.workspace, name)):
            return found
    return put_into(BUILT_IN["plain"], translated)


def load_reading(meeting: Meeting, record: Record) -> Reading:
    """What was read, as it was kept; what people dismissed or jotted down is not part of it.

    The gist says of a finding what its line of the minutes says now, and nothing of one that somebody took out.
    """
    lines = all_said(record)
    findings, in_gist = [], []
    changed: set[int] = set()  # lines of the record on which something rests that people have worded, taken out or dismissed
    stands = {row.finding_id: row for row in MinutesLine.objects.filter(meeting=meeting).exclude(finding=None).order_by("removed_at")}
    for row in Finding.objects.filter(meeting=meeting, jotted_by=None).prefetch_related(LINE_NUMBERS):
        if not (said := evidence(row, lines)):
            continue
        found, line = found_of(row, said), stands.get(row.pk)
        if row.status == FindingStatus.DISMISSED or line and (line.by_hand or line.removed_at):
            changed |= {one.index for one in said}
        if row.status != FindingStatus.DISMISSED:
            findings.append(found)
            if line is None or line.removed_at is None:
                in_gist.append(replace(found, text=line.text) if line and line.by_hand else found)
    findings.sort(key=lambda finding: (finding.start, finding.kind))
    chapters = [_chapter(row, lines, changed) for row in Chapter.objects.filter(meeting=meeting).order_by("start").prefetch_related(LINE_NUMBERS)]
    with alongside(record.language):
        return Reading(tuple(findings), tuple(chapters), tuple(write_gist(record, in_gist, chapters, lines, translated)))


def _chapter(row: Chapter, lines: list[Said], changed: set[int]) -> Stretch:
    """A summary that rests on what people have changed since says no longer what stands, and is left out."""
    said = evidence(row, lines)
    by = cast(Literal["agenda", "rules", "writer"], row.by)
    if changed & {one.index for one in said}:
        return Stretch(row.title, row.turn, row.start, by)
    return Stretch(row.title, row.turn, row.start, by, row.summary, said)


def stated(meeting: Meeting, record: Record) -> list[Found]:
    """What stands, drawn or jotted down, as far as it rests on lines: what a question about decisions or actions is answered from."""
    lines = all_said(record)
    rows = Finding.objects.filter(meeting=meeting, status=FindingStatus.STANDING, kind__in=Finding.STATED).prefetch_related(LINE_NUMBERS)
    return [found_of(row, said) for row in rows.order_by("start") if (said := evidence(row, lines))]


def found_of(row: Finding, said: tuple[Said, ...]) -> Found:
    """A finding as core has it, on these lines."""
    kind, status, written = cast(Kind, row.kind), cast(Status, row.status), cast(Written, row.written)
    return Found(kind, row.text, said, row.confidence, row.owner_name or None, row.due, status, written)


def evidence(row: Finding | MinutesLine | Chapter, lines: list[Said]) -> tuple[Said, ...]:
    """The lines a row rests on, in order."""
    return tuple(lines[number - 1] for number in sorted(line.number for line in row.lines.all()) if number <= len(lines))


def standing(meeting: Meeting, lines: list[Said], *, removed: bool = True) -> list[tuple[MinutesLine, Drawn]]:
    """The lines of the minutes, each as it is kept and as core sees it; `held` is the key of one in which a person had a say."""
    rows = MinutesLine.objects.filter(meeting=meeting).select_related("finding").prefetch_related(LINE_NUMBERS, "finding__lines")
    return [(row, as_drawn(row, lines)) for row in rows if removed or row.removed_at is None]


def as_drawn(row: MinutesLine, lines: list[Said]) -> Drawn:
    """A line as core sees it."""
    said, found = evidence(row, lines), row.finding
    finding = found_of(found, said) if found and said else None
    agreed = None
    if found and found.kind == FindingKind.ACTION:
        agreed = Agreed(found.owner_name or None, found.due, found.done_at is not None)
    held = str(row.pk) if row.held else None
    return Drawn(row.section, row.text, said, finding, row.hand_initials or None, row.drawn, held, agreed=agreed)


def sections_of(meeting: Meeting, sections: Iterable[str], template: Template | None = None) -> dict[str, str]:
    """Section → heading, in order: those of the meeting's template, then others that are named."""
    return headings(template or template_of(meeting), sections, translated)


def takes(template: Template, section: str, kind: str) -> bool:
    """Is a section of minutes laid out by a template one for findings of a kind?"""
    return any(one.key == section and kind in one.takes for one in template.sections) or section == _section_for(template, kind)


def section_for(meeting: Meeting, kind: str) -> str:
    """Where a finding of a kind belongs in a meeting's minutes."""
    return _section_for(template_of(meeting), kind)


def _section_for(template: Template, kind: str) -> str:
    return next((section.key for section in template.sections if kind in section.takes), f"{kind}s")

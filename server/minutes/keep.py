"""Between what core draws and the findings and minutes as they are kept."""

from __future__ import annotations

from collections.abc import Iterable

from django.db.models import Prefetch

from core.minutes import MinutesLine as Drawn
from core.minutes import merge
from core.reading import Reading
from core.reading.base import Said
from server.meetings.models import Meeting, Person
from server.minutes.models import Chapter, Finding, MinutesLine
from server.record.models import Line

# Only which lines they are: words and search vectors are heavy.
_IDS = Prefetch("lines", Line.objects.only("pk"))


def _line_rows(meeting: Meeting) -> dict[int, int]:
    """Number of a line among all (from 0, as core counts) → its key."""
    return {number - 1: key for number, key in Line.objects.filter(meeting=meeting).values_list("number", "id")}


def keep_reading(meeting: Meeting, reading: Reading) -> None:
    """Replace what was drawn. What people said of a finding (done, confirmed, dismissed) stays with one on the same lines."""
    rows = _line_rows(meeting)
    judged = {
        (finding.kind, frozenset(line.pk for line in finding.lines.all())): finding
        for finding in Finding.objects.filter(meeting=meeting, jotted_by=None).prefetch_related(_IDS, "minutes_lines")
    }
    people = {person.name: person for person in Person.objects.filter(workspace=meeting.workspace_id)}
    old = [finding.pk for finding in judged.values()]
    Chapter.objects.filter(meeting=meeting).delete()
    for drawn in reading.findings:
        lines = [rows[said.index] for said in drawn.said]
        before = judged.get((drawn.kind, frozenset(lines)))
        answered = before is not None and (before.status == "dismissed" or any(line.by_hand for line in before.minutes_lines.all()))
        finding = Finding.objects.create(
            meeting=meeting,
            kind=drawn.kind,
            text=drawn.text,
            status=before.status if answered else drawn.status,
            confidence=drawn.confidence,
            due=drawn.due,
            owner=people.get(drawn.owner),
            owner_name=drawn.owner or "",
            start=drawn.start,
            end=drawn.end,
            done_at=before.done_at if before else None,
        )
        finding.lines.set(lines)
    Finding.objects.filter(pk__in=old).delete()
    Chapter.objects.bulk_create([Chapter(meeting=meeting, title=c.title[:200], turn=c.from_turn, start=c.start) for c in reading.chapters])


def keep_minutes(meeting: Meeting, drawn: list[Drawn]) -> None:
    """Write the drawn lines anew around those by hand, which stand as they are, where they are."""
    rows = _line_rows(meeting)
    numbers = {key: index for index, key in rows.items()}
    standing: dict[int, MinutesLine] = {}
    before: list[Drawn] = []
    said_at: dict[int, Said] = {said.index: said for line in drawn for said in line.said}
    for line in MinutesLine.objects.filter(meeting=meeting).prefetch_related(_IDS):
        evidence = tuple(said_at[numbers[row.id]] for row in line.lines.all() if numbers.get(row.id) in said_at)
        # A line that a person took out stays out: it holds its place as theirs and is merged like one.
        by_person = line.by_hand or line.removed_at is not None
        kept = Drawn(line.section, line.text, evidence, hand=str(line.pk) if by_person else None, drawn=line.drawn)
        before.append(kept)
        if by_person:
            standing[line.pk] = line
    findings = {
        (f.kind, frozenset(line.pk for line in f.lines.all())): f
        for f in Finding.objects.filter(meeting=meeting, jotted_by=None).prefetch_related(_IDS)
    }
    MinutesLine.objects.filter(meeting=meeting).exclude(pk__in=standing).delete()
    for position, line in enumerate(merge(before, drawn)):
        if line.hand:
            MinutesLine.objects.filter(pk=int(line.hand)).update(position=position)
            row = standing[int(line.hand)]
        else:
            row = MinutesLine.objects.create(meeting=meeting, section=line.section, position=position, text=line.text)
            row.lines.set(_keys(line.said, rows))
        keys = frozenset(_keys(line.said, rows))
        finding = next((f for (kind, lines), f in findings.items() if lines == keys and f"{kind}s" == line.section), None)
        if finding:
            MinutesLine.objects.filter(pk=row.pk).update(finding=finding)


def _keys(said: Iterable[Said], rows: dict[int, int]) -> list[int]:
    return [rows[one.index] for one in said]

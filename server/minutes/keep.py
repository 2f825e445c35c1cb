"""Between what core draws and the findings and minutes as they are kept."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import numpy as np
from django.db.models import F, Max

from core.minutes import MinutesLine as Drawn
from core.minutes import merge
from core.minutes.action_line import for_another
from core.reading import Reading, Turns
from core.reading.base import Finding as Found
from core.reading.base import Said
from core.record.timeline import Span
from server.accounts.models import User
from server.meetings.models import Meeting, Person
from server.meetings.people import names_of
from server.minutes.models import READ_ANEW, WORDED, Chapter, Finding, MinutesLine, TurnReading, Version, WordedBy
from server.minutes.queries import LINE_NUMBERS, standing
from server.minutes.wordings import refuse_wordings
from server.record.keep import resting_on, spoken
from server.record.models import Line, Turn

MOST_TIMES = 12
"""Of a key term, the times that are kept; what comes up more often than that is found in the record."""


def _line_rows(meeting: Meeting) -> dict[int, int]:
    """Number of a line among all (from 0, as core counts) → its key."""
    return {number - 1: key for number, key in Line.objects.filter(meeting=meeting).values_list("number", "id")}


def keep_reading(meeting: Meeting, reading: Reading, proposed_template: str = "") -> None:
    """Replace what was drawn. What people said of a finding (done, confirmed, dismissed) stays with one on the same lines."""
    rows = _line_rows(meeting)
    judged = {
        (finding.kind, frozenset(line.pk for line in finding.lines.all())): finding
        for finding in Finding.objects.filter(meeting=meeting, jotted_by=None).prefetch_related(LINE_NUMBERS, "minutes_lines")
    }
    people = {person.name: person for person in Person.objects.filter(workspace=meeting.workspace_id)}
    old = [finding.pk for finding in judged.values()]
    made: dict[int, Finding] = {}
    for drawn in reading.findings:
        lines = [rows[said.index] for said in drawn.said]
        before = judged.get((drawn.kind, frozenset(lines)))
        answered = before is not None and (before.status == "dismissed" or any(line.by_hand for line in before.minutes_lines.all()))
        finding = Finding.objects.create(
            meeting=meeting,
            kind=drawn.kind,
            status=before.status if before and answered else drawn.status,
            confidence=drawn.confidence,
            start=drawn.start,
            end=drawn.end,
            done_at=before.done_at if before else None,
            given_up=before.given_up if before else False,
            **_agreed(meeting, drawn, before, people),
        )
        finding.lines.set(lines)
        made[id(drawn)] = finding
        if before:
            MinutesLine.objects.filter(finding=before).update(finding=finding)
    for earlier, later in reading.replaced:
        Finding.objects.filter(pk=made[id(earlier)].pk).update(replaced_by=made[id(later)])
    Finding.objects.filter(pk__in=old).delete()
    _keep_chapters(meeting, reading, rows)
    if reading.turns is not None:
        _keep_turns(meeting, reading.turns)
    starts = dict(Turn.objects.filter(meeting=meeting).order_by("number").values_list("number", "start"))
    meeting.topics = [
        [topic.text, topic.count, [round(starts[turn], 2) for turn in topic.turns if turn in starts][:MOST_TIMES]] for topic in reading.topics
    ]
    meeting.proposed_template = proposed_template
    meeting.save(update_fields=["topics", "proposed_template"])


def _keep_chapters(meeting: Meeting, reading: Reading, rows: dict[int, int]) -> None:
    before = {row.turn: row.ruled or row.title for row in meeting.chapters.all()}
    Chapter.objects.filter(meeting=meeting).delete()
    for one in reading.chapters:
        row = Chapter.objects.create(
            meeting=meeting,
            title=one.title[:200],
            ruled=before.get(one.from_turn, "") if one.by == WordedBy.WRITER else "",
            by=one.by,
            turn=one.from_turn,
            start=one.start,
            summary=one.summary,
        )
        row.lines.set(_keys(one.rests_on, rows))


def keep_wording(meeting: Meeting, reading: Reading) -> None:
    """Findings and chapters as a writer has put them; which there are has not changed."""
    rows = _line_rows(meeting)
    texts: dict[tuple[str, frozenset[int]], Found] = {
        (one.kind, frozenset(_keys(one.said, rows))): one for one in reading.findings if one.written == "writer"
    }
    for row in Finding.objects.filter(meeting=meeting, jotted_by=None, kind__in=Finding.STATED).prefetch_related(LINE_NUMBERS):
        if one := texts.get((row.kind, frozenset(line.pk for line in row.lines.all()))):
            row.text, row.written = one.text, one.written
            row.save(update_fields=["text", "written"])
    _keep_chapters(meeting, reading, rows)


def _agreed(meeting: Meeting, drawn: Found, before: Finding | None, people: Mapping[str, Person]) -> dict[str, Any]:
    """Its words, whose it is and when it is due: as somebody said, else as it was drawn."""
    owner: dict[str, Any] = {"owner": people.get(drawn.owner or ""), "owner_name": drawn.owner or "", "text": drawn.text, "written": drawn.written}
    due: dict[str, Any] = {"due": drawn.due}
    if before and before.owner_by_hand:
        text = for_another(drawn.text, names_of(meeting), before.owner_name or None)
        owner = {"owner": before.owner, "owner_name": before.owner_name, "owner_by_hand": True, "given_at": before.given_at, "text": text, "written": drawn.written}
    if before and before.due_by_hand:
        due = {"due": before.due, "due_by_hand": True}
    return owner | due


def _keep_turns(meeting: Meeting, read: Turns) -> None:
    keys = list(Turn.objects.filter(meeting=meeting).order_by("number").values_list("pk", flat=True))
    TurnReading.objects.filter(turn__meeting=meeting).delete()
    TurnReading.objects.bulk_create(
        [
            TurnReading(turn_id=key, likely=[round(float(value), 4) for value in likely], vector=vector.astype(np.float16).tobytes())
            for key, likely, vector in zip(keys, read.likely, read.vectors, strict=True)
        ],
        batch_size=500,
    )


def load_turns(meeting: Meeting) -> Turns | None:
    """What the encoder says of the turns of a record, where it has read it as it stands; else None."""
    rows = list(TurnReading.objects.filter(turn__meeting=meeting).order_by("turn__number").values_list("likely", "vector"))
    if len(rows) != Turn.objects.filter(meeting=meeting).count() or not rows:
        return None
    return Turns(np.array([likely for likely, _ in rows]), np.array([np.frombuffer(vector, np.float16) for _, vector in rows], np.float32))


def keep_minutes(
    meeting: Meeting, drawn: Sequence[Drawn], lines: list[Said], why: str = READ_ANEW, by: User | None = None
) -> Version | None:
    """Write the lines drawn from a record's lines anew around those in which people had a say, which stand as they are, where they are.

    What stood before is kept as a version, where anything changes. Returns that version.
    """
    rows = _line_rows(meeting)
    before = standing(meeting, lines)
    merged = merge([line for _, line in before], drawn)
    if [_shape(line) for line in merged] == [_shape(line) for _, line in before]:
        return None
    # What only rests on other lines reads the same, and is no version of its own.
    reads = [(line.section, line.text) for line in merged] != [(line.section, line.text) for _, line in before]
    version = keep_version(meeting, why, by) if before and reads else None
    of_key = {str(row.pk): row for row, _ in before}
    held = {row.pk for row, line in before if line.held}
    findings = {
        (f.kind, frozenset(line.pk for line in f.lines.all())): f
        for f in Finding.objects.filter(meeting=meeting, jotted_by=None).prefetch_related(LINE_NUMBERS)
    }
    MinutesLine.objects.filter(meeting=meeting).exclude(pk__in=held).delete()
    for position, line in enumerate(merged):
        if line.held:
            row = of_key[line.held]
            MinutesLine.objects.filter(pk=row.pk).update(position=position)
        else:
            row = MinutesLine.objects.create(meeting=meeting, section=line.section, position=position, text=line.text)
            row.lines.set(_keys(line.said, rows))
            if line.finding:
                row.finding = findings.get((line.finding.kind, frozenset(_keys(line.said, rows))))
                row.save(update_fields=["finding"])
    return version


def _shape(line: Drawn) -> tuple:
    return line.section, line.text, tuple(said.index for said in line.said)


def keep_version(meeting: Meeting, why: str, by: User | None = None) -> Version:
    """The minutes as they stand, to be looked at, compared and had back."""
    number = (Version.objects.filter(meeting=meeting).aggregate(last=Max("number"))["last"] or 0) + 1
    kept = [
        {
            "section": row.section,
            "text": row.text,
            "hand": row.hand_id,
            "hand_initials": row.hand_initials,
            "drawn": row.drawn,
            "finding": row.finding_id,
            "removed_at": row.removed_at and row.removed_at.isoformat(),
            "confirmed_by": row.confirmed_by_id,
            "confirmed_initials": row.confirmed_initials,
            "moved": row.moved,
            "spans": [[line.start, line.end] for line in row.lines.all()],
        }
        for row in MinutesLine.objects.filter(meeting=meeting).prefetch_related(LINE_NUMBERS)
    ]
    return Version.objects.create(meeting=meeting, number=number, by=by, why=why, template=meeting.template, lines=kept)


def put_back(version: Version) -> None:
    """Have a version back, each line on the lines of the record that are said when its own were. One from before a writer has been over it
    is wanted without what that has written."""
    meeting = version.meeting
    MinutesLine.objects.filter(meeting=meeting).delete()
    said = spoken(meeting)
    findings = set(Finding.objects.filter(meeting=meeting).values_list("pk", flat=True))
    users = set(
        User.objects.filter(pk__in=[one[name] for one in version.lines for name in ("hand", "confirmed_by")]).values_list("pk", flat=True)
    )
    for position, one in enumerate(version.lines):
        row = MinutesLine.objects.create(
            meeting=meeting,
            position=position,
            hand_id=one["hand"] if one["hand"] in users else None,
            confirmed_by_id=one["confirmed_by"] if one["confirmed_by"] in users else None,
            finding_id=one["finding"] if one["finding"] in findings else None,
            **{name: one[name] for name in ("section", "text", "hand_initials", "drawn", "removed_at", "confirmed_initials", "moved")},
        )
        row.lines.set(resting_on([Span(*span) for span in one["spans"]], said))
    if version.why == WORDED:
        _unword(version)


def _unword(version: Version) -> None:
    refuse_wordings(version.meeting)
    version.meeting.chapters.update(summary="")
    version.meeting.chapters.filter(by=WordedBy.WRITER).exclude(ruled="").update(title=F("ruled"), by=WordedBy.RULES, ruled="")
    before = {one["finding"]: one["text"] for one in version.lines if not one["hand_initials"]}
    for row in Finding.objects.filter(meeting=version.meeting, pk__in=[key for key in before if key], written=WordedBy.WRITER):
        row.text = before[row.pk]
        row.written = WordedBy.QUOTED if "“" in row.text else WordedBy.RULES
        row.save(update_fields=["text", "written"])


def _keys(said: Iterable[Said], rows: dict[int, int]) -> list[int]:
    return [rows[one.index] for one in said]

"""The ledger as files: CSV (RFC 4180), Markdown, and tasks for a calendar (VTODO, RFC 5545)."""

from __future__ import annotations

from collections.abc import Iterator

from django.conf import settings
from django.utils import timezone
from icalendar import Calendar, Todo

from server.accounts.models import Membership
from server.ledger.models import MatterKind
from server.ledger.queries import Entry, Wanted, ledger
from server.tables import to_csv

FORMATS = {"csv": "text/csv; charset=utf-8", "md": "text/markdown; charset=utf-8", "ics": "text/calendar; charset=utf-8"}
_MOST = 5_000


def written(form: str, membership: Membership, wanted: Wanted) -> str:
    """What of the ledger is wanted, in one of FORMATS."""
    found = _all(membership, wanted)
    return {"csv": _table, "md": _text, "ics": _tasks}[form](found)


def _all(membership: Membership, wanted: Wanted) -> Iterator[Entry]:
    cursor, count = "", 0
    while count < _MOST:
        page, following = ledger(membership, wanted, cursor)
        yield from page
        count += len(page)
        if following is None:
            return
        cursor = following


def _facts(entry: Entry) -> tuple[str, str, str, str]:
    """Text, owner, day, how it stands."""
    finding = entry.current.finding
    assert finding is not None
    standing = entry.closed or ("open" if entry.matter.kind == MatterKind.ACTION else "stands")
    return finding.text, finding.owner_name, finding.due.isoformat() if finding.due else "", standing


def _link(entry: Entry) -> str:
    return f"{settings.BASE_URL}/meetings/{entry.current.meeting_id}"


def _table(found: Iterator[Entry]) -> str:
    rows = []
    for entry in found:
        meeting = entry.current.meeting
        cells = [entry.matter.kind, *_facts(entry), meeting.series.name if meeting.series else "", meeting.title]
        rows.append([*cells, meeting.started_at.date().isoformat(), str(len(entry.steps)), _link(entry)])
    return to_csv(["kind", "text", "owner", "due", "standing", "series", "meeting", "date", "steps", "link"], rows)


def _text(found: Iterator[Entry]) -> str:
    lines = ["# Ledger", ""]
    for entry in found:
        text, owner, due, standing = _facts(entry)
        said = ", ".join(part for part in (owner, f"due {due}" if due else "", standing) if part)
        lines.append(f"- {text} ({said})")
        for step in entry.steps:
            lines.append(f"  - {step.meeting.started_at:%Y-%m-%d} {step.kind}: {step.meeting.title}")
    return "\n".join(lines) + "\n"


def _tasks(found: Iterator[Entry]) -> str:
    calendar = Calendar()
    calendar.add("prodid", "-//Aftershower//Ledger//EN")
    calendar.add("version", "2.0")
    for entry in found:
        finding = entry.current.finding
        if entry.matter.kind != MatterKind.ACTION or finding is None:
            continue
        task = Todo()
        task.add("uid", f"matter-{entry.matter.pk}@{settings.BASE_URL.split('//')[-1].split(':')[0]}")
        task.add("dtstamp", timezone.now())
        task.add("summary", finding.text)
        task.add("url", _link(entry))
        if finding.owner_name:
            task.add("description", finding.owner_name)
        if finding.due:
            task.add("due", finding.due)
        task.add("status", {"done": "COMPLETED", "dropped": "CANCELLED"}.get(entry.closed or "", "NEEDS-ACTION"))
        if finding.done_at:
            task.add("completed", finding.done_at)
        calendar.add_component(task)
    return calendar.to_ical().decode()

"""Draw the minutes anew by another template, or have an earlier version back: seen before it is done, and undone after."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from django.utils import timezone

from core.minutes import Change, MinutesLine, Template, compare, merge, write_minutes
from core.reading.base import all_said
from core.record.model import Record
from server.accounts.models import Membership
from server.acting import acting
from server.meetings.models import Meeting
from server.minutes.keep import keep_minutes, keep_version, put_back
from server.minutes.models import READ_ANEW, WORDED, Version
from server.minutes.models import MinutesLine as MinutesRow
from server.minutes.queries import find_template, load_reading, standing, template_of
from server.notify import Part
from server.problems import Refused
from server.record.keep import load_record
from server.sharing.policy import Can, require


def _template(meeting: Meeting, name: str | None) -> Template:
    """The template of this name; None is the one the meeting has."""
    if name is None:
        return template_of(meeting)
    found = find_template(meeting.workspace, name or meeting.proposed_template or "plain")
    if found is None:
        raise Refused(422, "There is no such template. Choose another.")
    return found


def _draw(meeting: Meeting, record: Record, template: Template) -> list[MinutesLine]:
    return write_minutes(load_reading(meeting, record), record, template)


def preview(membership: Membership, meeting: Meeting, template: str | None) -> list[Change]:
    """What would change if the minutes were drawn anew by a template."""
    require(membership, Can.CHANGE, meeting)
    record = load_record(meeting)
    pairs = standing(meeting, all_said(record))
    removed = {str(row.pk) for row, _ in pairs if row.removed_at}
    after = merge([line for _, line in pairs], _draw(meeting, record, _template(meeting, template)))
    return compare([line for row, line in pairs if row.removed_at is None], [line for line in after if line.held not in removed])


def draw(membership: Membership, meeting: Meeting, template: str | None) -> Version | None:
    """Draw the minutes anew. What people wrote, confirmed, moved or took out stands; how it was before is kept, and returned where it differs."""
    with acting(membership, Can.CHANGE, "draw minutes", meeting, tells=(Part.MINUTES,)) as act:
        meeting.refresh_from_db(fields=["template", "proposed_template"])
        chosen = _template(meeting, template)
        act.note(template=chosen.kind)
        record = load_record(meeting)
        version = keep_minutes(meeting, _draw(meeting, record, chosen), all_said(record), "drawn anew", membership.user)
        _take(meeting)
        if template is not None and template != meeting.template:
            meeting.template = template
            meeting.save(update_fields=["template"])
    return version


def restore(membership: Membership, version: Version) -> Version:
    """Have an earlier version back; how the minutes stood until now is kept as a version of its own, and returned."""
    meeting = version.meeting
    with acting(membership, Can.CHANGE, "restore minutes", meeting, tells=(Part.MINUTES,), version=version.number):
        kept = keep_version(meeting, "put back", membership.user)
        _take(meeting)
        put_back(version)
        Meeting.objects.filter(pk=meeting.pk).update(template=version.template)
    return kept


@dataclass(frozen=True)
class Untold:
    """What came of it that nobody asked for (READ_ANEW, WORDED) and nobody has taken yet: how many lines differ from the version before it."""

    since: int
    why: str
    lines: int


def untold(meeting: Meeting, rows: Sequence[MinutesRow]) -> Untold | None:
    """What reading the record anew, or a writer, has changed; None: nothing.

    rows: the lines of the minutes as they stand.
    """
    for version in reversed(meeting.versions.filter(why__in=(READ_ANEW, WORDED), accepted_at=None)):
        before = of_version(version)
        if not any(line.drawn and not line.hand for line in before):
            continue  # there were only people's own lines: these were the first minutes
        now = [MinutesLine(row.section, row.text, drawn=row.drawn) for row in rows if row.removed_at is None]
        ways = Counter(change.how for change in compare(before, now))
        # Without their evidence a line in other words is one that comes and one that goes.
        lines = max(ways["added"], ways["gone"]) + ways["moved"] + ways["reworded"]
        return Untold(version.number, version.why, lines) if lines else None
    return None


def accept(membership: Membership, meeting: Meeting) -> None:
    """Take what reading the record anew has made of the minutes; it is not told any more. The versions stay."""
    with acting(membership, Can.CHANGE, "accept minutes", meeting, tells=(Part.MINUTES,)) as act:
        if not _take(meeting):
            act.nothing()


def _take(meeting: Meeting) -> int:
    return meeting.versions.filter(accepted_at=None).update(accepted_at=timezone.now())


def against_now(version: Version) -> list[Change]:
    """What differs between a version and the minutes as they stand."""
    lines = all_said(load_record(version.meeting))
    return compare(of_version(version), [line for _, line in standing(version.meeting, lines, removed=False)])


def of_version(version: Version) -> Sequence[MinutesLine]:
    """The lines a version showed; which lines of the record they rest on does not matter for comparing."""
    return [
        MinutesLine(one["section"], one["text"], hand=one["hand_initials"] or None, drawn=one["drawn"])
        for one in version.lines
        if not one["removed_at"]
    ]

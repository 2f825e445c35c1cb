"""Draw the minutes anew by another template, or have an earlier version back: seen before it is done, and undone after."""

from __future__ import annotations

from collections.abc import Sequence

from core.minutes import Change, MinutesLine, Template, compare, merge, write_minutes
from core.reading.base import all_said
from core.record.model import Record
from server.accounts.models import Membership
from server.acting import acting
from server.meetings.models import Meeting
from server.minutes.keep import keep_minutes, keep_version, put_back
from server.minutes.models import Version
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
        if template is not None and template != meeting.template:
            meeting.template = template
            meeting.save(update_fields=["template"])
    return version


def restore(membership: Membership, version: Version) -> Version:
    """Have an earlier version back; how the minutes stood until now is kept as a version of its own, and returned."""
    meeting = version.meeting
    with acting(membership, Can.CHANGE, "restore minutes", meeting, tells=(Part.MINUTES,), version=version.number):
        kept = keep_version(meeting, "put back", membership.user)
        put_back(version)
        Meeting.objects.filter(pk=meeting.pk).update(template=version.template)
    return kept


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

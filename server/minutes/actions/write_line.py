"""Lines of the minutes in people's own hands."""

from __future__ import annotations

from collections.abc import Sequence

from django.db import transaction
from django.db.models import F
from django.utils import timezone

from core.minutes import SECTIONS
from server.accounts.models import Membership
from server.audit.log import log
from server.meetings.models import Meeting
from server.minutes.models import MinutesLine
from server.problems import Refused, not_allowed
from server.record.models import Line
from server.sharing.visibility import may_change


def _checked(membership: Membership, meeting: Meeting, text: str | None) -> None:
    if not may_change(membership, meeting):
        raise not_allowed("Guests read minutes; they do not write in them.")
    if text is not None and not text.strip():
        raise Refused(422, "A line of the minutes cannot be empty. To take it out, remove it.")


def add_line(
    membership: Membership, meeting: Meeting, section: str, text: str, lines: Sequence[int] = (), *, drawn: bool = False
) -> MinutesLine:
    """A new line at the end of a section, in the member's hand, resting on lines of the record where some are named.

    drawn: it takes the place of a finding on the same lines.
    """
    _checked(membership, meeting, text)
    if section not in SECTIONS:
        raise Refused(422, f"There is no section {section!r}. Sections: {', '.join(SECTIONS)}.")
    with transaction.atomic():
        last = MinutesLine.objects.select_for_update().filter(meeting=meeting, section=section).order_by("-position").first()
        position = last.position + 1 if last else 0
        MinutesLine.objects.filter(meeting=meeting, position__gte=position).update(position=F("position") + 1)
        row = MinutesLine.objects.create(
            meeting=meeting,
            section=section,
            position=position,
            text=text.strip(),
            hand=membership.user,
            hand_initials=membership.user.initials,
            drawn=drawn,
        )
        row.lines.set(Line.objects.filter(meeting=meeting, number__in=lines))
        log(membership.workspace, membership.user, "write in minutes", meeting, section=section)
    return row


def correct_line(membership: Membership, row: MinutesLine, text: str) -> MinutesLine:
    """Another wording: from now on the line is in the member's hand, and stands."""
    _checked(membership, row.meeting, text)
    with transaction.atomic():
        row.text, row.hand, row.hand_initials, row.changed_at = text.strip(), membership.user, membership.user.initials, timezone.now()
        row.save(update_fields=["text", "hand", "hand_initials", "changed_at"])
        log(membership.workspace, membership.user, "correct minutes", row.meeting, section=row.section)
    return row


def set_removed(membership: Membership, row: MinutesLine, removed: bool) -> MinutesLine:
    """Take a line out of the minutes, or put it back."""
    _checked(membership, row.meeting, None)
    with transaction.atomic():
        row.removed_at = timezone.now() if removed else None
        row.save(update_fields=["removed_at"])
        log(
            membership.workspace,
            membership.user,
            "remove from minutes" if removed else "restore in minutes",
            row.meeting,
            section=row.section,
        )
    return row

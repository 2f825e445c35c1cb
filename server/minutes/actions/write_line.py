"""Lines of the minutes in people's own hands."""

from __future__ import annotations

from collections.abc import Sequence

from django.db import transaction
from django.db.models import F
from django.utils import timezone

from server.accounts.models import Membership
from server.audit.log import log
from server.meetings.models import Meeting
from server.minutes.judgements import note_judgement
from server.minutes.models import MinutesLine
from server.minutes.queries import sections_of
from server.problems import Refused, not_allowed
from server.record.models import Line
from server.sharing.visibility import may_change


def _checked(membership: Membership, meeting: Meeting, text: str | None) -> None:
    if not may_change(membership, meeting):
        raise not_allowed("Guests read minutes; they do not write in them.")
    if text is not None and not text.strip():
        raise Refused(422, "A line of the minutes cannot be empty. To take it out, remove it.")


def _check_section(meeting: Meeting, section: str) -> None:
    sections = sections_of(meeting, MinutesLine.objects.filter(meeting=meeting).values_list("section", flat=True))
    if section not in sections:
        raise Refused(422, f"There is no section {section!r} in these minutes. Sections: {', '.join(sections)}.")


def add_line(
    membership: Membership, meeting: Meeting, section: str, text: str, lines: Sequence[int] = (), *, drawn: bool = False
) -> MinutesLine:
    """A new line at the end of a section, in the member's hand, resting on lines of the record where some are named.

    drawn: it takes the place of a finding on the same lines.
    """
    _checked(membership, meeting, text)
    _check_section(meeting, section)
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
        if row.finding and row.drawn and not row.by_hand and removed:
            note_judgement(membership, row.finding, False)
        log(
            membership.workspace,
            membership.user,
            "remove from minutes" if removed else "restore in minutes",
            row.meeting,
            section=row.section,
        )
    return row


def move_line(membership: Membership, row: MinutesLine, section: str, position: int) -> MinutesLine:
    """Pull a line into a section, before the line that is at a position there (from 0); it then stays there when minutes are drawn anew."""
    _checked(membership, row.meeting, None)
    _check_section(row.meeting, section)
    with transaction.atomic():
        others = (
            MinutesLine.objects.select_for_update()
            .filter(meeting=row.meeting, removed_at=None)
            .exclude(pk=row.pk)
            .order_by("position", "id")
        )
        inside = [one for one in others if one.section == section]
        row.section, row.moved = section, True
        inside.insert(max(0, min(position, len(inside))), row)
        for place, one in enumerate([*(one for one in others if one.section != section), *inside]):
            MinutesLine.objects.filter(pk=one.pk).update(position=place)
        row.save(update_fields=["section", "moved"])
        row.refresh_from_db()
        log(membership.workspace, membership.user, "move in minutes", row.meeting, section=section)
    return row


def set_confirmed(membership: Membership, row: MinutesLine, confirmed: bool) -> MinutesLine:
    """Tick a drawn line as right, or take the tick off. A ticked line stays as it is when minutes are drawn anew."""
    _checked(membership, row.meeting, None)
    if row.by_hand:
        raise Refused(409, "This line is in a person's hand, and stands already.")
    with transaction.atomic():
        row.confirmed_by = membership.user if confirmed else None
        row.confirmed_initials = membership.user.initials if confirmed else ""
        row.save(update_fields=["confirmed_by", "confirmed_initials"])
        if row.finding and confirmed:
            note_judgement(membership, row.finding, True)
        log(membership.workspace, membership.user, "confirm line" if confirmed else "unconfirm line", row.meeting, section=row.section)
    return row

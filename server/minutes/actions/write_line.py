"""Lines of the minutes in people's own hands."""

from __future__ import annotations

from collections.abc import Sequence

from django.db.models import F
from django.utils import timezone

from core.minutes.action_line import NOTHING, Agreed
from core.text import prose
from server.accounts.models import Membership
from server.acting import acting
from server.meetings.models import Meeting
from server.minutes.actions.keep_action import filled, new_action, reread
from server.minutes.judgements import note_judgement
from server.minutes.models import FindingKind, MinutesLine
from server.minutes.opening import follow
from server.minutes.queries import sections_of, takes, template_of
from server.notify import Part
from server.problems import Refused
from server.record.models import Line
from server.sharing.policy import Can

_TELLS = (Part.MINUTES,)


def _worded(text: str) -> str:
    text = prose(text).strip()
    if not text:
        raise Refused(422, "A line of the minutes cannot be empty. To take it out, remove it.")
    return text


def _check_section(meeting: Meeting, section: str) -> None:
    sections = sections_of(meeting, MinutesLine.objects.filter(meeting=meeting).values_list("section", flat=True))
    if section not in sections:
        raise Refused(422, f"There is no section {section!r} in these minutes. Sections: {', '.join(sections)}.")


def _fresh(row: MinutesLine) -> None:
    """The line as it stands now that the meeting is locked. Raises Refused where it is gone."""
    try:
        row.refresh_from_db()
    except MinutesLine.DoesNotExist as error:
        raise Refused(404, "This line of the minutes is gone; they were written anew. Look at them again.") from error


def add_line(
    membership: Membership, meeting: Meeting, section: str, text: str, lines: Sequence[int] = (), agreed: Agreed = NOTHING
) -> MinutesLine:
    """A new line at the end of a section, in the member's hand, resting on lines of the record where some are named. In a section of actions
    it is one, whose as `agreed` says, else as the sentence does. Raises Refused."""
    with acting(membership, Can.CHANGE, "write in minutes", meeting, tells=_TELLS, section=section):
        row = append_line(membership, meeting, section, text, lines)
        if takes(template_of(meeting), section, FindingKind.ACTION):
            row.finding = new_action(membership, meeting, row.text, filled(meeting, row.text, agreed), lines=lines)
            row.save(update_fields=["finding"])
    return row


def append_line(
    membership: Membership, meeting: Meeting, section: str, text: str, lines: Sequence[int] = (), *, drawn: bool = False
) -> MinutesLine:
    """The same, in the transaction that is open. drawn: it takes the place of a finding on the same lines."""
    text = _worded(text)
    _check_section(meeting, section)
    last = MinutesLine.objects.filter(meeting=meeting, section=section).order_by("-position").first()
    position = last.position + 1 if last else 0
    MinutesLine.objects.filter(meeting=meeting, position__gte=position).update(position=F("position") + 1)
    row = MinutesLine.objects.create(
        meeting=meeting,
        section=section,
        position=position,
        text=text,
        hand=membership.user,
        hand_initials=membership.user.initials,
        drawn=drawn,
    )
    row.lines.set(Line.objects.filter(meeting=meeting, number__in=lines))
    return row


def correct_line(membership: Membership, row: MinutesLine, text: str, before: str) -> MinutesLine:
    """Another wording: from now on the line is in the member's hand, and stands.

    before: what the caller saw there, so that nobody's change is overwritten unseen. Where an action's sentence names another owner or day now,
    that is what holds. Raises Refused.
    """
    with acting(membership, Can.CHANGE, "correct minutes", row.meeting, tells=_TELLS, section=row.section):
        text = _worded(text)
        _fresh(row)
        if row.text != before:
            raise Refused(409, f"Somebody has changed this line: it now says “{row.text}”. Look at it again.", text=row.text)
        row.text, row.hand, row.hand_initials, row.changed_at = text, membership.user, membership.user.initials, timezone.now()
        row.save(update_fields=["text", "hand", "hand_initials", "changed_at"])
        reread(membership, row, before)
        follow(row)
    return row


def set_removed(membership: Membership, row: MinutesLine, removed: bool) -> MinutesLine:
    """Take a line out of the minutes, or put it back."""
    verb = "remove from minutes" if removed else "restore in minutes"
    with acting(membership, Can.CHANGE, verb, row.meeting, tells=_TELLS, section=row.section):
        _fresh(row)
        row.removed_at = timezone.now() if removed else None
        row.save(update_fields=["removed_at"])
        follow(row)
        if row.finding and row.drawn and not row.by_hand and removed:
            note_judgement(membership, row.finding, False)
    return row


def move_line(membership: Membership, row: MinutesLine, section: str, position: int) -> MinutesLine:
    """Pull a line into a section, before the line that is at a position there (from 0); it then stays there when minutes are drawn anew."""
    with acting(membership, Can.CHANGE, "move in minutes", row.meeting, tells=_TELLS, section=section):
        _check_section(row.meeting, section)
        _fresh(row)
        others = MinutesLine.objects.filter(meeting=row.meeting, removed_at=None).exclude(pk=row.pk).order_by("position", "id")
        inside = [one for one in others if one.section == section]
        row.section, row.moved = section, True
        inside.insert(max(0, min(position, len(inside))), row)
        for place, one in enumerate([*(one for one in others if one.section != section), *inside]):
            MinutesLine.objects.filter(pk=one.pk).update(position=place)
        row.save(update_fields=["section", "moved"])
        row.refresh_from_db()
    return row


def set_confirmed(membership: Membership, row: MinutesLine, confirmed: bool) -> MinutesLine:
    """Tick a drawn line as right, or take the tick off. A ticked line stays as it is when minutes are drawn anew."""
    verb = "confirm line" if confirmed else "unconfirm line"
    with acting(membership, Can.CHANGE, verb, row.meeting, tells=_TELLS, section=row.section):
        _fresh(row)
        if row.by_hand:
            raise Refused(409, "This line is in a person's hand, and stands already.")
        row.confirmed_by = membership.user if confirmed else None
        row.confirmed_initials = membership.user.initials if confirmed else ""
        row.save(update_fields=["confirmed_by", "confirmed_initials"])
        if row.finding and confirmed:
            note_judgement(membership, row.finding, True)
    return row

"""Actions as people say them: written down by hand, given to somebody else, put to another day."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from django.utils import timezone

from core.minutes.action_line import Agreed, agreed_in, for_another, whom
from server.accounts.models import Membership
from server.acting import acting
from server.meetings.models import Meeting
from server.meetings.people import day_of, find_people, names_of
from server.minutes.models import Finding, FindingKind, FindingStatus, MinutesLine
from server.minutes.opening import follow
from server.minutes.signals import jotted
from server.notify import Part
from server.problems import Refused
from server.record.models import Line
from server.sharing.policy import Can

_TELLS = (Part.MINUTES,)


def new_action(
    membership: Membership, meeting: Meeting, text: str, agreed: Agreed, at: float | None = None, lines: Sequence[int] = ()
) -> Finding:
    """An action in a person's words, in the transaction that is open. It rests on the lines of these numbers; where there are none, it was
    said `at` that second, or is said of the whole. Whoever is to do it is not let in by that, and was not there by that."""
    evidence = list(Line.objects.filter(meeting=meeting, number__in=lines).order_by("number"))
    start = evidence[0].start if evidence else at or 0.0
    finding = Finding(
        meeting=meeting,
        kind=FindingKind.ACTION,
        text=text,
        status=FindingStatus.STANDING,
        confidence=1.0,
        start=start,
        end=evidence[-1].end if evidence else start,
        jotted_by=membership.user,
    )
    _agree(finding, membership, agreed)
    finding.save()
    finding.lines.set(evidence)
    jotted.send(Finding, finding=finding)
    return finding


def give(membership: Membership, finding: Finding, was: str | None, now: str | None) -> Finding:
    """Another owner, or none. `was`: whom the caller saw there. A drawn sentence that names the owner first names the new one; one in a
    person's words stays. Raises Refused."""
    with acting(membership, Can.CHANGE, "give action", finding.meeting, tells=_TELLS):
        _fresh(finding)
        if (finding.owner_name or None) != was:
            raise Refused(409, f"Somebody has given this to {finding.owner_name or 'nobody'} meanwhile. Look at it again.")
        people = whom(names_of(finding.meeting), finding.owner_name)
        _agree(finding, membership, Agreed(now), due=False)
        finding.text = for_another(finding.text, people, finding.owner_name or None)
        finding.save()
        for row in finding.minutes_lines.all():
            if not row.by_hand:
                row.text = for_another(row.text, people, finding.owner_name or None)
                row.save(update_fields=["text"])
                follow(row)
    return finding


def put_to(membership: Membership, finding: Finding, was: date | None, now: date | None) -> Finding:
    """Another day, or none. `was`: the day the caller saw there. Raises Refused."""
    with acting(membership, Can.CHANGE, "date action", finding.meeting, tells=_TELLS):
        _fresh(finding)
        if finding.due != was:
            raise Refused(409, f"Somebody has put this to {finding.due or 'no day'} meanwhile. Look at it again.")
        finding.due, finding.due_by_hand = now, True
        finding.save()
    return finding


def reread(membership: Membership, row: MinutesLine, before: str) -> None:
    """After a sentence was put in other words: whose it is and when it is due are as it says now, where it says something else."""
    finding = row.finding
    if finding is None or finding.kind != FindingKind.ACTION:
        return
    old, new = says(row, before), says(row, row.text)
    owner = new.owner if new.owner and new.owner != old.owner else None
    due = new.due if new.due and new.due != old.due else None
    if owner:
        _agree(finding, membership, Agreed(owner), due=False)
    if due:
        finding.due, finding.due_by_hand = due, True
    if finding.jotted_by_id:
        finding.text = row.text
    finding.save()


def says(row: MinutesLine, text: str) -> Agreed:
    """What a text in place of an action's line says of who and when."""
    assert row.finding is not None
    return agreed_in(text, whom(names_of(row.meeting), row.finding.owner_name), day_of(row.meeting))


def filled(meeting: Meeting, text: str, agreed: Agreed) -> Agreed:
    """What is not given is as the sentence says."""
    said = agreed_in(text, names_of(meeting), day_of(meeting))
    return Agreed(agreed.owner or said.owner, agreed.due or said.due)


def _agree(finding: Finding, membership: Membership, agreed: Agreed, *, due: bool = True) -> None:
    person = next(iter(find_people(membership.workspace, [agreed.owner])), None) if agreed.owner else None
    if person is not None and person.pk != finding.owner_id:
        finding.given_at = timezone.now()
    finding.owner, finding.owner_name, finding.owner_by_hand = person, person.name if person else "", True
    if due:
        finding.due, finding.due_by_hand = agreed.due, True


def _fresh(finding: Finding) -> None:
    """The finding as it stands now that the meeting is locked. Raises Refused where it is gone, or is no action."""
    try:
        finding.refresh_from_db()
    except Finding.DoesNotExist as error:
        raise Refused(404, "This is gone; the record was read anew. Look at the minutes again.") from error
    if finding.kind != FindingKind.ACTION:
        raise Refused(422, "Only an action has an owner and a day.")

"""What people say of a finding: an action is done, a proposed finding is right or wrong."""

from __future__ import annotations

from django.utils import timezone

from server.accounts.models import Membership
from server.acting import acting
from server.minutes.actions.write_line import append_line
from server.minutes.judgements import note_judgement
from server.minutes.models import Finding, FindingKind, FindingStatus
from server.minutes.queries import section_for
from server.notify import Part
from server.problems import Refused
from server.sharing.policy import Can

_TELLS = (Part.MINUTES,)


def set_done(membership: Membership, finding: Finding, done: bool, *, given_up: bool = False) -> Finding:
    """Mark an action done, or open again. given_up: it is over without having been done."""
    with acting(membership, Can.CHANGE, "action done" if done else "action open", finding.meeting, tells=_TELLS, given_up=given_up):
        if finding.kind != FindingKind.ACTION:
            raise Refused(422, "Only an action can be done.")
        finding.done_at, finding.given_up = timezone.now() if done else None, done and given_up
        finding.save(update_fields=["done_at", "given_up"])
    return finding


def confirm(membership: Membership, finding: Finding) -> Finding:
    """A proposed finding is right: it is stated, as a line in the hand of whoever confirmed it."""
    with acting(membership, Can.CHANGE, "confirm finding", finding.meeting, tells=_TELLS, kind=finding.kind):
        finding.refresh_from_db(fields=["status"])
        if finding.status != FindingStatus.PROPOSED or finding.kind not in Finding.STATED:
            raise Refused(409, "This is not waiting to be confirmed.")
        finding.status = FindingStatus.STANDING
        finding.save(update_fields=["status"])
        evidence = list(finding.lines.values_list("number", flat=True))
        section = section_for(finding.meeting, finding.kind)
        line = append_line(membership, finding.meeting, section, finding.text, evidence, drawn=True)
        line.finding = finding
        line.save(update_fields=["finding"])
        note_judgement(membership, finding, True)
    return finding


def dismiss(membership: Membership, finding: Finding, dismissed: bool) -> Finding:
    """A proposed finding is wrong, or after all not."""
    verb = "dismiss finding" if dismissed else "propose finding"
    with acting(membership, Can.CHANGE, verb, finding.meeting, tells=_TELLS, kind=finding.kind):
        finding.status = FindingStatus.DISMISSED if dismissed else FindingStatus.PROPOSED
        finding.save(update_fields=["status"])
        if dismissed:
            note_judgement(membership, finding, False)
    return finding

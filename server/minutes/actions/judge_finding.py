"""What people say of a finding: an action is done, a proposed finding is right or wrong."""

from django.db import transaction
from django.utils import timezone

from server.accounts.models import Membership
from server.audit.log import log
from server.minutes.actions.write_line import add_line
from server.minutes.judgements import note_judgement
from server.minutes.models import Finding
from server.minutes.queries import section_for
from server.problems import Refused, not_allowed
from server.sharing.visibility import may_change


def _checked(membership: Membership, finding: Finding) -> None:
    if not may_change(membership, finding.meeting):
        raise not_allowed("Guests read minutes; they do not change them.")


def set_done(membership: Membership, finding: Finding, done: bool) -> Finding:
    """Mark an action done, or open again."""
    _checked(membership, finding)
    if finding.kind != "action":
        raise Refused(422, "Only an action can be done.")
    with transaction.atomic():
        finding.done_at = timezone.now() if done else None
        finding.save(update_fields=["done_at"])
        log(membership.workspace, membership.user, "action done" if done else "action open", finding.meeting)
    return finding


def confirm(membership: Membership, finding: Finding) -> Finding:
    """A proposed finding is right: it is stated, as a line in the hand of whoever confirmed it."""
    _checked(membership, finding)
    if finding.status != "proposed" or finding.kind not in ("decision", "action", "question"):
        raise Refused(409, "This is not waiting to be confirmed.")
    with transaction.atomic():
        finding.status = "standing"
        finding.save(update_fields=["status"])
        line = add_line(
            membership,
            finding.meeting,
            section_for(finding.meeting, finding.kind),
            finding.text,
            list(finding.lines.values_list("number", flat=True)),
            drawn=True,
        )
        line.finding = finding
        line.save(update_fields=["finding"])
        note_judgement(membership, finding, True)
        log(membership.workspace, membership.user, "confirm finding", finding.meeting, kind=finding.kind)
    return finding


def dismiss(membership: Membership, finding: Finding, dismissed: bool) -> Finding:
    """A proposed finding is wrong, or after all not."""
    _checked(membership, finding)
    with transaction.atomic():
        finding.status = "dismissed" if dismissed else "proposed"
        finding.save(update_fields=["status"])
        if dismissed:
            note_judgement(membership, finding, False)
        log(
            membership.workspace, membership.user, "dismiss finding" if dismissed else "propose finding", finding.meeting, kind=finding.kind
        )
    return finding

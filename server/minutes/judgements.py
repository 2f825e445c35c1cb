"""What people say of findings, kept as evidence of what a workspace means by a decision, an action, an open question."""

from server.accounts.models import Membership
from server.minutes.models import Finding, Judgement


def note_judgement(membership: Membership, finding: Finding, right: bool) -> None:
    """Somebody said that a finding is right or wrong. Only which lines it rests on is kept, so that what is struck from them is gone here too."""
    judgement = Judgement.objects.create(
        meeting=finding.meeting, user=membership.user, kind=finding.kind, right=right, confidence=finding.confidence
    )
    judgement.lines.set(finding.lines.all())

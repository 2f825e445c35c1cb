"""Questions put to a meeting; kept, shared, taken away."""

from __future__ import annotations

from django.db import transaction
from django.utils import timezone

from server.accounts.models import Membership
from server.ask.models import Question
from server.audit.log import log
from server.events import tell
from server.meetings.models import Meeting
from server.problems import Refused, not_allowed
from server.sharing.visibility import may_change


def put_question(membership: Membership, meeting: Meeting, text: str, after: Question | None = None) -> Question:
    """Ask; a guest who sees the meeting may too. after: the question it goes on from."""
    if not text.strip():
        raise Refused(422, "Ask something.")
    with transaction.atomic():
        question = Question.objects.create(meeting=meeting, user=membership.user, text=" ".join(text.split()), after=after)
        # What somebody asks is their business, the audit's not.
        log(membership.workspace, membership.user, "ask", meeting)
    return question


def change_question(membership: Membership, question: Question, shared: bool | None = None, removed: bool | None = None) -> Question:
    """Share a question of one's own with those who see the meeting, or not any more; remove it, or put it back."""
    if question.user_id != membership.user_id:
        raise not_allowed("A question is shared and removed by whoever asked it.")
    if shared and not may_change(membership, question.meeting):
        raise not_allowed("Guests ask for themselves only.")
    with transaction.atomic():
        if shared is not None:
            question.shared = shared
        if removed is not None:
            question.removed_at = timezone.now() if removed else None
        question.save()
        log(
            membership.workspace,
            membership.user,
            "change question",
            question.meeting,
            shared=question.shared,
            removed=bool(question.removed_at),
        )
        tell(question.meeting_id, "questions")
    return question

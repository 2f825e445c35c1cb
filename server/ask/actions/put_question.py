"""Questions put to a meeting; kept, shared, taken away."""

from __future__ import annotations

from django.utils import timezone

from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.ask.models import Question
from server.meetings.models import Meeting
from server.notify import Part
from server.problems import Refused, not_allowed
from server.sharing.policy import Can


def put_question(membership: Membership, meeting: Meeting, text: str, after: Question | None = None) -> Question:
    """Ask; a guest who sees the meeting may too. after: the question it goes on from."""
    # What somebody asks is their business, the audit's not.
    with acting(membership, None, "ask", meeting):
        if not one_line(text):
            raise Refused(422, "Ask something.")
        return Question.objects.create(meeting=meeting, user=membership.user, text=one_line(text)[:400], after=after)


def change_question(membership: Membership, question: Question, shared: bool | None = None, removed: bool | None = None) -> Question:
    """Share a question of one's own with those who see the meeting, or not any more; remove it, or put it back."""
    if question.user_id != membership.user_id:
        raise not_allowed("A question is shared and removed by whoever asked it.")
    with acting(membership, Can.CHANGE if shared else None, "change question", question.meeting, tells=(Part.QUESTIONS,)) as act:
        if shared is not None:
            question.shared = shared
        if removed is not None:
            question.removed_at = timezone.now() if removed else None
        question.save()
        act.note(shared=question.shared, removed=bool(question.removed_at))
    return question

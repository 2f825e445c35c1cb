"""Comments on passages, with the people they mention, and reactions in a word."""

from __future__ import annotations

from django.conf import settings
from django.core.mail import send_mail
from django.db import transaction
from django.utils import timezone

from server.accounts.models import Membership, User
from server.audit.log import log
from server.events import tell
from server.meetings.models import Meeting
from server.notes.models import Comment, Reaction
from server.problems import Refused, not_allowed
from server.sharing.visibility import may_change, visible_meetings

REACTIONS = ("agreed", "doubt", "thanks", "look")
"""What one can think of a passage in a word."""


def mentioned(membership: Membership, meeting: Meeting, text: str) -> tuple[list[User], list[str]]:
    """Whom a text mentions ("@Idris Quaye"): those who see the meeting, and the names of those who do not and are therefore not told."""
    see, blind = [], []
    for other in Membership.objects.filter(workspace=membership.workspace).select_related("user", "workspace"):
        name = other.user.called
        if f"@{name}".casefold() in text.casefold():
            if visible_meetings(other).filter(pk=meeting.pk).exists():
                see.append(other.user)
            else:
                blind.append(name)
    return see, blind


def write_comment(
    membership: Membership, meeting: Meeting, text: str, start: float, end: float, after: Comment | None = None
) -> tuple[Comment, list[str]]:
    """Say something about a passage, or answer a comment. Returns it, and whom it mentions who cannot see the meeting. Raises Refused."""
    if not may_change(membership, meeting):
        raise not_allowed("Guests read comments. Write a note for yourself.")
    if not text.strip():
        raise Refused(422, "A comment needs words.")
    if after:
        start, end = after.start, after.end
    if not 0 <= start <= end:
        raise Refused(422, "A comment has a passage: its start is not after its end.")
    people, blind = mentioned(membership, meeting, text)
    with transaction.atomic():
        comment = Comment.objects.create(
            meeting=meeting, user=membership.user, text=text.strip(), start=start, end=end, after=after and (after.after or after)
        )
        comment.mentions.set(people)
        log(membership.workspace, membership.user, "comment", meeting, mentions=len(people))
        tell(meeting.pk, "comments")
    _tell_mentioned(membership, meeting, [user for user in people if user != membership.user], start)
    return comment, blind


def _tell_mentioned(membership: Membership, meeting: Meeting, people: list[User], start: float) -> None:
    """By mail, without a word of the comment: who may no longer see the meeting tomorrow has nothing of it in the mailbox."""
    by = membership.user.called
    for user in people:
        send_mail(
            f"{by} mentions you: {meeting.title}",
            f"{by} mentions you in a comment. Read it, and hear the passage, here:\n\n"
            f"{settings.BASE_URL}/meetings/{meeting.pk}?at={start:.0f}\n",
            None,
            [user.email],
            fail_silently=True,
        )


def change_comment(membership: Membership, comment: Comment, text: str | None = None, removed: bool | None = None) -> Comment:
    """Reword one's own comment; remove it or put it back, which who governs the meeting may do as well. Raises Refused."""
    if comment.user_id != membership.user_id and (text is not None or not membership.manages):
        raise not_allowed("A comment is changed by whoever wrote it.")
    if text is not None and not text.strip():
        raise Refused(422, "A comment needs words. To take it out, remove it.")
    with transaction.atomic():
        if text is not None:
            comment.text, comment.changed_at = text.strip(), timezone.now()
            comment.mentions.set(mentioned(membership, comment.meeting, text)[0])
        if removed is not None:
            comment.removed_at = timezone.now() if removed else None
        comment.save()
        log(membership.workspace, membership.user, "change comment", comment.meeting, removed=bool(comment.removed_at))
        tell(comment.meeting_id, "comments")
    return comment


def react(membership: Membership, meeting: Meeting, kind: str, start: float, end: float, on: bool) -> None:
    """Think something of a passage, or no longer. Raises Refused."""
    if kind not in REACTIONS:
        raise Refused(422, f"There is no such reaction. Reactions: {', '.join(REACTIONS)}.")
    if not 0 <= start <= end:
        raise Refused(422, "A reaction has a passage: its start is not after its end.")
    with transaction.atomic():
        if on:
            Reaction.objects.get_or_create(meeting=meeting, user=membership.user, kind=kind, start=start, defaults={"end": end})
        else:
            Reaction.objects.filter(meeting=meeting, user=membership.user, kind=kind, start=start).delete()
        log(membership.workspace, membership.user, "react" if on else "take reaction back", meeting, kind=kind)
        tell(meeting.pk, "comments")

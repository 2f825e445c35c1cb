"""Comments on passages, with the people they mention, and reactions in a word."""

from __future__ import annotations

from django.conf import settings
from django.utils import timezone

from core.text import prose
from server.accounts.models import Membership, User
from server.acting import acting
from server.mail.post import post
from server.mail.wording import Kind
from server.meetings.models import Meeting
from server.notes.models import Comment, Reaction
from server.notify import Part
from server.problems import Refused, not_allowed
from server.sharing.policy import Can, may, require
from server.sharing.visibility import visible_meetings

_TELLS = (Part.COMMENTS,)


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
    with acting(membership, Can.CHANGE, "comment", meeting, tells=_TELLS) as act:
        text = _worded(text)
        if after:
            start, end = after.start, after.end
        if not 0 <= start <= end:
            raise Refused(422, "A comment has a passage: its start is not after its end.")
        people, blind = mentioned(membership, meeting, text)
        comment = Comment.objects.create(
            meeting=meeting, user=membership.user, text=text, start=start, end=end, after=after and (after.after or after)
        )
        comment.mentions.set(people)
        act.note(mentions=len(people))
        _tell_mentioned(membership, comment, people)
    return comment, blind


def _worded(text: str) -> str:
    text = prose(text).strip()
    if not text:
        raise Refused(422, "A comment needs words. To take it out, remove it.")
    return text


def _tell_mentioned(membership: Membership, comment: Comment, people: list[User]) -> None:
    """By mail, without a word of the comment: who may no longer see the meeting tomorrow has nothing of it in the mailbox."""
    by, meeting = membership.user, comment.meeting
    link = f"{settings.BASE_URL}/meetings/{meeting.pk}?at={comment.start:.0f}"
    for user in people:
        if user != by:
            post(Kind.MENTION, user.email, meeting=meeting, by=by, link=link, by_name=by.called, title=meeting.title)


def change_comment(membership: Membership, comment: Comment, text: str | None = None, removed: bool | None = None) -> Comment:
    """Reword one's own comment; remove it or put it back, which who governs the meeting may do as well. Raises Refused."""
    own = comment.user_id == membership.user_id
    if not own and (text is not None or not may(membership, Can.GOVERN, comment.meeting)):
        raise not_allowed("A comment is changed by whoever wrote it, and removed by them or by who governs the meeting.")
    with acting(membership, None, "change comment", comment.meeting, tells=_TELLS) as act:
        if text is not None:
            # Whoever wrote it may have become a guest since.
            require(membership, Can.CHANGE, comment.meeting)
            comment.text, comment.changed_at = _worded(text), timezone.now()
            before = set(comment.mentions.values_list("pk", flat=True))
            people, _ = mentioned(membership, comment.meeting, text)
            comment.mentions.set(people)
            _tell_mentioned(membership, comment, [user for user in people if user.pk not in before])
        if removed is not None:
            comment.removed_at = timezone.now() if removed else None
        comment.save()
        act.note(removed=bool(comment.removed_at))
    return comment


def react(membership: Membership, meeting: Meeting, kind: str, start: float, end: float, on: bool) -> None:
    """Think something of a passage, or no longer; a guest who sees the meeting may too. Raises Refused."""
    with acting(membership, None, "react" if on else "take reaction back", meeting, tells=_TELLS, kind=kind):
        if not 0 <= start <= end:
            raise Refused(422, "A reaction has a passage: its start is not after its end.")
        own = {"meeting": meeting, "user": membership.user, "kind": kind, "start": start}
        if on:
            Reaction.objects.get_or_create(**own, defaults={"end": end})
        else:
            Reaction.objects.filter(**own).delete()

"""Comments and reactions."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership, name_of
from server.answers import Answer
from server.bounds import Seconds
from server.convening.seen import seen
from server.meetings.models import Meeting
from server.notes.actions.comment import change_comment, react, write_comment
from server.notes.models import Comment, ReactionKind
from server.problems import Refused
from server.sharing.policy import Can, may
from server.sharing.visibility import seen_by, visible_meetings

router = Router(tags=["comments"], auth=signed_in)
"""As part of a meeting."""
one_router = Router(tags=["comments"], auth=signed_in)
"""A comment by itself."""


class CommentOut(Schema):
    id: int
    start: float
    end: float
    text: str
    by: str
    initials: str
    mine: bool
    at: datetime
    changed: bool
    after: int | None


class ReactionOut(Schema):
    kind: ReactionKind
    start: float
    end: float
    by: list[str]
    mine: bool


class CommentsOut(Schema):
    comments: list[CommentOut]
    reactions: list[ReactionOut]
    kinds: list[ReactionKind]
    people: list[str]


class CommentIn(Schema):
    text: str = Field(max_length=4000)
    start: Seconds = 0.0
    end: Seconds = 0.0
    after: int | None = None


class WrittenOut(Schema):
    id: int
    not_told: list[str]


class CommentPatch(Schema):
    text: str | None = Field(None, max_length=4000)
    removed: bool | None = None


class ReactionIn(Schema):
    kind: ReactionKind
    start: Seconds
    end: Seconds
    on: bool = True


@router.get("/{meeting_id}/comments", response=CommentsOut)
def comments(request: HttpRequest, meeting_id: UUID) -> Answer:
    """What people say about passages, and think of them; who can be mentioned."""
    membership, found = seen(request, meeting_id)
    reactions: dict[tuple, dict] = {}
    for one in found.reactions.select_related("user"):
        kept = reactions.setdefault((one.kind, one.start), {"kind": one.kind, "start": one.start, "end": one.end, "by": [], "mine": False})
        kept["by"].append(name_of(one.user))
        kept["mine"] |= one.user_id == membership.user_id
    return {
        "comments": [
            {
                "id": one.pk,
                "start": one.start,
                "end": one.end,
                "text": one.text,
                "by": name_of(one.user),
                "initials": one.user.initials if one.user else "–",
                "mine": one.user_id == membership.user_id,
                "at": one.at,
                "changed": one.changed_at is not None,
                "after": one.after_id,
            }
            for one in found.comments.filter(removed_at=None).select_related("user")
        ],
        "reactions": list(reactions.values()),
        "kinds": list(ReactionKind),
        "people": _mentionable(membership, found),
    }


def _mentionable(membership: Membership, meeting: Meeting) -> list[str]:
    """Whom a comment can be meant for: those who see the meeting."""
    if not may(membership, Can.CHANGE, meeting):
        return []
    readers = meeting.readers.values_list("user", flat=True)
    seers = seen_by(membership.workspace_id, meeting.created_by_id, meeting.visibility, readers, meeting)
    return [one.user.called for one in seers if one.user_id != membership.user_id]


@router.post("/{meeting_id}/comments", response={201: WrittenOut})
def write(request: HttpRequest, meeting_id: UUID, payload: CommentIn) -> Answer:
    """Say something about a passage, or answer."""
    membership, found = seen(request, meeting_id)
    after = found.comments.filter(pk=payload.after, removed_at=None).first() if payload.after else None
    if payload.after and after is None:
        raise Refused(404, "The comment that this answers is gone.")
    comment, not_told = write_comment(membership, found, payload.text, payload.start, payload.end, after)
    return 201, {"id": comment.pk, "not_told": not_told}


@router.post("/{meeting_id}/reactions", response={204: None})
def reaction(request: HttpRequest, meeting_id: UUID, payload: ReactionIn) -> Answer:
    """Think something of a passage, or no longer."""
    react(*seen(request, meeting_id), payload.kind, payload.start, payload.end, payload.on)
    return 204, None


@one_router.patch("/{comment_id}", response={204: None})
def change(request: HttpRequest, comment_id: int, payload: CommentPatch) -> Answer:
    """Reword, remove or put back."""
    membership = membership_of(request)
    found = Comment.objects.select_related("meeting").filter(pk=comment_id, meeting__in=visible_meetings(membership)).first()
    if found is None:
        raise Refused(404, "There is no such comment.")
    change_comment(membership, found, payload.text, payload.removed)
    return 204, None

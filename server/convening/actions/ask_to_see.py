"""Ask to see a meeting whose address one was given, and answer that."""

from __future__ import annotations

from functools import partial
from uuid import UUID

from django.conf import settings
from django.db.models import QuerySet
from django.utils import timezone

from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.counting import counted
from server.languages import translated
from server.mail.post import post
from server.mail.wording import Kind
from server.meetings.models import Meeting, Visibility
from server.notify import Part
from server.problems import Refused
from server.sharing.models import AccessRequest
from server.sharing.policy import Can, may
from server.sharing.usual import let_in
from server.sharing.visibility import visible_meetings

_MOST, _DAY = 20, 24 * 3600


def ask_to_see(membership: Membership, key: UUID, words: str) -> None:
    """Whoever made it is asked. Nothing is told to the asker, not even whether there is such a meeting. Raises Refused after many in a day."""
    if counted(f"asked-to-see-{membership.pk}", _DAY) > _MOST:
        raise Refused(429, f"You have asked {_MOST} times in a day, which is the most there is. Try again tomorrow.")
    meeting = Meeting.objects.filter(pk=key, workspace=membership.workspace, removed_at=None, going_at=None).select_related("created_by").first()
    if meeting is None or visible_meetings(membership).filter(pk=key).exists():
        return
    with acting(membership, None, "ask to see", meeting, tells=(Part.MEETING,)) as act:
        request, new = AccessRequest.objects.select_for_update().get_or_create(
            meeting=meeting, membership=membership, defaults={"words": one_line(words)[:400]}
        )
        if not new:
            act.nothing()
            return
        if meeting.created_by and Membership.objects.filter(user=meeting.created_by, workspace=membership.workspace).exists():
            post(
                Kind.ASKED,
                meeting.created_by.email,
                meeting=meeting,
                by=membership.user,
                link=f"{settings.BASE_URL}/meetings/{meeting.pk}/settings",
                by_name=membership.user.called,
                title=meeting.title,
                words=f"“{request.words}”" if request.words else partial(translated, "They say nothing more."),
            )


def answer_request(membership: Membership, request: AccessRequest, *, grant: bool) -> None:
    """Let them in by name, or not; only the former is told to them. Raises Refused."""
    meeting = request.meeting
    with acting(membership, Can.GOVERN, "let in" if grant else "do not let in", meeting, tells=(Part.MEETING,), member=request.membership_id):
        request = AccessRequest.objects.select_for_update().get(pk=request.pk)
        if request.granted is not None:
            raise Refused(409, "Somebody has answered this meanwhile.")
        request.granted, request.answered_at = grant, timezone.now()
        request.save(update_fields=["granted", "answered_at"])
        if not grant:
            return
        if meeting.visibility in (Visibility.MINE, Visibility.SHELF):
            Meeting.objects.filter(pk=meeting.pk).update(visibility=Visibility.NAMED)
        let_in(membership, meeting, [request.membership.user_id])
        post(
            Kind.LET_IN,
            request.membership.user.email,
            meeting=meeting,
            by=membership.user,
            link=f"{settings.BASE_URL}/meetings/{meeting.pk}",
            by_name=membership.user.called,
            title=meeting.title,
        )


def requests_for(membership: Membership) -> QuerySet[AccessRequest]:
    """Those that wait for somebody's answer who governs the meeting."""
    waiting = AccessRequest.objects.filter(granted=None, meeting__in=visible_meetings(membership)).select_related("meeting", "membership__user")
    return waiting if may(membership, Can.GOVERN) else waiting.filter(meeting__created_by=membership.user_id)

"""Tell: people learn that a meeting can be read."""

from __future__ import annotations

from functools import partial

from django.conf import settings
from django.utils import timezone

from server.capture.models import Recording
from server.languages import translated
from server.mail.post import post
from server.mail.wording import Kind
from server.meetings.models import Meeting, Place
from server.notify import Part
from server.pipeline.work import Queue, Report, Stage
from server.sending.actions.send_minutes import send_when_ready


def _tell(meeting: Meeting, report: Report) -> bool:
    return meeting.ready_at is None


def _keep_told(meeting: Meeting, first_time: bool) -> None:
    if not first_time:
        return
    Meeting.objects.filter(pk=meeting.pk).update(ready_at=timezone.now())
    link = f"{settings.BASE_URL}/meetings/{meeting.id}"
    if meeting.place == Place.MEMO:
        by = meeting.created_by.called if meeting.created_by else partial(translated, "A colleague")
        for address in _recipients(meeting):
            post(Kind.MEMO, address, meeting=meeting, link=link, by_name=by)
    have_got_them = send_when_ready(meeting)
    if meeting.created_by and meeting.created_by.email not in have_got_them:
        post(Kind.READY, meeting.created_by.email, meeting=meeting, link=link)


def _recipients(meeting: Meeting) -> list[str]:
    """The addresses of those a memo is for: those who may see it."""
    return [reader.user.email for reader in meeting.readers.exclude(user=meeting.created_by).select_related("user")]


STAGE = Stage(
    "tell",
    "telling people",
    "1",
    Queue.READING,
    _tell,
    _keep_told,
    rate=0.001,
    forms=frozenset(Recording.Form),
    new=(Part.MEETING,),
)

"""Telling people that a meeting is captured, and keeping what they answer."""

from __future__ import annotations

from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.capture.models import Consent, Notice
from server.meetings.models import Meeting
from server.notify import Part
from server.problems import Refused
from server.sharing.policy import Can


def give_notice(membership: Membership, meeting: Meeting, how: str, language: str) -> Notice:
    """Note that people were told, and how; "none" notes that the capture began without."""
    with acting(membership, Can.CHANGE, "give notice", meeting, tells=(Part.NOTICES,), how=how, language=language):
        return Notice.objects.create(meeting=meeting, how=how, language=language, user=membership.user)


def note_consent(membership: Membership, meeting: Meeting, name: str, agreed: bool) -> Consent:
    """Note what somebody said aloud."""
    return _keep(membership, meeting, name, agreed)


def answer_notice(meeting: Meeting, name: str, agreed: bool) -> Consent:
    """What somebody answered on the page of the notice, under the name they gave."""
    return _keep(None, meeting, name, agreed)


def _keep(membership: Membership | None, meeting: Meeting, name: str, agreed: bool) -> Consent:
    name = one_line(name)[:120]
    if not name:
        raise Refused(422, "Say whose answer it is.")
    noted_by = membership.user if membership else None
    with acting(membership, Can.CHANGE, "answer notice", meeting, tells=(Part.NOTICES,), agreed=agreed):
        return Consent.objects.create(meeting=meeting, name=name, agreed=agreed, noted_by=noted_by)

"""Telling people that a meeting is captured, and keeping what they answer."""

from __future__ import annotations

from django.db import transaction

from server.accounts.models import Membership, User
from server.audit.log import log
from server.capture.models import Consent, Notice
from server.events import tell
from server.meetings.models import Meeting
from server.problems import Refused, not_allowed
from server.sharing.visibility import may_change


def give_notice(membership: Membership, meeting: Meeting, how: str, language: str) -> Notice:
    """Note that people were told, and how; "none" notes that the capture began without."""
    if not may_change(membership, meeting):
        raise not_allowed("Guests give no notice. Ask a member to.")
    with transaction.atomic():
        notice = Notice.objects.create(meeting=meeting, how=how, language=language, user=membership.user)
        log(membership.workspace, membership.user, "give notice", meeting, how=how, language=language)
        tell(meeting.pk, "notices")
    return notice


def note_consent(membership: Membership, meeting: Meeting, name: str, agreed: bool) -> Consent:
    """Note what somebody said aloud."""
    if not may_change(membership, meeting):
        raise not_allowed("Guests note no answers. Ask a member to.")
    return _keep(meeting, name, agreed, membership.user)


def answer_notice(meeting: Meeting, name: str, agreed: bool) -> Consent:
    """What somebody answered on the page of the notice, under the name they gave."""
    return _keep(meeting, name, agreed, None)


def _keep(meeting: Meeting, name: str, agreed: bool, noted_by: User | None) -> Consent:
    if not name.strip():
        raise Refused(422, "Say whose answer it is.")
    with transaction.atomic():
        consent = Consent.objects.create(meeting=meeting, name=name.strip()[:120], agreed=agreed, noted_by=noted_by)
        log(meeting.workspace, noted_by, "answer notice", meeting, name=consent.name, agreed=agreed)
        tell(meeting.pk, "notices")
    return consent

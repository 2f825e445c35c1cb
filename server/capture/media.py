"""A recording's sound and picture, in the stretches a player asks for (HTTP range requests, RFC 9110 section 14), and to take away."""

from __future__ import annotations

import mimetypes
from functools import partial
from pathlib import Path
from uuid import UUID

from django.db.models.fields.files import FieldFile
from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase

from core.media.copies import FORMS
from server.accounts.models import Membership
from server.audit.log import log
from server.capture.models import Recording
from server.capture.queries import refuse_withheld
from server.copies import CopyState
from server.meetings.attachment import attachment
from server.meetings.models import Meeting
from server.problems import Refused
from server.serving import asked_for, ranged, whole
from server.sharing.visibility import visible_meetings


def _recording(membership: Membership, meeting_id: UUID) -> Recording:
    found = Recording.objects.filter(meeting__in=visible_meetings(membership), meeting=meeting_id).first()
    if found is None or not found.listening:
        raise Refused(404, "There is nothing to hear here, or nothing that is shared with you.")
    refuse_withheld(found)
    return found


def _listening(membership: Membership, meeting_id: UUID) -> FieldFile:
    return _recording(membership, meeting_id).listening


def _picture(membership: Membership, meeting_id: UUID) -> FieldFile:
    found = _recording(membership, meeting_id)
    if not found.facts.get("picture"):
        raise Refused(404, "This recording has no picture.")
    return found.original


async def sound(request: HttpRequest, meeting_id: UUID) -> HttpResponseBase:
    """The listening copy, whole or a range of it. Checked against the visibility rule at every request."""
    return await ranged(request, await asked_for(request, _listening, meeting_id), "audio/webm")


async def video(request: HttpRequest, meeting_id: UUID) -> HttpResponseBase:
    """The recording as it was given, where it has a picture, to be seen beside the record."""
    found = await asked_for(request, _picture, meeting_id)
    return await ranged(request, found, "" if isinstance(found, HttpResponse) else mimetypes.guess_type(str(found.name))[0] or "video/mp4")


async def sound_away(request: HttpRequest, meeting_id: UUID, form: str) -> HttpResponseBase:
    """A copy of the recording's sound that a worker has made (`POST …/sound-copies`); "video": the recording as it is."""
    found = await asked_for(request, _as_video if form == "video" else partial(_as_sound, form), meeting_id)
    if isinstance(found, HttpResponse):
        return found
    file, named, kind = found
    return await whole(file, kind, named)


def _as_video(membership: Membership, meeting_id: UUID) -> tuple[FieldFile, dict[str, str], str]:
    file = _picture(membership, meeting_id)
    name = str(file.name)
    return file, _named(membership, meeting_id, "video", Path(name).suffix[1:]), mimetypes.guess_type(name)[0] or "video/mp4"


def _as_sound(form: str, membership: Membership, meeting_id: UUID) -> tuple[FieldFile, dict[str, str], str]:
    copy = _recording(membership, meeting_id).copies.filter(form=form, state=CopyState.READY).first()
    if copy is None:
        raise Refused(404, "There is no such copy. Ask for it first, and take it when it is ready.")
    return copy.file, _named(membership, meeting_id, form, form), FORMS[form][2]


def _named(membership: Membership, meeting_id: UUID, what: str, form: str) -> dict[str, str]:
    """How it is called; that it was taken is noted."""
    meeting = Meeting.objects.get(pk=meeting_id)
    log(membership.workspace, membership.user, "download recording", meeting, form=what)
    return attachment(meeting, "recording", form)

"""A recording's sound and picture, in the stretches a player asks for (HTTP range requests, RFC 9110 section 14), and to take away."""

from __future__ import annotations

import mimetypes
import re
from collections.abc import AsyncIterator, Callable
from functools import partial
from pathlib import Path
from typing import IO, TypeVar

from asgiref.sync import sync_to_async
from django.db.models.fields.files import FieldFile
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse

from core.media.copies import FORMS, sound_copy
from core.problems import InputProblem
from server.accounts.current import membership_of
from server.accounts.models import Membership
from server.audit.log import log
from server.capture.models import Recording
from server.capture.queries import refuse_withheld
from server.excerpts.actions.cut_excerpt import sound_of
from server.excerpts.queries import visible_excerpts
from server.meetings.models import Meeting
from server.pipeline.files import local, scratch
from server.problems import Refused, problem
from server.sharing.visibility import visible_meetings

_PIECE = 256 * 1024
_RANGE = re.compile(r"^bytes=([0-9]{0,15})-([0-9]{0,15})$")


def _recording(membership: Membership, meeting_id) -> Recording:
    found = Recording.objects.filter(meeting__in=visible_meetings(membership), meeting=meeting_id).first()
    if found is None or not found.listening:
        raise Refused(404, "There is nothing to hear here, or nothing that is shared with you.")
    refuse_withheld(found)
    return found


def _listening(membership: Membership, meeting_id) -> FieldFile:
    return _recording(membership, meeting_id).listening


def _picture(membership: Membership, meeting_id) -> FieldFile:
    found = _recording(membership, meeting_id)
    if not found.facts.get("picture"):
        raise Refused(404, "This recording has no picture.")
    return found.original


def _excerpt(membership: Membership, excerpt_id) -> FieldFile:
    found = visible_excerpts(membership).filter(pk=excerpt_id).first()
    if found is None:
        raise Refused(404, "There is no such excerpt, or it is not shared with you.")
    return sound_of(found).sound


_Found = TypeVar("_Found")


@sync_to_async
def _asked_for(request: HttpRequest, find: Callable[[Membership, object], _Found], key) -> _Found | HttpResponse:
    if not request.user.is_authenticated:
        return problem(401, "Sign in first.")
    try:
        return find(membership_of(request), key)
    except Refused as refused:
        return problem(refused.status, refused.detail)


async def sound(request: HttpRequest, meeting_id) -> HttpResponse:
    """The listening copy, whole or a range of it. Checked against the visibility rule at every request."""
    return await _ranged(request, await _asked_for(request, _listening, meeting_id), "audio/webm")


async def video(request: HttpRequest, meeting_id) -> HttpResponse:
    """The recording as it was given, where it has a picture, to be seen beside the record."""
    found = await _asked_for(request, _picture, meeting_id)
    return await _ranged(request, found, "" if isinstance(found, HttpResponse) else mimetypes.guess_type(found.name)[0] or "video/mp4")


async def excerpt_sound(request: HttpRequest, excerpt_id) -> HttpResponse:
    """The sound of an excerpt, which holds nothing but the excerpt."""
    return await _ranged(request, await _asked_for(request, _excerpt, excerpt_id), "audio/webm")


async def _ranged(request: HttpRequest, found: FieldFile | HttpResponse, kind: str) -> HttpResponse:
    if isinstance(found, HttpResponse):
        return found
    size = await sync_to_async(lambda: found.size)()
    start, end, status = 0, size - 1, 200
    if match := _RANGE.match(request.headers.get("Range", "")):
        first, last = match.groups()
        if first or last:
            start = int(first) if first else max(0, size - int(last))
            end = min(int(last), size - 1) if first and last else size - 1
            status = 206
    if start > end:
        return HttpResponse(status=416, headers={"Content-Range": f"bytes */{size}"})
    headers = {"Accept-Ranges": "bytes", "Content-Length": str(end - start + 1), "Cache-Control": "private, no-cache"}
    if status == 206:
        headers["Content-Range"] = f"bytes {start}-{end}/{size}"
    if request.method == "HEAD":
        return HttpResponse(status=status, headers=headers, content_type=kind)
    source = await sync_to_async(found.storage.open)(found.name, "rb")
    return StreamingHttpResponse(_pieces(source, start, end), status=status, headers=headers, content_type=kind)


async def _pieces(source: IO[bytes], start: int, end: int) -> AsyncIterator[bytes]:
    try:
        await sync_to_async(source.seek)(start)
        left = end - start + 1
        while left > 0 and (piece := await sync_to_async(source.read)(min(_PIECE, left))):
            left -= len(piece)
            yield piece
    finally:
        await sync_to_async(source.close)()


async def sound_away(request: HttpRequest, meeting_id, form: str) -> HttpResponse:
    """The recording's sound as Opus, FLAC, WAV or MP3, with its channels; "video": the recording as it is."""
    if form != "video" and form not in FORMS:
        return problem(404, f"Sound comes as {', '.join(FORMS)}.")
    found = await _asked_for(request, _as_video if form == "video" else partial(_as_sound, form), meeting_id)
    if isinstance(found, HttpResponse):
        return found
    source, size, name, kind = found
    headers = {"Content-Length": str(size), "Content-Disposition": f'attachment; filename="{name}"', "Cache-Control": "private, no-cache"}
    return StreamingHttpResponse(_pieces(source, 0, size - 1), headers=headers, content_type=kind)


def _as_video(membership: Membership, meeting_id) -> tuple[IO[bytes], int, str, str]:
    file = _picture(membership, meeting_id)
    _note(membership, meeting_id, "video")
    return file.storage.open(file.name), file.size, f"recording{Path(file.name).suffix}", mimetypes.guess_type(file.name)[0] or "video/mp4"


def _as_sound(form: str, membership: Membership, meeting_id) -> tuple[IO[bytes], int, str, str]:
    recording = _recording(membership, meeting_id)
    # The file is unlinked before it is sent: an open one is still read to its end, and nothing stays behind.
    with scratch(meeting_id) as folder, local(recording.original) as path:
        target = folder / f"sound.{form}"
        try:
            sound_copy(path, target, form)
        except InputProblem as unusable:
            raise Refused(422, str(unusable)) from unusable
        _note(membership, meeting_id, form)
        return target.open("rb"), target.stat().st_size, f"recording.{form}", FORMS[form][2]


def _note(membership: Membership, meeting_id, form: str) -> None:
    log(membership.workspace, membership.user, "download recording", Meeting.objects.get(pk=meeting_id), form=form)

"""A recording's sound, in the stretches a player asks for (HTTP range requests, RFC 9110 section 14)."""

from __future__ import annotations

import re
from collections.abc import AsyncIterator

from asgiref.sync import sync_to_async
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse

from server.accounts.current import membership_of
from server.capture.models import Recording
from server.problems import Refused, problem
from server.sharing.visibility import visible_meetings

_PIECE = 256 * 1024
_RANGE = re.compile(r"^bytes=(\d*)-(\d*)$")


@sync_to_async
def _recording(request: HttpRequest, meeting_id) -> Recording | HttpResponse:
    if not request.user.is_authenticated:
        return problem(401, "Sign in first.")
    try:
        meetings = visible_meetings(membership_of(request))
    except Refused as refused:
        return problem(refused.status, refused.detail)
    found = Recording.objects.filter(meeting__in=meetings, meeting=meeting_id).first()
    if found is None or not found.listening:
        return problem(404, "There is nothing to hear here, or nothing that is shared with you.")
    return found


async def sound(request: HttpRequest, meeting_id) -> HttpResponse:
    """The listening copy, whole or a range of it. Checked against the visibility rule at every request."""
    found = await _recording(request, meeting_id)
    if isinstance(found, HttpResponse):
        return found
    size = await sync_to_async(lambda: found.listening.size)()
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
        return HttpResponse(status=status, headers=headers, content_type="audio/webm")
    return StreamingHttpResponse(_pieces(found, start, end), status=status, headers=headers, content_type="audio/webm")


async def _pieces(recording: Recording, start: int, end: int) -> AsyncIterator[bytes]:
    source = await sync_to_async(recording.listening.storage.open)(recording.listening.name, "rb")
    try:
        await sync_to_async(source.seek)(start)
        left = end - start + 1
        while left > 0 and (piece := await sync_to_async(source.read)(min(_PIECE, left))):
            left -= len(piece)
            yield piece
    finally:
        await sync_to_async(source.close)()

"""Files given out in the stretches a player asks for (HTTP range requests, RFC 9110 section 14), checked at every request."""

from __future__ import annotations

import re
from collections.abc import AsyncIterator, Callable
from typing import IO, TypeVar
from uuid import UUID

from asgiref.sync import sync_to_async
from django.db.models.fields.files import FieldFile
from django.http import HttpRequest, HttpResponse, HttpResponseBase, StreamingHttpResponse

from server.accounts.current import membership_of
from server.accounts.models import Membership
from server.problems import Refused, problem

_PIECE = 256 * 1024
# By hand: werkzeug, which reads this header too, refuses a suffix that is longer than the file (RFC 9110, section 14.1.2, has it give all).
_RANGE = re.compile(r"^bytes=([0-9]{0,15})-([0-9]{0,15})$")

Found = TypeVar("Found")


@sync_to_async
def asked_for(request: HttpRequest, find: Callable[[Membership, UUID], Found], key: UUID) -> Found | HttpResponse:
    """What `find` finds for whoever asks, or the refusal."""
    if not request.user.is_authenticated:
        return problem(401, "Sign in first.")
    try:
        return find(membership_of(request), key)
    except Refused as refused:
        return problem(refused.status, refused.detail)


async def ranged(request: HttpRequest, found: FieldFile | HttpResponse, kind: str) -> HttpResponseBase:
    """A file, whole or a range of it; a refusal is handed on."""
    if isinstance(found, HttpResponse):
        return found
    try:
        size = await sync_to_async(lambda: found.size)()
    except FileNotFoundError:
        return problem(404, "The file of this is not where it was kept. Tell whoever runs this server.")
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
    source = await sync_to_async(found.storage.open)(str(found.name), "rb")
    return StreamingHttpResponse(pieces(source, start, end), status=status, headers=headers, content_type=kind)


async def whole(found: FieldFile, kind: str, named: dict[str, str]) -> StreamingHttpResponse:
    """A file to be taken away; `named`: the headers that say how it is called."""
    size = await sync_to_async(lambda: found.size)()
    source = await sync_to_async(found.storage.open)(str(found.name), "rb")
    headers = {"Content-Length": str(size), "Cache-Control": "private, no-cache"} | named
    return StreamingHttpResponse(pieces(source, 0, size - 1), headers=headers, content_type=kind)


async def pieces(source: IO[bytes], start: int, end: int) -> AsyncIterator[bytes]:
    """The bytes of an open file from `start` to `end`, which is given too; it is closed in the end."""
    try:
        await sync_to_async(source.seek)(start)
        left = end - start + 1
        while left > 0 and (piece := await sync_to_async(source.read)(min(_PIECE, left))):
            left -= len(piece)
            yield piece
    finally:
        await sync_to_async(source.close)()

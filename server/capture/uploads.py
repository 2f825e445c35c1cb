"""Resumable uploads by the tus protocol 1.0.0 (core, creation and termination), to disk, a piece at a time."""

from __future__ import annotations

import base64
import errno
import os
import shutil
from datetime import timedelta
from pathlib import Path
from uuid import UUID

from django.conf import settings
from django.db import transaction
from django.db.models import Count, Sum
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from django.views.decorators.csrf import requires_csrf_token

from core.text import one_line
from server.accounts.current import membership_of
from server.capture.models import Upload
from server.problems import Refused, problem
from server.sharing.policy import Can, require

VERSION = "1.0.0"
_KEEP_FREE = 1024**3  # bytes of disk that uploads leave alone
LARGEST = 4 * 1024**3
"""Bytes of one file."""
MOST_AT_ONCE, MOST_BYTES = 60, 5 * LARGEST
"""Of one person's uploads that have not become a meeting: how many, and how much they may reserve together."""
FORGOTTEN = timedelta(days=7)
"""After this without a piece an upload is given up."""


def path_of(upload: Upload) -> Path:
    """Where an upload's bytes lie until it is taken."""
    return Path(settings.FILE_UPLOAD_TEMP_DIR) / f"{upload.pk}.part"


def has_room(size: int) -> bool:
    """Is there room on this machine for a file of so many bytes, and for what is made of it?"""
    Path(settings.FILE_UPLOAD_TEMP_DIR).mkdir(parents=True, exist_ok=True)
    return shutil.disk_usage(settings.FILE_UPLOAD_TEMP_DIR).free >= 2 * size + _KEEP_FREE


def _answer(status: int, **headers: str) -> HttpResponse:
    return HttpResponse(
        status=status,
        headers={
            "Tus-Resumable": VERSION,
            "Cache-Control": "no-store",
            **{name.replace("_", "-"): value for name, value in headers.items()},
        },
    )


def _metadata(header: str) -> dict[str, str]:
    """`key base64, key base64` → texts; what cannot be read is left out."""
    found = {}
    for pair in header.split(","):
        key, _, value = pair.strip().partition(" ")
        try:
            found[key] = base64.b64decode(value, validate=True).decode("utf-8")
        except ValueError:
            continue
    return found


def _short(name: str, most: int = 200) -> str:
    """A file's name with its suffix, which says what it is."""
    path = Path(name or "recording")
    return name if len(name) <= most else f"{path.stem[: most - 20]}{path.suffix[:20]}"


@requires_csrf_token
def uploads(request: HttpRequest) -> HttpResponse:
    """POST makes an upload; OPTIONS says what is spoken here."""
    if request.method == "OPTIONS":
        return _answer(204, Tus_Version=VERSION, Tus_Extension="creation,termination")
    if request.method != "POST":
        return problem(405, "Uploads are made with POST.")
    if not request.user.is_authenticated:
        return problem(401, "Sign in first.")
    length = request.headers.get("Upload-Length", "")
    if not (length.isascii() and length.isdigit() and len(length) <= 15):
        return problem(400, "Upload-Length must say how many bytes will come.")
    try:
        require(membership_of(request), Can.ADD)
    except Refused as refused:
        return problem(refused.status, refused.detail)
    if int(length) > LARGEST:
        return problem(413, f"A file may have {LARGEST // 1024**3} GB. Give it in parts, or its sound alone.")
    reserved = Upload.objects.filter(user=request.user).aggregate(count=Count("pk"), bytes=Sum("size"))
    if reserved["count"] >= MOST_AT_ONCE or (reserved["bytes"] or 0) + int(length) > MOST_BYTES:
        return problem(429, "There are files of yours on their way or waiting already. Finish or drop some of them first.")
    if not has_room(int(length)):
        return problem(507, "The server has no room for a file of this size. Tell whoever runs it, and keep the file until then.")
    name = Path(_metadata(request.headers.get("Upload-Metadata", "")).get("filename", "")).name
    upload = Upload.objects.create(user=request.user, name=_short(one_line(name)) or "recording", size=int(length))
    path_of(upload).touch()
    return _answer(201, Location=f"/api/uploads/{upload.pk}")


@requires_csrf_token
def upload(request: HttpRequest, upload_id: UUID) -> HttpResponse:
    """HEAD says how much has arrived, PATCH brings the next piece, DELETE gives it up."""
    mine = Upload.objects.filter(pk=upload_id, user=request.user.pk) if request.user.is_authenticated else Upload.objects.none()
    if request.method == "HEAD":
        found = mine.first()
        return _answer(200, Upload_Offset=str(found.offset), Upload_Length=str(found.size)) if found else _answer(404)
    if request.method == "DELETE":
        for found in mine:
            path_of(found).unlink(missing_ok=True)
            found.delete()
        return _answer(204)
    if request.method != "PATCH":
        return problem(405, "An upload knows HEAD, PATCH and DELETE.")
    if request.content_type != "application/offset+octet-stream":
        return problem(415, "A piece is sent as application/offset+octet-stream.")
    # The row is locked, so that two tabs sending the same file cannot mix their pieces.
    with transaction.atomic():
        found = mine.select_for_update().first()
        if found is None:
            return problem(404, "There is no such upload, or it has been taken already.")
        if request.headers.get("Upload-Offset") != str(found.offset):
            return problem(409, f"This upload is at byte {found.offset}. Ask with HEAD and go on from there.")
        try:
            found.offset += _append(request, found)
        except OSError as error:
            if error.errno not in (errno.ENOSPC, errno.EDQUOT):
                raise
            return problem(507, "The server's disk is full. What has arrived is kept; go on when there is room again.")
        found.touched_at = timezone.now()
        found.save(update_fields=["offset", "touched_at"])
    return _answer(204, Upload_Offset=str(found.offset))


def _append(request: HttpRequest, found: Upload) -> int:
    """Write the body at the upload's offset; returns the number of bytes."""
    written = 0
    with path_of(found).open("r+b") as sink:
        sink.seek(found.offset)
        while piece := request.read(min(1024 * 1024, found.size - found.offset - written + 1)):
            if found.offset + written + len(piece) > found.size:
                break
            sink.write(piece)
            written += len(piece)
        # What is acknowledged survives a power cut.
        sink.flush()
        os.fsync(sink.fileno())
    return written


def sweep() -> int:
    """Give up uploads that nobody goes on with, and files that no upload knows. Returns how many there were."""
    before = timezone.now() - FORGOTTEN
    forgotten = list(Upload.objects.filter(touched_at__lt=before))
    for upload in forgotten:
        path_of(upload).unlink(missing_ok=True)
        upload.delete()
    known = {str(path_of(upload)) for upload in Upload.objects.all()}
    parts = [path for path in Path(settings.FILE_UPLOAD_TEMP_DIR).glob("*.part") if str(path) not in known]
    lost = [path for path in parts if path.stat().st_mtime < before.timestamp()]
    for path in lost:
        path.unlink(missing_ok=True)
    return len(forgotten) + len(lost)

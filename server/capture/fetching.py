"""Files that come by another way than from whoever gives them: fetched from an address, or out of something else; each becomes an upload that has arrived."""

from __future__ import annotations

import mimetypes
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import PurePath
from urllib.parse import unquote, urlsplit

from core.problems import InputProblem
from core.text import one_line
from server.accounts.models import User
from server.capture.models import Upload
from server.capture.uploads import LARGEST, has_room, path_of
from server.outward import download
from server.problems import Refused


@contextmanager
def fetched(user: User, address: str, called: str = "") -> Iterator[Upload]:
    """What lies at an address, as an upload of somebody's; where it is not made use of, it is let go. called: what to call it where the address does not say.

    Raises InputProblem where it cannot be had.
    """
    name = one_line(unquote(PurePath(urlsplit(address).path).name))[:180] or called or "recording"
    with _upload(user, name) as upload:
        if not has_room(0):
            raise InputProblem("There is no room for it on this machine just now. It is taken when there is.")
        path = path_of(upload)
        kind = download(address, path, LARGEST)
        if not PurePath(name).suffix:
            upload.name += mimetypes.guess_extension(kind.partition(";")[0].strip()) or ""
        upload.size = upload.offset = path.stat().st_size
        upload.save()
        yield upload


@contextmanager
def laid(user: User, name: str, data: bytes) -> Iterator[Upload]:
    """The same for what is here already."""
    with _upload(user, one_line(name)[:200] or "recording") as upload:
        if not has_room(len(data)):
            raise InputProblem("There is no room for it on this machine just now.")
        path_of(upload).write_bytes(data)
        upload.size = upload.offset = len(data)
        upload.save()
        yield upload


@contextmanager
def _upload(user: User, name: str) -> Iterator[Upload]:
    upload = Upload.objects.create(user=user, name=name, size=0)
    try:
        yield upload
    except (InputProblem, Refused):
        path_of(upload).unlink(missing_ok=True)
        Upload.objects.filter(pk=upload.pk).delete()
        raise

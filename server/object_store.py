"""Media in a store of objects (S3's interface) instead of in a folder: AFTERSHOWER_MEDIA=s3://BUCKET/FOLDER.

What the libraries do not do is read a piece out of the middle of a recording without fetching all of it, which a player asks for all the
time; and they have errors of their own, where everything here expects those of a file.
"""

from __future__ import annotations

import errno
import io
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import wraps
from typing import Any, ParamSpec, TypeVar

from botocore.config import Config
from botocore.exceptions import BotoCoreError, ClientError, HTTPClientError
from django.core.files import File
from storages.backends.s3 import S3Storage
from urllib3.exceptions import HTTPError

_AHEAD = 1024 * 1024
"""Bytes that are read at a time."""
_GONE = ("404", "NoSuchKey")
_Given = ParamSpec("_Given")
_Got = TypeVar("_Got")


@contextmanager
def _as_file_errors(name: str) -> Iterator[None]:
    try:
        yield
    except ClientError as error:
        code = error.response.get("Error", {}).get("Code", "")
        if code in _GONE:
            raise FileNotFoundError(errno.ENOENT, "There is no such file", name) from error
        number = errno.ENOSPC if error.response.get("ResponseMetadata", {}).get("HTTPStatusCode") == 507 else errno.EIO
        raise OSError(number, f"The store of media refuses it ({code})", name) from error
    except (BotoCoreError, HTTPClientError, HTTPError) as error:
        raise OSError(errno.EIO, "The store of media does not answer", name) from error


def _told_as_file(method: Callable[_Given, _Got]) -> Callable[_Given, _Got]:
    @wraps(method)
    def wrapped(*args: _Given.args, **kwargs: _Given.kwargs) -> _Got:
        with _as_file_errors(str(args[1]) if len(args) > 1 else ""):
            return method(*args, **kwargs)

    return wrapped


class _Ranged(io.RawIOBase):
    """An object of the store, read from wherever one stands."""

    def __init__(self, held: Any, size: int) -> None:
        self._held, self._size, self._at = held, size, 0

    def readable(self) -> bool:
        return True

    def seekable(self) -> bool:
        return True

    def tell(self) -> int:
        return self._at

    def seek(self, offset: int, whence: int = io.SEEK_SET) -> int:
        self._at = {io.SEEK_SET: 0, io.SEEK_CUR: self._at, io.SEEK_END: self._size}[whence] + offset
        return self._at

    def readinto(self, buffer: Any) -> int:
        last = min(self._at + len(buffer), self._size) - 1
        if last < self._at:
            return 0
        with _as_file_errors(self._held.key):
            piece = self._held.get(Range=f"bytes={self._at}-{last}")["Body"].read()
        if len(piece) != last + 1 - self._at:
            raise OSError(errno.EIO, "The store of media gave less than it has", self._held.key)
        buffer[: len(piece)] = piece
        self._at += len(piece)
        return len(piece)


class ObjectStore(S3Storage):
    """Files in a store of objects."""

    def _open(self, name: str, mode: str = "rb") -> File:
        """To read, from any place. Raises FileNotFoundError, OSError."""
        if mode != "rb":
            raise ValueError("Files of the store are read, or saved as a whole.")
        held = self.bucket.Object(self._normalize_name(name))
        with _as_file_errors(name):
            size = held.content_length
        return File(io.BufferedReader(_Ranged(held, size), _AHEAD), name)

    def get_default_settings(self) -> dict[str, Any]:
        """Those of the library, with what stores of every maker take."""
        return super().get_default_settings() | {
            "file_overwrite": False,
            "client_config": Config(
                # A store that has an address of its own need not have a name for each bucket.
                s3={"addressing_style": "path"},
                signature_version="s3v4",
                # Sums of their own, which the library adds unasked, are more than other makers' stores take.
                request_checksum_calculation="when_required",
                response_checksum_validation="when_required",
                retries={"max_attempts": 4, "mode": "standard"},
                connect_timeout=5,
                read_timeout=30,
            ),
        }

    def sizes_in(self, folder: str) -> Iterator[tuple[str, int]]:
        """Names and bytes of all that lies in a folder and below it, a thousand to a request. Raises OSError."""
        below = self._normalize_name(folder) + "/" if folder else self.location and self.location + "/"
        with _as_file_errors(folder):
            for held in self.bucket.objects.filter(Prefix=below):
                yield held.key.removeprefix(self.location).lstrip("/"), held.size

    save = _told_as_file(S3Storage.save)
    delete = _told_as_file(S3Storage.delete)
    exists = _told_as_file(S3Storage.exists)
    size = _told_as_file(S3Storage.size)
    listdir = _told_as_file(S3Storage.listdir)

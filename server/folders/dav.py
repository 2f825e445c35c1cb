"""A folder over WebDAV: what lies in it, and fetching a file."""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import suppress
from datetime import UTC
from email.utils import parsedate_to_datetime
from pathlib import Path, PurePosixPath
from typing import Any
from urllib.parse import unquote, urljoin, urlsplit

from caldav.lib.error import AuthorizationError, DAVError

from core.problems import InputProblem
from core.text import one_line
from server.calendars.sources import client_of
from server.folders.lying import MOST_FILES, Lying
from server.outward import download, trouble_of

_ASKED = (
    '<?xml version="1.0" encoding="utf-8"?><propfind xmlns="DAV:"><prop>'
    "<resourcetype/><getcontentlength/><getetag/><getlastmodified/></prop></propfind>"
)


class DavFolder:
    """A folder at an address."""

    def __init__(self, address: str, username: str, password: str):
        self._address = address if address.endswith("/") else f"{address}/"
        self._host = urlsplit(address).hostname or ""
        self._username, self._client = username, client_of(self._address, username, password)

    def files(self) -> list[Lying]:
        """The files of the folder, not of those in it. Raises InputProblem."""
        try:
            answer = self._client.propfind(self._address, _ASKED, depth=1)
            rows = answer.find_objects_and_props() if answer.status == 207 else {}
        except AuthorizationError as error:
            raise InputProblem(f"{self._host} does not let {self._username or 'us'} in. Check name and password.") from error
        except (DAVError, OSError, ValueError, AssertionError) as error:
            why = "There is no folder at that address" if isinstance(error, DAVError) else trouble_of(error, self._host).rstrip(".")
            raise InputProblem(f"{why}. Look up its WebDAV address at {self._host}.") from error
        if answer.status != 207:
            raise InputProblem(f"There is no folder at that address: {self._host} answers {answer.status}. Look up its WebDAV address there.")
        if len(rows) > MOST_FILES:
            raise InputProblem(f"More than {MOST_FILES} files lie in this folder. Name one that is for recordings alone.")
        return [_lying(href, properties) for href, properties in rows.items() if not _is_folder(properties) and PurePosixPath(unquote(urlsplit(href).path)).name]

    def fetch(self, one: Lying, target: Path) -> None:
        """The whole of a file, to a path. Raises InputProblem where it does not come as it was told."""
        try:
            download(urljoin(self._address, one.href), target, one.size, auth=self._client.auth)
        except InputProblem as problem:
            raise InputProblem(f"{one.name}: {problem}") from problem
        if target.stat().st_size != one.size:
            raise InputProblem(f"{one.name} changed while it was fetched. It is fetched again when it lies still.")


def _text(properties: Mapping[str, Any], name: str) -> str:
    element = properties.get("{DAV:}" + name)
    return (getattr(element, "text", None) or "").strip()


def _is_folder(properties: Mapping[str, Any]) -> bool:
    kinds = properties.get("{DAV:}resourcetype")
    return kinds is not None and any(child.tag == "{DAV:}collection" for child in kinds)


def _lying(href: str, properties: Mapping[str, Any]) -> Lying:
    modified = None
    with suppress(ValueError, TypeError, OverflowError):
        modified = parsedate_to_datetime(_text(properties, "getlastmodified"))
        modified = modified if modified.tzinfo else modified.replace(tzinfo=UTC)
    size = _text(properties, "getcontentlength")
    return Lying(
        href[:1000],
        one_line(PurePosixPath(unquote(urlsplit(href).path)).name)[:255],
        int(size) if size.isdigit() else 0,
        _text(properties, "getetag")[:300] + "|" + _text(properties, "getlastmodified")[:90],
        modified,
    )

"""The way out of this server, to addresses that people name: never into the network that it stands in, but for places its operator has allowed.

A name is resolved once, each of its addresses is checked, and the connection goes to the one that was checked; a redirect is a connection like
any other. So a name that means another machine the second time it is asked for gains nothing.
"""

from __future__ import annotations

import ipaddress
import socket
import time
from collections.abc import Callable, Iterator
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any, TypeVar
from urllib.parse import urlsplit

import requests
from django.conf import settings
from django.utils import timezone
from requests.adapters import HTTPAdapter
from urllib3.connection import HTTPConnection, HTTPSConnection
from urllib3.connectionpool import HTTPConnectionPool, HTTPSConnectionPool
from urllib3.exceptions import NameResolutionError
from urllib3.util.connection import create_connection

from core.problems import InputProblem

Page = TypeVar("Page")

MOST_BYTES = 12 * 1024 * 1024
_PATIENCE = (5.0, 20.0)
"""Seconds until there is a connection, and between two pieces of an answer."""
_LONGEST = 90.0
"""Seconds until an answer is there as a whole."""
_SLOWEST = timedelta(hours=2)
"""Between two tries of something that cannot be had."""
_MOST_PAGES = 1000
_TRANSLATED = ipaddress.ip_network("64:ff9b::/96")
"""Addresses that stand for those of IPv4 (RFC 6052)."""


class NotAllowed(InputProblem):
    """An address that this server does not go to."""


def is_public(address: str) -> bool:
    """Is it an address of the public internet, whatever it is wrapped in?"""
    one = ipaddress.ip_address(address.partition("%")[0])
    if isinstance(one, ipaddress.IPv6Address):
        inner = one.ipv4_mapped or one.sixtofour or (one.teredo[1] if one.teredo else None)
        if one in _TRANSLATED:
            inner = ipaddress.IPv4Address(int(one) & 0xFFFFFFFF)
        if inner is not None:
            return is_public(str(inner))
    return one.is_global and not one.is_multicast


def _is_inside(host: str, port: int | None) -> bool:
    """Is it a place in a network of ours that the operator has allowed?"""
    return f"{host}:{port}" in settings.INSIDE


def checked(host: str, port: int) -> str:
    """The address to connect to for a name, which may be gone to. Raises OSError where there is none, NotAllowed."""
    found = [str(row[4][0]) for row in socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)]
    going = [address for address in found if is_public(address) or _is_inside(host, port)]
    if not going:
        raise NotAllowed(f"This server does not go to {host}:{port}: it lies in a network of its own. Ask whoever runs it to allow that address.")
    return going[0]


def _connect(connection: HTTPConnection) -> socket.socket:
    host, port = connection._dns_host.strip("[]"), connection.port
    try:
        address = checked(host, port)
    except (OSError, UnicodeError) as error:
        raise NameResolutionError(host, connection, socket.gaierror(str(error))) from error
    return create_connection((address, port), connection.timeout, source_address=connection.source_address, socket_options=connection.socket_options)


class _Plain(HTTPConnection):
    def _new_conn(self) -> socket.socket:
        return _connect(self)


class _Secure(HTTPSConnection):
    def _new_conn(self) -> socket.socket:
        return _connect(self)


class _PlainPool(HTTPConnectionPool):
    ConnectionCls = _Plain


class _SecurePool(HTTPSConnectionPool):
    ConnectionCls = _Secure


class _Adapter(HTTPAdapter):
    def init_poolmanager(self, *args: Any, **kwargs: Any) -> None:
        super().init_poolmanager(*args, **kwargs)
        self.poolmanager.pool_classes_by_scheme = {"http": _PlainPool, "https": _SecurePool}


class Outward(requests.Session):
    """A session that goes nowhere it should not, and takes nothing from the environment (no proxy, no netrc). bounded: of an answer no more
    than `most` is read, at once; else whoever asks reads it, and follows no redirect."""

    def __init__(self, bounded: bool = True, most: int = MOST_BYTES) -> None:
        super().__init__()
        self._bounded, self._most = bounded, most
        self.trust_env = False
        self.max_redirects = 5
        self.headers["User-Agent"] = "Aftershower"
        for scheme in ("http://", "https://"):
            self.mount(scheme, _Adapter())

    def send(self, request: requests.PreparedRequest, **kwargs: Any) -> requests.Response:
        """Send, and read the answer as far as it is read."""
        kwargs["timeout"] = _PATIENCE
        end = time.monotonic() + _LONGEST
        response = super().send(request, **{**kwargs, "stream": True})
        if self._bounded and not response._content_consumed:  # what came of a redirect has been read already
            pieces, size = [], 0
            for piece in response.iter_content(64 * 1024):
                pieces.append(piece)
                size += len(piece)
                if size > self._most or time.monotonic() > end:
                    response.close()
                    why = "is too large" if size > self._most else "comes too slowly"
                    raise InputProblem(f"What {urlsplit(request.url or '').hostname} sends {why}: up to {self._most // 2**20} MB are read.")
            response._content = b"".join(pieces)
        return response


def download(address: str, target: Path, most: int, **asked: Any) -> str:
    """Fetch what lies at an address into a file, without following anybody elsewhere; its kind (RFC 9110, 8.3). Raises InputProblem."""
    host = urlsplit(address).hostname or ""
    try:
        with Outward(bounded=False).get(address, allow_redirects=False, **asked) as answer:
            if answer.status_code != 200:
                raise InputProblem(f"{host} does not give it: it answers {answer.status_code}.")
            size = 0
            with target.open("wb") as sink:
                for piece in answer.iter_content(1024 * 1024):
                    size += len(piece)
                    if size > most:
                        raise InputProblem(f"What {host} gives is larger than it may be.")
                    sink.write(piece)
            return answer.headers.get("Content-Type", "")
    except (OSError, requests.exceptions.InvalidURL) as error:
        raise InputProblem(trouble_of(error, host)) from error


def pages(ask: Callable[[str], tuple[Page, str | None]]) -> Iterator[Page]:
    """An answer that comes in pages, one by one.

    ask: gives a page, by the mark of where it begins ("" for the first), and the mark of the next one, if there is one. What names the same mark
    again is at its end. Raises InputProblem where an answer has no end.
    """
    begins = ""
    for _ in range(_MOST_PAGES):
        page, following = ask(begins)
        yield page
        if not following or following == begins:
            return
        begins = following
    raise InputProblem(f"That answer has more than {_MOST_PAGES} pages. Ask for less of it.")


def settled(address: str, *, secret: bool) -> str:
    """An address as it is kept. secret: a password goes there, so that nobody on the way may read along. Raises InputProblem."""
    address = address.strip()
    if address.lower().startswith("webcal"):
        address = "http" + address[len("webcal") :] if address.lower().startswith("webcals") else "https" + address[len("webcal") :]
    try:
        parts = urlsplit(address)
        port = parts.port or (443 if parts.scheme == "https" else 80)
    except ValueError as error:  # brackets that are no address of IPv6, a port that there is not
        raise InputProblem("That is no address, or it has no port that there is.") from error
    if parts.scheme not in ("http", "https") or not parts.hostname:
        raise InputProblem("Give the whole address, beginning with https:// or webcal://.")
    if parts.username or parts.password:
        raise InputProblem("Leave name and password out of the address; there are fields for them.")
    if secret and parts.scheme != "https" and not _is_inside(parts.hostname, port):
        raise InputProblem("A password is sent by https:// alone. Give that address.")
    return address


def later(every: timedelta, fails: int) -> datetime:
    """When what could not be had so many times in a row is tried again: later each time, up to two hours."""
    return timezone.now() + min(every * 2 ** min(fails, 7), _SLOWEST)


def trouble_of(error: Exception, host: str) -> str:
    """What to tell of a request that came to nothing."""
    if isinstance(error, InputProblem):
        return str(error)
    if isinstance(error, requests.exceptions.SSLError):
        return f"The certificate of {host} is not one to trust. Whoever runs {host} has to mend that."
    if isinstance(error, requests.exceptions.Timeout):
        return f"{host} takes too long to answer. It is tried again."
    if isinstance(error, requests.exceptions.TooManyRedirects):
        return f"{host} sends from one address to the next without end. Check the address."
    if isinstance(error, requests.exceptions.ConnectionError):
        return f"{host} cannot be reached. It is tried again; check the address."
    return f"What {host} sends cannot be understood. Check the address."

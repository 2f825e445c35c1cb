"""Where a watched folder can be: to add a way, its file, and its line here."""

from __future__ import annotations

from server.folders.dav import DavFolder
from server.folders.lying import Place
from server.folders.objects import SCHEME, ObjectFolder
from server.outward import settled


def settled_folder(address: str, *, secret: bool) -> str:
    """An address as it is kept. Raises InputProblem."""
    address = address.strip()
    return SCHEME + settled(address[len(SCHEME) :], secret=secret) if address.lower().startswith(SCHEME) else settled(address, secret=secret)


def place_at(address: str, username: str, password: str) -> Place:
    """The folder at an address: over WebDAV (RFC 4918), or in a store of objects (S3; then name and password are its key and secret)."""
    if address.startswith(SCHEME):
        return ObjectFolder(address[len(SCHEME) :], username, password)
    return DavFolder(address, username, password)

"""A folder of backups: what lies in it, under which names, sealed or not.

    aftershower-backups.json     what this folder is, and how it is sealed
    objects/ab/<digest>          every file of the media storage once, whichever backups have it
    <moment>/database.dump       pg_dump's custom format
    <moment>/manifest.json       names, sizes and SHA-256 of all that belongs to it
    removals.jsonl               the ledger of removals

Sealed with a passphrase, everything but the first is in the age format (age-encryption.org/v1): a key of the folder's own, which the
passphrase opens, so that any program of that format can read it.
"""

from __future__ import annotations

import base64
import fcntl
import hashlib
import json
import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any, BinaryIO

from pyrage import DecryptError, decrypt_io, encrypt_io, passphrase, x25519

MARK, FORMAT = "aftershower-backups.json", 1
_MOMENT = "%Y-%m-%dT%H-%M-%SZ"
_PIECE = 1024 * 1024


class Unusable(Exception):
    """A folder, a backup or a passphrase that is of no use; the text says why, and what to do."""


@dataclass(frozen=True)
class Kept:
    """One file of the media storage in a backup."""

    name: str
    size: int
    sha256: str
    object: str


class Folder:
    """A folder of backups on a disk."""

    def __init__(self, path: Path, identity: x25519.Identity | None):
        self.path, self._identity = path, identity

    @classmethod
    def open(cls, path: Path, secret: str = "") -> Folder:
        """One that is there. secret: its passphrase. Raises Unusable."""
        mark = path / MARK
        if not mark.is_file():
            raise Unusable(f"{path} is no folder of backups of Aftershower: {MARK} is missing.")
        try:
            said = json.loads(mark.read_text())
            version, sealed = said["format"], said["identity"]
        except (ValueError, KeyError, TypeError) as error:
            raise Unusable(f"{mark} is damaged. Take it from a copy of this folder.") from error
        if version != FORMAT:
            raise Unusable(f"These backups have format {version}; this version of Aftershower knows {FORMAT}. Use the version that made them.")
        if sealed and not secret:
            raise Unusable("These backups are sealed. Give their passphrase.")
        if secret and not sealed:
            raise Unusable("These backups are not sealed. Leave the passphrase out, or begin another folder.")
        try:
            identity = x25519.Identity.from_str(passphrase.decrypt(base64.b64decode(sealed), secret).decode()) if sealed else None
        except DecryptError as error:
            raise Unusable("That is not the passphrase of these backups.") from error
        return cls(path, identity)

    @classmethod
    def open_or_begin(cls, path: Path, secret: str = "") -> Folder:
        """The same; in an empty folder it begins. Raises Unusable."""
        # A disk of its own has a folder of the file system's at its root.
        if path.exists() and any(one.name != "lost+found" for one in path.iterdir()):
            return cls.open(path, secret)
        path.mkdir(parents=True, exist_ok=True)
        path.chmod(0o700)
        identity = x25519.Identity.generate() if secret else None
        sealed = base64.b64encode(passphrase.encrypt(str(identity).encode(), secret)).decode() if identity else ""
        write_whole(path / MARK, json.dumps({"format": FORMAT, "identity": sealed}).encode())
        return cls(path, identity)

    @property
    def sealed(self) -> bool:
        """Is what lies here of use with the passphrase alone?"""
        return self._identity is not None

    @contextmanager
    def alone(self) -> Iterator[None]:
        """Nobody else works in this folder meanwhile. Raises Unusable."""
        with (self.path / ".lock").open("w") as lock:
            try:
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except OSError as error:
                raise Unusable(f"Another backup is being made in {self.path}. Wait for it.") from error
            yield

    def names(self) -> list[str]:
        """The backups that are whole, the oldest first."""
        return sorted(one.parent.name for one in self.path.glob("*/manifest.json") if _moment(one.parent.name))

    def put(self, source: BinaryIO, target: Path) -> None:
        """Write a stream, sealed where this folder is; whole or not at all."""
        target.parent.mkdir(parents=True, exist_ok=True)
        fresh = target.with_name(f".{target.name}.new")
        with fresh.open("wb") as sink:
            if self._identity:
                encrypt_io(source, sink, [self._identity.to_public()])
            else:
                shutil.copyfileobj(source, sink, _PIECE)
            sink.flush()
            os.fsync(sink.fileno())
        fresh.rename(target)

    @contextmanager
    def get(self, path: Path, scratch: Path) -> Iterator[Path]:
        """A path at which a file lies open. scratch: a folder for it, where it is sealed. Raises Unusable."""
        if not self._identity:
            yield path
            return
        plain = scratch / f"open-{path.name}"
        try:
            self._open(path, plain)
            yield plain
        finally:
            plain.unlink(missing_ok=True)

    def _open(self, path: Path, plain: Path) -> None:
        try:
            with path.open("rb") as source, plain.open("wb") as sink:
                decrypt_io(source, sink, [self._identity])
        except (DecryptError, OSError) as error:
            if isinstance(error, OSError) and error.errno is not None:
                raise  # the disk's word, and not the seal's
            raise Unusable(f"{path} is damaged. Take it from a copy of this folder, or put back another backup.") from error

    def object_of(self, sha256: str) -> str:
        """Where the file with this content lies; in a sealed folder its name tells nothing of the content."""
        named = hashlib.sha256(f"{self._identity} {sha256}".encode()).hexdigest() if self._identity else sha256
        return f"objects/{named[:2]}/{named}"

    def manifest(self, name: str, scratch: Path) -> dict[str, Any]:
        """Of one backup. Raises Unusable."""
        path = self.path / name / "manifest.json"
        if not path.is_file():
            raise Unusable(f"There is no backup {name} in {self.path}. There are: {', '.join(self.names()) or 'none'}.")
        try:
            with self.get(path, scratch) as plain:
                found = json.loads(plain.read_text())
            return {**found, "media": [Kept(**one) for one in found["media"]]}
        except (ValueError, KeyError, TypeError) as error:
            raise Unusable(f"{path} is damaged. Put back another backup: {', '.join(self.names())}.") from error


def write_whole(path: Path, data: bytes) -> None:
    """A file, whole or not at all."""
    fresh = path.with_name(f".{path.name}.new")
    with fresh.open("wb") as sink:
        sink.write(data)
        sink.flush()
        os.fsync(sink.fileno())
    fresh.rename(path)


def named(moment: datetime) -> str:
    """What a backup of this moment is called."""
    return moment.strftime(_MOMENT)


def _moment(name: str) -> datetime | None:
    try:
        return datetime.strptime(name, _MOMENT)
    except ValueError:
        return None


def digest_of(path: Path) -> str:
    """SHA-256, in hexadecimal."""
    with path.open("rb") as source:
        return hashlib.file_digest(source, "sha256").hexdigest()


def thinned(names: list[str], now: datetime) -> list[str]:
    """Of backups by name, those that can go: kept are all of the last week, then the last of each week for two months, then the last of each
    month for a year; and always the last one."""
    kept, seen = set(names[-1:]), set()
    for name in reversed(names):
        moment = _moment(name)
        if moment is None:
            continue
        age = (now.replace(tzinfo=None) - moment).days
        span = ("all", name) if age < 7 else ("week", moment.isocalendar()[:2]) if age < 61 else ("month", (moment.year, moment.month))
        if age < 366 and span not in seen:
            seen.add(span)
            kept.add(name)
    return [name for name in names if name not in kept]

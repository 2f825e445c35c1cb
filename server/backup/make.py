"""Make a backup, while everything goes on: the database as it is at one moment, and every file that belongs to it then."""

from __future__ import annotations

import io
import json
import os
import shutil
import subprocess
import tempfile
from collections.abc import Callable, Iterator
from dataclasses import asdict
from datetime import UTC, datetime
from pathlib import Path

from django.conf import settings
from django.core.files.storage import default_storage
from django.db import connection
from django.utils import timezone

from house.system import postgres_programs
from server.backup.archive import Folder, Kept, Unusable, digest_of, named, thinned
from server.pipeline.files import sizes_in
from server.removals.ledger import as_line
from server.removals.models import Removal

LEFT_OUT = ("django_session", "cache")
"""Tables of which the rows are not taken along: whoever was signed in signs in again."""
INCOMING = "incoming/"
"""Before the names of files that are on their way in."""
Say = Callable[[str], None]


def programs() -> Path:
    """Where PostgreSQL's are. Raises Unusable."""
    found = postgres_programs()
    if found is None:
        raise Unusable("PostgreSQL's programs are missing. Run: apt-get install postgresql-client")
    return found


def make_backup(folder: Folder, say: Say) -> str:
    """Returns its name. Raises Unusable, OSError where the disk is full: then nothing half-made counts."""
    with folder.alone():
        for left in folder.path.glob(".*.partial"):
            shutil.rmtree(left)
        name = named(datetime.now(UTC))
        if name in folder.names():
            raise Unusable("A backup was made in this very second. Wait for the next one.")
        fresh = folder.path / f".{name}.partial"
        fresh.mkdir(mode=0o700)
        try:
            said = _database(folder, fresh, say)
            known = _known(folder)
            media = [one for one in (_take(folder, known, *file) for file in _files(say)) if one]
            manifest = {"format": 1, "made_at": timezone.now().isoformat(), **said, "media": [asdict(one) for one in media]}
            if folder.sealed:  # by which what is sealed in the database is opened; it does not lie in the open beside it
                manifest["secret_key"] = settings.SECRET_KEY
            folder.put(io.BytesIO(json.dumps(manifest).encode()), fresh / "manifest.json")
            _write_ledger(folder)
        except BaseException:
            shutil.rmtree(fresh, ignore_errors=True)
            raise
        fresh.rename(folder.path / name)
    say(f"{name}: {len(media)} files, {sum(one.size for one in media) / 1e9:.1f} GB")
    return name


def _database(folder: Folder, fresh: Path, say: Say) -> dict:
    """Dumped and counted in one snapshot."""
    say("the database")
    with tempfile.TemporaryDirectory(dir=fresh) as scratch, connection.cursor() as cursor:
        cursor.execute("begin isolation level repeatable read read only")
        try:
            cursor.execute("select pg_export_snapshot()")
            [snapshot] = cursor.fetchone()
            dump = Path(scratch) / "database.dump"
            left_out = [f"--exclude-table-data={table}" for table in LEFT_OUT]
            command = [str(programs() / "pg_dump"), "-Fc", "--no-owner", "--no-privileges", f"--snapshot={snapshot}", *left_out, "-f", str(dump)]
            done = subprocess.run(command, env=database_environment(), capture_output=True, text=True)
            if done.returncode:
                raise Unusable(f"The database could not be dumped: {done.stderr.strip().splitlines()[-1][:300]}")
            cursor.execute("select table_name from information_schema.tables where table_schema = 'public' and table_type = 'BASE TABLE' order by 1")
            counts = {}
            for [table] in cursor.fetchall():
                if table not in LEFT_OUT:
                    cursor.execute(f"select count(*) from {connection.ops.quote_name(table)}")
                    [counts[table]] = cursor.fetchone()
            cursor.execute("select app || '.' || name from django_migrations order by 1")
            migrations = [one for [one] in cursor.fetchall()]
        finally:
            cursor.execute("rollback")
        with dump.open("rb") as source:
            folder.put(source, fresh / "database.dump")
        return {"tables": counts, "migrations": migrations, "database": {"sha256": digest_of(dump), "size": dump.stat().st_size}}


def database_environment() -> dict[str, str]:
    """libpq's variables for the database that Django has."""
    database = settings.DATABASES["default"]
    return {
        **os.environ,
        "PGHOST": str(database["HOST"]),
        "PGPORT": str(database["PORT"]),
        "PGUSER": str(database["USER"]),
        "PGPASSWORD": str(database["PASSWORD"]),
        "PGDATABASE": str(connection.settings_dict["NAME"]),
    }


def _known(folder: Folder) -> dict[tuple[str, int], Kept]:
    """By name and size, what the last backup has: a file of ours is never written anew under its name."""
    names = folder.names()
    with tempfile.TemporaryDirectory() as scratch:
        return {(one.name, one.size): one for one in folder.manifest(names[-1], Path(scratch))["media"]} if names else {}


def _files(say: Say) -> Iterator[tuple[str, Path | None, int]]:
    """Name, path where it is a file of this machine's, size. What comes after the dump belongs to the next backup, and does no harm in this."""
    say("files")
    for name, size in sizes_in(default_storage):
        try:
            path = Path(default_storage.path(name))
        except NotImplementedError:
            path = None
        yield name, path, size
    for part in Path(settings.FILE_UPLOAD_TEMP_DIR).glob("*.part"):
        yield INCOMING + part.name, part, part.stat().st_size


def _take(folder: Folder, known: dict[tuple[str, int], Kept], name: str, path: Path | None, size: int) -> Kept | None:
    if (had := known.get((name, size))) and not name.startswith(INCOMING) and (folder.path / had.object).exists():
        return had
    with tempfile.TemporaryDirectory() as scratch:
        if path is None or name.startswith(INCOMING):  # elsewhere, or still growing: as it is now
            copy = Path(scratch) / "file"
            try:
                with (path.open("rb") if path else default_storage.open(name)) as source, copy.open("wb") as sink:
                    shutil.copyfileobj(source, sink, 1024 * 1024)
            except FileNotFoundError:
                return None
            path = copy
        try:
            sha256 = digest_of(path)
            place = folder.object_of(sha256)
            if not (folder.path / place).exists():
                with path.open("rb") as source:
                    folder.put(source, folder.path / place)
            return Kept(name, path.stat().st_size, sha256, place)
        except FileNotFoundError:
            return None


def _write_ledger(folder: Folder) -> None:
    lines = "\n".join(as_line(row) for row in Removal.objects.order_by("at").iterator())
    folder.put(io.BytesIO(lines.encode()), folder.path / "removals.jsonl")


def thin(folder: Folder, say: Say) -> list[str]:
    """Let go of older backups, and of files that none has any more. Returns their names."""
    with folder.alone(), tempfile.TemporaryDirectory() as scratch:
        gone = thinned(folder.names(), datetime.now(UTC))
        for name in gone:
            shutil.rmtree(folder.path / name)
        kept = {one.object for name in folder.names() for one in folder.manifest(name, Path(scratch))["media"]}
        lost = [path for path in folder.path.glob("objects/*/*") if str(path.relative_to(folder.path)) not in kept]
        for path in lost:
            path.unlink()
    say(f"{len(gone)} backups and {len(lost)} files let go of; {len(folder.names())} backups are left")
    return gone

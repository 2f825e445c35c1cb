"""Put a backup back into an empty installation: checked before anything is touched, the database whole or not at all."""

from __future__ import annotations

import os
import subprocess
import tempfile
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.files import File
from django.core.files.storage import default_storage
from django.core.management import call_command
from django.db import connection
from django.db.migrations.loader import MigrationLoader

from server.backup.archive import Folder, Kept, Unusable, digest_of, write_whole
from server.backup.make import INCOMING, Say, database_environment, programs
from server.pipeline.files import names_in
from server.removals.ledger import replay
from server.removals.unfinished import is_unfinished, mark


def put_back(folder: Folder, name: str, say: Say, removals: Path | None = None) -> None:
    """name: of the backup, "" for the last one. removals: a ledger that is newer than the folder's. Raises Unusable.

    It may be cut off anywhere and is begun again: files go in first and do no harm by themselves, then the database in one transaction; and
    nothing is served until what was removed since is removed once more.
    """
    with folder.alone(), tempfile.TemporaryDirectory(dir=settings.FILE_UPLOAD_TEMP_DIR) as place:
        scratch = Path(place)
        names = folder.names()
        if not names:
            raise Unusable(f"There is no whole backup in {folder.path}.")
        manifest = folder.manifest(name or names[-1], scratch)
        _check_version(manifest)
        if not is_unfinished():  # else what is there is of an attempt that was cut off
            _check_empty(manifest["media"])
        ledger = _ledger(folder, scratch, removals)
        say("checking")
        for kept in manifest["media"]:
            _check(folder, kept, scratch)
        with folder.get(folder.path / (name or names[-1]) / "database.dump", scratch) as dump:
            if digest_of(dump) != manifest["database"]["sha256"]:
                raise Unusable(f"{folder.path / (name or names[-1]) / 'database.dump'} is damaged. Put back another backup: {', '.join(names)}.")
            say("files")
            for kept in manifest["media"]:
                _put_file(folder, kept, scratch)
            say("the database")
            mark(True)
            _put_database(dump)
    _check_counts(manifest["tables"])
    call_command("prepare", restoring=True)
    _keep_secret(manifest.get("secret_key", ""), say)
    done = replay(ledger)
    mark(False)
    say(f"put back as of {manifest['made_at'][:19]}; {done} later strikes and deletions done once more")


def _keep_secret(secret: str, say: Say) -> None:
    """Without the old key nobody can open the passwords of calendars and folders that were kept sealed."""
    if not secret:
        say("the key of the old server (var/secret.key) is in no backup that is not sealed: put it in its place before you start, or give anew what was sealed with it")
    elif not os.environ.get("AFTERSHOWER_SECRET_KEY"):
        write_whole(settings.VAR / "secret.key", secret.encode())
        (settings.VAR / "secret.key").chmod(0o600)


def _check_version(manifest: dict[str, Any]) -> None:
    known = {f"{app}.{name}" for app, name in MigrationLoader(None).disk_migrations}
    if unknown := [one for one in manifest["migrations"] if one not in known]:
        raise Unusable(f"This backup was made by a newer version of Aftershower (it has {unknown[-1]}). Put it back with that version.")


def _check_empty(media: list[Kept]) -> None:
    with connection.cursor() as cursor:
        cursor.execute("select to_regclass('accounts_user') is not null")
        [there] = cursor.fetchone()
        if there:
            cursor.execute("select exists (select 1 from accounts_user)")
            [there] = cursor.fetchone()
    if there:
        raise Unusable("This installation is not empty: there are accounts in it. Restore into a new one, or empty this one first.")
    ours = {one.name for one in media}
    if strange := next((name for name in names_in(default_storage) if name not in ours), None):
        raise Unusable(f"This installation is not empty: {strange} lies in its media. Restore into a new one, or empty this one first.")


def _ledger(folder: Folder, scratch: Path, removals: Path | None) -> list[str]:
    lines: list[str] = []
    if (folder.path / "removals.jsonl").exists():
        with folder.get(folder.path / "removals.jsonl", scratch) as plain:
            lines += plain.read_text(encoding="utf-8").splitlines()
    if removals:
        try:
            lines += removals.read_text(encoding="utf-8").splitlines()
        except OSError as error:
            raise Unusable(f"The ledger of removals {removals} cannot be read ({error.strerror}).") from error
    return lines


def _check(folder: Folder, kept: Kept, scratch: Path) -> None:
    path = folder.path / kept.object
    if not path.exists():
        raise Unusable(f"{path} is missing. Take it from a copy of this folder, or put back another backup.")
    with folder.get(path, scratch) as plain:
        if plain.stat().st_size != kept.size or digest_of(plain) != kept.sha256:
            raise Unusable(f"{path} is damaged. Take it from a copy of this folder, or put back another backup.")


def _put_file(folder: Folder, kept: Kept, scratch: Path) -> None:
    with folder.get(folder.path / kept.object, scratch) as plain:
        if kept.name.startswith(INCOMING):
            target = Path(settings.FILE_UPLOAD_TEMP_DIR) / kept.name.removeprefix(INCOMING)
            target.write_bytes(plain.read_bytes())
            return
        if default_storage.exists(kept.name):
            default_storage.delete(kept.name)  # of an attempt that was cut off
        with plain.open("rb") as source:
            default_storage.save(kept.name, File(source))


def _put_database(dump: Path) -> None:
    with connection.cursor() as cursor:
        cursor.execute("drop schema public cascade")
        cursor.execute("create schema public")
    connection.close()
    command = [str(programs() / "pg_restore"), "--single-transaction", "--exit-on-error", "--no-owner", "--no-privileges", "-d", database_environment()["PGDATABASE"], str(dump)]
    done = subprocess.run(command, env=database_environment(), capture_output=True, text=True)
    if done.returncode:
        raise Unusable(f"The database could not be put back: {done.stderr.strip().splitlines()[-1][:300]}")


def _check_counts(tables: dict[str, int]) -> None:
    with connection.cursor() as cursor:
        for table, count in tables.items():
            cursor.execute(f"select count(*) from {connection.ops.quote_name(table)}")
            [found] = cursor.fetchone()
            if found != count:
                raise Unusable(f"The table {table} has {found} rows, and had {count}. Put back another backup into an empty installation.")

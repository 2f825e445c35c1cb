"""Backups: every row and file is there again, what was struck since stays so, and what is damaged, foreign or in the way is told of first."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from datetime import UTC, datetime, timedelta
from pathlib import Path

import psycopg
import pytest
from django.conf import settings as django_settings
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.db import connection

from server.backup.archive import Folder, Unusable, named, thinned
from server.backup.make import LEFT_OUT, database_environment, make_backup, thin
from server.links.models import Link
from server.record.actions.delete_meeting import erase_now
from server.record.models import KnownVoice
from server.removals.ledger import replay
from server.removals.models import Removal
from tests.server.conftest import strike


@pytest.fixture(autouse=True)
def nobody_else_gives_files(settings, tmp_path):
    """What is on its way in elsewhere meanwhile is no part of these."""
    settings.FILE_UPLOAD_TEMP_DIR = tmp_path / "incoming"
    settings.FILE_UPLOAD_TEMP_DIR.mkdir()


def quiet(text: str) -> None:
    pass


class Elsewhere:
    """An empty installation beside the one that is tested."""

    def __init__(self, folder: Path, name: str):
        self.folder, self.name = folder, name
        self.media = folder / "media"
        self.media.mkdir(parents=True)
        self.environment = {
            **database_environment(),
            "PGDATABASE": name,
            "AFTERSHOWER_MEDIA": str(self.media),
            "AFTERSHOWER_VAR": str(folder / "var"),
            "AFTERSHOWER_MODELS": str(django_settings.MODELS),
            "DJANGO_SETTINGS_MODULE": "server.settings",
            "PYTHONPATH": str(django_settings.ROOT),
        }
        with self.connect(database_environment()["PGDATABASE"]) as asked:
            asked.execute(f"drop database if exists {name} with (force)")
            asked.execute(f"create database {name}")

    def connect(self, database: str | None = None) -> psycopg.Connection:
        e = database_environment()
        return psycopg.connect(host=e["PGHOST"], port=e["PGPORT"], user=e["PGUSER"], password=e["PGPASSWORD"], dbname=database or self.name, autocommit=True)

    def restore(self, backups: Path, *more: str, secret: str = "") -> subprocess.CompletedProcess:
        command = [sys.executable, "server/manage.py", "restore", str(backups), *more]
        return subprocess.run(command, cwd=django_settings.ROOT, env={**os.environ, **self.environment, "AFTERSHOWER_BACKUP_PASSPHRASE": secret}, capture_output=True, text=True)

    def rows(self, sql: str) -> list:
        with self.connect() as asked:
            return asked.execute(sql).fetchall()


@pytest.fixture
def elsewhere(tmp_path):
    made = []

    def make(name: str = "restored") -> Elsewhere:
        made.append(Elsewhere(tmp_path / name, f"{name}_{os.getpid()}"))
        return made[-1]

    yield make
    for one in made:
        with one.connect(database_environment()["PGDATABASE"]) as asked:
            asked.execute(f"drop database if exists {one.name} with (force)")


def everything(cursor) -> dict[str, str]:
    """Table → a digest of all its rows."""
    cursor.execute("select table_name from information_schema.tables where table_schema = 'public' and table_type = 'BASE TABLE'")
    tables = [name for [name] in cursor.fetchall() if name not in LEFT_OUT]
    found = {}
    for table in tables:
        cursor.execute(f'select md5(coalesce(string_agg(row::text, chr(10) order by row::text), \'\')) from "{table}" row')
        [found[table]] = cursor.fetchone()
    return found


def files(folder: Path) -> dict[str, bytes]:
    return {str(path.relative_to(folder)): path.read_bytes() for path in folder.rglob("*") if path.is_file()}


@pytest.fixture
def removals(settings, tmp_path) -> Path:
    settings.REMOVALS = tmp_path / "removals.jsonl"
    return settings.REMOVALS


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize("secret", ["", "seven wet ferns"])
def test_every_row_and_file_is_there_again_and_what_was_removed_since_stays_so(maren, make_meeting, caller, tmp_path, elsewhere, removals, settings, secret):
    kept, gone, struck = make_meeting(maren, "Kept"), make_meeting(maren, "Gone"), make_meeting(maren, "Struck")
    default_storage.save(f"{kept.pk}/laid/café.pdf", ContentFile(b"%PDF"))
    voice = KnownVoice.objects.create(person=struck.people.first(), meeting=struck, vector=[0.5], consent_noted_by=maren.user)
    call = caller(maren)
    link = call("post", "/api/links", {"scope": "minutes", "of": str(kept.pk)}).json()
    backups = Folder.open_or_begin(tmp_path / "backups", secret)
    name = make_backup(backups, quiet)
    with connection.cursor() as cursor:
        before, media = everything(cursor), files(Path(settings.MEDIA_ROOT))
    whole = elsewhere("whole")
    assert (done := whole.restore(backups.path, secret=secret)).returncode == 0, done.stderr
    with whole.connect() as asked:
        assert everything(asked.cursor()) == before
    assert files(whole.media) == media and any("café" in name for name in media)
    assert ((whole.folder / "var" / "secret.key").read_text() == django_settings.SECRET_KEY) == bool(secret)
    lies_open = any(b"WEBVTT" in data or b"%PDF" in data or b"PGDMP" in data for data in files(backups.path).values())
    assert lies_open != bool(secret)
    if not secret:
        return  # what follows is the same for both, and takes long
    # Since then: deleted, struck, forgotten, taken back. An older backup is put back, with the ledger that is kept beside the database.
    call("delete", f"/api/meetings/{gone.pk}")
    call("post", f"/api/library/taken-out/{gone.pk}/delete", {"name": "Maren Tollefsen"})
    erase_now(gone.pk)
    assert strike(call, struck, {"first": [4, 0], "last": [4, -1]}).status_code == 200
    call("delete", f"/api/voices/{voice.pk}")
    call("delete", f"/api/links/{link['id']}")
    late = elsewhere("late")
    assert (done := late.restore(backups.path, "--of", name, "--removals", str(removals), secret=secret)).returncode == 0, done.stderr
    assert "4 later strikes" in done.stderr
    assert sorted(title for [title] in late.rows("select title from meetings_meeting")) == ["Kept", "Struck"]
    assert not list((late.media / str(gone.pk)).rglob("*")) and late.rows("select count(*) from record_knownvoice") == [(0,)]
    left = [text for [text] in late.rows(f"select text from record_line where meeting_id = '{struck.pk}'")]
    assert left and "Works for me." not in left and late.rows("select withheld from capture_recording where withheld") == [(True,)]
    assert late.rows("select token from links_link where revoked_at is not null") == [("",)]
    # A later backup carries the ledger by itself.
    make_backup(backups, quiet)
    again = elsewhere("again")
    assert again.restore(backups.path, "--of", name, secret=secret).returncode == 0
    assert again.rows("select count(*) from removals_removal") == [(Removal.objects.count(),)]


@pytest.mark.django_db(transaction=True)
def test_a_backup_takes_each_file_once_and_older_ones_are_let_go_of(maren, make_meeting, tmp_path, settings):
    meeting = make_meeting(maren)
    backups = Folder.open_or_begin(tmp_path / "backups")
    first = make_backup(backups, quiet)
    objects = sorted((backups.path / "objects").rglob("*"))
    (backups.path / first).rename(backups.path / named(datetime.now(UTC) - timedelta(days=400)))
    (backups.path / ".2020-01-01T00-00-00Z.partial").mkdir()
    second = make_backup(backups, quiet)
    assert sorted((backups.path / "objects").rglob("*")) == objects and not list(backups.path.glob(".*.partial"))
    erase = meeting.recording.original.name
    default_storage.delete(erase)
    (backups.path / second).rename(backups.path / named(datetime.now(UTC) - timedelta(days=399)))
    make_backup(backups, quiet)
    assert len(thin(backups, quiet)) == 2 and len(backups.names()) == 1
    assert len(list((backups.path / "objects").rglob("*"))) < len(objects), "what no backup has any more is gone"


def test_which_backups_are_kept():
    now = datetime(2026, 11, 30, 12, tzinfo=UTC)
    names = sorted(named(now - timedelta(hours=12 * step)) for step in range(1, 900))
    gone = set(thinned(names, now))
    left = [name for name in names if name not in gone]
    assert len([name for name in left if name > named(now - timedelta(days=7))]) == 13 and 13 + 8 + 9 <= len(left) <= 13 + 9 + 12
    assert left[-1] == names[-1] and thinned(left, now) == [] and thinned(["2020-01-01T00-00-00Z"], now) == []


@pytest.mark.django_db(transaction=True)
def test_what_is_wrong_is_told_before_anything_is_touched(maren, make_meeting, tmp_path, elsewhere, settings):
    make_meeting(maren)
    strange = tmp_path / "strange"
    strange.mkdir()
    (strange / "holiday.jpg").write_bytes(b"x")
    with pytest.raises(Unusable, match="no folder of backups"):
        Folder.open_or_begin(strange)
    backups = Folder.open_or_begin(tmp_path / "backups", "seven wet ferns")
    make_backup(backups, quiet)
    empty = elsewhere("empty")
    for secret, words in (("", "sealed"), ("wrong", "not the passphrase")):
        done = empty.restore(backups.path, secret=secret)
        assert done.returncode and words in done.stderr and "Traceback" not in done.stderr
    secret = "seven wet ferns"
    assert "no backup" in empty.restore(backups.path, "--of", "2020-01-01T00-00-00Z", secret=secret).stderr
    assert "no folder of backups" in empty.restore(strange).stderr
    # One byte of a file, of the dump, of the manifest; a file that is gone.
    object_ = next(path for path in (backups.path / "objects").rglob("*") if path.is_file())
    for path in (object_, backups.path / backups.names()[-1] / "database.dump", backups.path / backups.names()[-1] / "manifest.json"):
        whole = path.read_bytes()
        path.write_bytes(whole[:-5] + bytes([whole[-5] ^ 1]) + whole[-4:])
        done = empty.restore(backups.path, secret=secret)
        assert done.returncode and "damaged" in done.stderr and "Traceback" not in done.stderr, path
        path.write_bytes(whole)
    assert empty.rows("select count(*) from information_schema.tables where table_schema = 'public'") == [(0,)] and not files(empty.media)
    # Of an attempt that was cut off, files lie there already; the second one goes through. A third finds that it is not empty.
    assert empty.restore(backups.path, secret=secret).returncode == 0
    done = empty.restore(backups.path, secret=secret)
    assert done.returncode and "not empty" in done.stderr
    crowded = elsewhere("crowded")
    (crowded.media / "notes.txt").write_text("mine")
    assert "notes.txt" in crowded.restore(backups.path, secret=secret).stderr


@pytest.mark.django_db(transaction=True)
def test_a_full_disk_or_another_backup_leaves_nothing_half_made(maren, make_meeting, tmp_path, settings, monkeypatch):
    make_meeting(maren)
    backups = Folder.open_or_begin(tmp_path / "backups")

    def full(*_args, **_more):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("server.backup.archive.Folder.put", full)
    with pytest.raises(OSError):
        make_backup(backups, quiet)
    assert backups.names() == [] and not list(backups.path.glob(".*.partial"))
    with backups.alone(), pytest.raises(Unusable, match="Another backup"):
        make_backup(Folder.open(backups.path), quiet)


def test_a_ledger_of_another_version_is_no_reason_to_forget_it(db):
    with pytest.raises(ValueError, match="does not know"):
        replay([json.dumps({"key": "6b0f2f0e-0000-4000-8000-000000000000", "kind": "unheard of", "at": "2026-01-01T00:00:00Z", "facts": {}})])
    assert Link.objects.count() == 0

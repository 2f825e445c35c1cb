"""Media storage and local files: the computation reads paths, the storage may be anywhere."""

from __future__ import annotations

import hashlib
import os
import shutil
import tempfile
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from django.conf import settings
from django.core.files import File
from django.core.files.storage import Storage, default_storage
from django.db.models.fields.files import FieldFile


@contextmanager
def local(file: FieldFile) -> Iterator[Path]:
    """A path with the file's contents: the file itself where the storage is a folder, else a copy for as long as needed."""
    name = str(file.name)
    try:
        yield Path(file.path)
    except NotImplementedError:
        with (
            tempfile.NamedTemporaryFile(
                dir=settings.FILE_UPLOAD_TEMP_DIR, prefix=_prefix(name), suffix=Path(name).suffix
            ) as copy,
            file.open("rb") as source,
        ):
            shutil.copyfileobj(source, copy, 1024 * 1024)
            copy.flush()
            yield Path(copy.name)


def store(field: FieldFile, name: str, path: Path) -> None:
    """Put a local file into the storage under a recording's field, in place of what was there."""
    if field:
        field.delete(save=False)
    with path.open("rb") as source:
        field.save(name, File(source), save=False)


def delete_files(storage: Storage, names: Iterable[str]) -> None:
    """Delete files of a storage; one that is gone already is passed over."""
    for name in names:
        storage.delete(name)


def put(name: str, path: Path) -> str:
    """Put a local file into the storage; the name it got there, which differs where that one was taken."""
    with path.open("rb") as source:
        return default_storage.save(name, File(source))


@contextmanager
def scratch(meeting_id: object) -> Iterator[Path]:
    """A folder for files on the way, which a later `sweep` of the meeting finds should this process be killed."""
    with tempfile.TemporaryDirectory(dir=settings.FILE_UPLOAD_TEMP_DIR, prefix=f"{meeting_id}-") as folder:
        yield Path(folder)


def _prefix(name: str) -> str:
    return f"{name.split('/')[0]}-"


def sweep(storage: Storage, meeting_id: object, kept: set[str], own: Path | None = None) -> int:
    """Delete every file of a meeting that nothing refers to: what was replaced, and what a worker that was killed left behind.

    kept: names in the storage that stay; own: the folder on the way that is in use, if one is. Returns how many went.
    """
    lost = [name for name in names_in(storage, str(meeting_id)) if name not in kept]
    for name in lost:
        storage.delete(name)
    left = [path for path in Path(settings.FILE_UPLOAD_TEMP_DIR).glob(f"{meeting_id}-*") if path != own]
    for path in left:
        shutil.rmtree(path) if path.is_dir() else path.unlink()
    return len(lost) + len(left)


def names_in(storage: Storage, folder: str = "") -> Iterator[str]:
    """The names of all that lies in a folder of a storage and below it; of all there is unless one is given."""
    try:
        folders, files = storage.listdir(folder)
    except FileNotFoundError:
        return
    above = f"{folder}/" if folder else ""
    yield from (above + name for name in files)
    for name in folders:
        yield from names_in(storage, above + name)


def sizes_in(storage: Storage, folder: str = "") -> Iterator[tuple[str, int]]:
    """Names and bytes of all that lies in a folder of a storage and below it; what goes meanwhile is passed over."""
    if listing := getattr(storage, "sizes_in", None):  # a store that tells sizes with the names, where a question each would take minutes
        yield from listing(folder)
        return
    for name in names_in(storage, folder):
        with suppress(FileNotFoundError):
            yield name, storage.size(name)


def hash_file(path: Path) -> str:
    """SHA-256 in hexadecimal; 2 GB take about 10 s."""
    with path.open("rb") as source:
        os.posix_fadvise(source.fileno(), 0, 0, os.POSIX_FADV_SEQUENTIAL)
        return hashlib.file_digest(source, "sha256").hexdigest()

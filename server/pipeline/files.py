"""Media storage and local files: the computation reads paths, the storage may be anywhere."""

from __future__ import annotations

import hashlib
import os
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.core.files import File
from django.db.models.fields.files import FieldFile


@contextmanager
def local(file: FieldFile) -> Iterator[Path]:
    """A path with the file's contents: the file itself where the storage is a folder, else a copy for as long as needed."""
    try:
        yield Path(file.path)
    except NotImplementedError:
        with tempfile.NamedTemporaryFile(suffix=Path(file.name).suffix) as copy, file.open("rb") as source:
            shutil.copyfileobj(source, copy, 1024 * 1024)
            copy.flush()
            yield Path(copy.name)


def store(field: FieldFile, name: str, path: Path) -> None:
    """Put a local file into the storage under a recording's field, in place of what was there."""
    if field:
        field.delete(save=False)
    with path.open("rb") as source:
        field.save(name, File(source), save=False)


def hash_file(path: Path) -> str:
    """SHA-256 in hexadecimal; 2 GB take about 10 s."""
    with path.open("rb") as source:
        os.posix_fadvise(source.fileno(), 0, 0, os.POSIX_FADV_SEQUENTIAL)
        return hashlib.file_digest(source, "sha256").hexdigest()

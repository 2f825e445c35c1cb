"""What every part of the house stands on: paths, progress lines, problems said in one line, running commands."""

from __future__ import annotations

import hashlib
import os
import shutil
import subprocess
import sys
from collections.abc import Iterable
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
VAR = Path(os.environ.get("AFTERSHOWER_VAR", ROOT / "var")).resolve()
VENV_PYTHON = VAR / "venv" / "bin" / "python"
MODELS = Path(os.environ.get("AFTERSHOWER_MODELS", VAR / "models")).resolve()
LOGS = VAR / "logs"

# A first set-up unpacks about 1.6 GB; below this it would stop half-way with a worse message.
LEAST_FREE_BYTES = 3 * 1024**3


class Problem(Exception):
    """Something the person at the keyboard can mend; its text is the one line they are shown."""


def say(text: str) -> None:
    """Progress, for people: standard error, so that results on standard output stay clean."""
    print(f"· {text}", file=sys.stderr, flush=True)


def run(*command: str | Path, what: str, **options) -> None:
    """Run a command with its output in var/logs; on failure raise Problem with its last line."""
    LOGS.mkdir(parents=True, exist_ok=True)
    log = LOGS / f"{what.split()[0].lower()}.log"
    with log.open("ab") as sink:
        done = subprocess.run([str(part) for part in command], stdout=sink, stderr=subprocess.STDOUT, stdin=subprocess.DEVNULL, **options)
    if done.returncode:
        lines = [line for line in log.read_text(errors="replace").splitlines() if line.strip() and "complete log" not in line]
        last = next((line for line in reversed(lines) if "rror" in line or "E:" in line[:2]), lines[-1] if lines else "")
        raise Problem(
            f"{what} failed: {last.strip()[:300]} (all of it: {log.relative_to(VAR.parent) if log.is_relative_to(VAR.parent) else log})"
        )


def digest(paths: Iterable[Path]) -> str:
    """SHA-256 over names and contents of files, in order of name."""
    total = hashlib.sha256()
    for path in sorted(paths):
        total.update(str(path.relative_to(ROOT)).encode())
        total.update(path.read_bytes())
    return total.hexdigest()


def stamped(name: str, value: str) -> bool:
    """Was this piece of the set-up done for this very input?"""
    stamp = VAR / "stamps" / name
    return stamp.exists() and stamp.read_text() == value


def stamp(name: str, value: str) -> None:
    """Note that a piece of the set-up is done for this input."""
    path = VAR / "stamps" / name
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(value)


def close_var() -> None:
    """What is kept under var is for nobody else on this machine: neither what is there nor what will be made.

    The folder itself can be passed through, for PostgreSQL, which as root is run by a user of its own; not looked into.
    """
    os.umask(0o077)
    VAR.mkdir(parents=True, exist_ok=True)
    VAR.chmod(0o711)
    for path in VAR.iterdir():
        if path.stat().st_uid == os.geteuid() and not path.is_symlink():
            path.chmod(0o700 if path.is_dir() else 0o600)


def check_disk() -> None:
    """Raise Problem when the disk is too full for a set-up."""
    VAR.mkdir(parents=True, exist_ok=True)
    free = shutil.disk_usage(VAR).free
    if free < LEAST_FREE_BYTES:
        raise Problem(
            f"the disk is too full: {free / 1024**3:.1f} GB free under {VAR}, setting up needs "
            f"{LEAST_FREE_BYTES / 1024**3:.0f} GB. Free some and start again"
        )

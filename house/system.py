"""Debian packages: what is needed, what is missing, putting it there."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

from house.ground import Problem, run, say

DEJAVU = Path("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf")
"""Has signs that the web's fonts lack."""

LIBRIVOX = Path("/usr/share/pocketsphinx/test/data/librivox")
"""Tests: five sentences of a novel, read aloud, and their words."""


def postgres_programs() -> Path | None:
    """The folder with initdb and pg_ctl: the newest PostgreSQL of Debian's, or None."""
    found = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda path: int(path.parts[-3]))
    return found[-1].parent if found else None


def _has_venv() -> bool:
    return subprocess.run([sys.executable, "-c", "import ensurepip, venv"], capture_output=True).returncode == 0


# Debian package → the way from English that it brings.
_TRANSLATIONS = {"apertium-eng-spa": "eng-spa", "apertium-eng-cat": "eng-cat", "apertium-en-gl": "en-gl"}


# Debian package → the language that it reads from pictures of screens.
_LEGIBLE = {"tesseract-ocr": "eng", "tesseract-ocr-spa": "spa"}


def _needs(for_tests: bool) -> dict[str, bool]:
    """Debian package → is what we want of it there?"""
    needs = {
        "postgresql": postgres_programs() is not None,
        "python3-venv": _has_venv(),
        "nodejs": shutil.which("node") is not None,
        "npm": shutil.which("npm") is not None,
        "fonts-dejavu-core": DEJAVU.exists(),
        **{package: Path(f"/usr/share/tesseract-ocr/5/tessdata/{language}.traineddata").exists() for package, language in _LEGIBLE.items()},
        **{package: Path(f"/usr/share/apertium/modes/{mode}.mode").exists() for package, mode in _TRANSLATIONS.items()},
    }
    if for_tests:
        needs["chromium"] = shutil.which("chromium") is not None
        needs["pocketsphinx-testdata"] = LIBRIVOX.exists()
    return needs


def ensure_packages(for_tests: bool) -> None:
    """Install the Debian packages that are missing.

    Raises Problem when one is missing and neither root nor sudo is at hand, or Node is too old.
    """
    missing = [package for package, there in _needs(for_tests).items() if not there]
    if missing:
        if not shutil.which("apt-get"):
            raise Problem(f"missing: {', '.join(missing)}. This machine has no apt-get; install them and start again")
        sudo = [] if os.geteuid() == 0 else ["sudo", "-n"]
        if sudo and subprocess.run([*sudo, "true"], capture_output=True).returncode:
            sudo = ["sudo"] if sys.stdin.isatty() else []
            if not sudo:
                raise Problem(f"missing Debian packages: {', '.join(missing)}. Run: sudo apt-get install {' '.join(missing)}")
        say(f"installing Debian packages: {', '.join(missing)}")
        environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
        run(*sudo, "apt-get", "update", "-q", what="apt-get update", env=environment)
        run(*sudo, "apt-get", "install", "-y", "-q", "--no-install-recommends", *missing, what="apt-get install", env=environment)
    version = subprocess.run(["node", "--version"], capture_output=True, text=True).stdout.strip()
    if int(version.lstrip("v").split(".")[0] or 0) < 20:
        raise Problem(f"Node {version} is too old to build the web application; it needs Node 20 or newer")

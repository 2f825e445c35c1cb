"""Python packages in an environment of our own, and the web application built from its sources."""

from __future__ import annotations

import os
import shutil
import sys

from house.ground import ROOT, VAR, VENV_PYTHON, digest, run, say, stamp, stamped


def ensure_python(for_tests: bool) -> None:
    """Python packages, each checked against the hash in requirements/."""
    runtime, test = ROOT / "requirements/runtime.txt", ROOT / "requirements/test.txt"
    runtime_digest, test_digest = digest([runtime]), digest([runtime, test])
    if VENV_PYTHON.exists() and (stamped("python-test", test_digest) or not for_tests and stamped("python", runtime_digest)):
        return
    if not VENV_PYTHON.exists():
        run(sys.executable, "-m", "venv", VAR / "venv", what="python-venv")
    say("installing Python packages (some minutes the first time)")
    run(
        VENV_PYTHON,
        "-m",
        "pip",
        "install",
        "--quiet",
        "--disable-pip-version-check",
        "--require-hashes",
        "-r",
        test if for_tests else runtime,
        what="pip install",
    )
    stamp("python-test" if for_tests else "python", test_digest if for_tests else runtime_digest)


def ensure_web() -> None:
    """The web application's packages (from package-lock.json) and its build in web/dist."""
    web = ROOT / "web"
    lock_digest = digest([web / "package-lock.json"])
    sources = [path for folder in ("src", "public") for path in (web / folder).rglob("*") if path.is_file()]
    sources += [path for path in web.iterdir() if path.is_file()]
    build_digest = digest(sources)
    if stamped("web-build", build_digest) and (web / "dist/index.html").exists():
        return
    if not stamped("web-packages", lock_digest) or not (web / "node_modules").exists():
        say("installing web packages")
        run("npm", "ci", "--no-audit", "--no-fund", what="npm ci", cwd=web)
        stamp("web-packages", lock_digest)
    say("building the web application")
    run("npm", "run", "build", what="web-build", cwd=web, env={**os.environ, "CI": "1"})
    shutil.rmtree(VAR / "static", ignore_errors=True)
    stamp("web-build", build_digest)


def ensure_fonts() -> None:
    """The web application's fonts in the form that a PDF carries, in var/fonts."""
    made_of = digest([ROOT / "web" / "package-lock.json", ROOT / "house" / "fonts.py"])
    if stamped("fonts", made_of) and (VAR / "fonts" / "serif.ttf").exists():
        return
    say("making fonts for paper")
    run(VENV_PYTHON, "-m", "house.fonts", VAR / "fonts", what="making of fonts", cwd=ROOT)
    stamp("fonts", made_of)

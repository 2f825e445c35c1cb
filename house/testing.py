"""All tests: the web's own, then core, server and browser on a database cluster that is theirs alone."""

from __future__ import annotations

import hashlib
import shutil
import subprocess

from house.ground import ROOT, VAR, VENV_PYTHON, Problem, run, say
from house.postgres import Cluster
from house.serve import gather_static, manage
from house.setting_up import environment, set_up


def run_tests(pattern: str | None, coverage: bool = False) -> int:
    """Set up, run, and return an exit status that is not 0 where there is one. coverage: of the core and the server alone, told at the end."""
    set_up(for_tests=True)
    if pattern is None and not coverage:
        say("testing the web's parts")
        web = subprocess.run(["npm", "test", "--silent"], cwd=ROOT / "web").returncode
        if web:
            return web
        for checker in (["ruff", "check", "--quiet", "."], ["mypy", "--no-error-summary"]):
            if subprocess.run([VENV_PYTHON, "-m", *checker], cwd=ROOT, env=environment(DJANGO_SETTINGS_MODULE="server.settings")).returncode:
                raise Problem(f"{checker[0]} found fault with the code; see above")
    cluster = Cluster("test-postgres", durable=False)
    started = cluster.start()
    settings = environment(**cluster.environment, DJANGO_SETTINGS_MODULE="server.settings", AFTERSHOWER_MEDIA=str(VAR / "test-media"))
    try:
        gather_static(settings)
        settings["AFTERSHOWER_PREPARED"] = _prepared(cluster, settings)
        # Side by side where each test has a database of its own.
        beside = ["--numprocesses", "2", "--dist", "loadfile"]
        if coverage:
            told = ["--cov=core", "--cov=server", "--cov-report=term-missing:skip-covered"]
            settings["COVERAGE_FILE"] = str(VAR / "coverage")
            return _pytest([pattern] if pattern else ["tests/core", "tests/server", *beside], settings, *told)
        if pattern is not None:
            return _pytest([pattern] if (ROOT / pattern).exists() else ["-k", pattern], settings)
        # The others by themselves: they run the whole program, and side by side they take as long (measured on two processors).
        small = _pytest(["tests/core", "tests/server", *beside], settings)
        whole = _pytest(["tests/house", "tests/browser"], settings)
        return small or whole  # below 0 where a signal ended them
    finally:
        if started:
            cluster.stop()
        shutil.rmtree(VAR / "test-media", ignore_errors=True)


def _prepared(cluster: Cluster, settings: dict[str, str]) -> str:
    """A database with every migration made, of which the tests' own are copies; the one of last time, where no migration has changed."""
    made_of = hashlib.sha256()
    for path in (*sorted(ROOT.glob("server/*/migrations/*.py")), ROOT / "requirements" / "runtime.txt"):
        made_of.update(path.read_bytes())
    name, known = f"prepared_{made_of.hexdigest()[:12]}", cluster.databases()
    if name in known:
        return name
    for old in known:
        if old.startswith("prepar"):
            cluster.tell(f'drop database "{old}" with (force)')
    cluster.tell("create database preparing")
    run(*manage("prepare"), what="prepare", env={**settings, "PGDATABASE": "preparing"}, cwd=ROOT)
    cluster.tell(f'alter database preparing rename to "{name}"')  # whoever finds it finds it whole
    return name


def _pytest(arguments: list[str], settings: dict[str, str], *more: str) -> int:
    return subprocess.run([VENV_PYTHON, "-m", "pytest", *arguments, *more], cwd=ROOT, env=settings).returncode

"""A PostgreSQL cluster of the project's own: on loopback, on a port of its own, with a password of its own."""

from __future__ import annotations

import hashlib
import os
import secrets
import shutil
import socket
import subprocess
from pathlib import Path

from house.ground import LOGS, VAR, Problem, run, say
from house.system import postgres_programs

FIRST_PORT = 54711


def free_port(first: int) -> int:
    """The first port from `first` on that nothing on loopback listens at."""
    for port in range(first, first + 200):
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                continue
            return port
    raise Problem(f"no free port between {first} and {first + 199}")


class Cluster:
    """One cluster. PostgreSQL refuses to run as root, so as root it is run by the user `postgres`."""

    def __init__(self, name: str = "postgres", *, durable: bool = True):
        """name: its folder under var/. durable=False trades safety at a power cut for speed (tests)."""
        self._name, self._durable = name, durable
        self._programs = postgres_programs()
        if self._programs is None:
            raise Problem("PostgreSQL is missing. Run: apt-get install postgresql")
        self._as_user = ["runuser", "-u", "postgres", "--"] if os.geteuid() == 0 else []
        self.folder = self._place()
        self._secret = VAR / f"{name}.password"

    def _place(self) -> Path:
        """var/NAME, or, where the user postgres may not enter it (a closed home), a folder under /var/lib."""
        if self._as_user:
            VAR.mkdir(parents=True, exist_ok=True)
            if subprocess.run([*self._as_user, "test", "-x", str(VAR)], capture_output=True).returncode:
                mark = hashlib.sha256(str(VAR).encode()).hexdigest()[:12]
                return Path("/var/lib/aftershower") / mark / self._name
        return VAR / self._name

    @property
    def port(self) -> int:
        """The port it was set up with."""
        return int((self.folder / "aftershower.port").read_text())

    @property
    def running(self) -> bool:
        """Is it up?"""
        return self.folder.exists() and self._control("status").returncode == 0

    @property
    def environment(self) -> dict[str, str]:
        """libpq's variables for connecting to it, which Django and psycopg read."""
        return {
            "PGHOST": "127.0.0.1",
            "PGPORT": str(self.port),
            "PGUSER": "aftershower",
            "PGPASSWORD": self._secret.read_text(),
            "PGDATABASE": "aftershower",
        }

    def _control(self, *arguments: str) -> subprocess.CompletedProcess:
        return subprocess.run(
            [*self._as_user, str(self._programs / "pg_ctl"), "-D", str(self.folder), *arguments], capture_output=True, text=True, cwd="/"
        )

    def ensure(self) -> None:
        """Create it if it is not there. Raises Problem."""
        if (self.folder / "aftershower.port").exists():
            return
        say("creating the database cluster")
        shutil.rmtree(self.folder, ignore_errors=True)
        self.folder.mkdir(parents=True)
        VAR.mkdir(parents=True, exist_ok=True)
        self._secret.touch(mode=0o600)
        self._secret.write_text(secrets.token_urlsafe(24))
        handed = self.folder.parent / f"{self._name}.handed"
        handed.touch(mode=0o600)
        handed.write_text(self._secret.read_text())
        if self._as_user:
            shutil.chown(self.folder, "postgres", "postgres")
            shutil.chown(handed, "postgres", "postgres")
        try:
            run(
                *self._as_user,
                self._programs / "initdb",
                "-D",
                self.folder,
                "-U",
                "aftershower",
                "-E",
                "UTF8",
                "--locale=C.UTF-8",
                "--auth=scram-sha-256",
                f"--pwfile={handed}",
                what="initdb",
                cwd="/",
            )
        finally:
            handed.unlink()
        settings = ["listen_addresses = '127.0.0.1'", "unix_socket_directories = ''", "max_connections = 200"]
        if not self._durable:
            settings += ["fsync = off", "synchronous_commit = off", "full_page_writes = off"]
        with (self.folder / "postgresql.conf").open("a") as conf:
            conf.write("\n".join(settings) + "\n")
        (self.folder / "aftershower.port").write_text(str(free_port(FIRST_PORT)))

    def start(self) -> bool:
        """Start it; True when this call started it, False when it was up already. Raises Problem."""
        self.ensure()
        if self.running:
            return False
        wanted = self.port
        actual = free_port(wanted)
        if actual != wanted:
            (self.folder / "aftershower.port").write_text(str(actual))
        LOGS.mkdir(parents=True, exist_ok=True)
        done = self._control("-w", "-t", "60", "-o", f"-p {actual}", "-l", str(self.folder / "server.log"), "start")
        if done.returncode:
            lines = (self.folder / "server.log").read_text(errors="replace").strip().splitlines() or [done.stderr.strip()]
            raise Problem(f"PostgreSQL did not start: {lines[-1][:300]}")
        self._create_database()
        return True

    def _create_database(self) -> None:
        client = self._programs / "psql"
        environment = {**os.environ, **self.environment, "PGDATABASE": "postgres"}
        known = subprocess.run(
            [client, "-Atc", "select 1 from pg_database where datname = 'aftershower'"], env=environment, capture_output=True, text=True
        )
        if known.stdout.strip() != "1":
            run(client, "-qc", "create database aftershower", what="createdb", env=environment)

    def stop(self) -> None:
        """Stop it, letting nobody's transaction finish but losing none that was committed."""
        self._control("-m", "fast", "-w", "stop")

    def drop_data(self) -> None:
        """Empty the database (for a start over)."""
        environment = {**os.environ, **self.environment, "PGDATABASE": "postgres"}
        run(self._programs / "psql", "-qc", "drop database if exists aftershower with (force)", what="dropdb", env=environment)
        self._create_database()

"""A PostgreSQL cluster of the project's own: on loopback, on a port of its own, with a password of its own."""

from __future__ import annotations

import hashlib
import os
import secrets
import shutil
import socket
import subprocess
import time
from pathlib import Path

from house.ground import LOGS, VAR, Problem, run, say
from house.system import postgres_programs

FIRST_PORT = 54711
_QUIET = (
    # A statement that failed would be logged with what it was to store: sentences, hashes of passwords.
    "log_min_error_statement = panic",
    "log_parameter_max_length_on_error = 0",
    "log_error_verbosity = terse",
    "log_destination = 'stderr'",
    "logging_collector = on",
    "log_directory = 'log'",
    "log_filename = 'day-%a.log'",
    "log_truncate_on_rotation = on",
    "log_rotation_age = 1d",
    "log_rotation_size = 0",
    "log_file_mode = 0600",
)
"""PostgreSQL's own log: no contents, a file a weekday, written over after a week."""


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


def free_ports(first: int, count: int) -> list[int]:
    """So many different free ports, from `first` on."""
    ports: list[int] = []
    for _ in range(count):
        ports.append(free_port(ports[-1] + 1 if ports else first))
    return ports


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
        if not self.folder.is_relative_to(VAR):
            for above in (self.folder.parent, self.folder.parent.parent):  # to be passed through by the user that runs it
                above.chmod(0o711)
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
        (self.folder / "aftershower.port").write_text(str(free_port(FIRST_PORT)))

    def _configure(self) -> None:
        """Our settings, in a file of their own, as this version of the program wants them."""
        settings = ["listen_addresses = '127.0.0.1'", "unix_socket_directories = ''", "max_connections = 200", *_QUIET]
        if not self._durable:
            settings += ["fsync = off", "synchronous_commit = off", "full_page_writes = off"]
        own = self.folder / "aftershower.conf"
        own.write_text("\n".join(settings) + "\n")
        if self._as_user:
            shutil.chown(own, "postgres", "postgres")
        main, line = self.folder / "postgresql.conf", f"include = '{own.name}'"
        if line not in main.read_text():
            with main.open("a") as conf:
                conf.write(f"{line}\n")

    def start(self) -> bool:
        """Start it; True when this call started it, False when it was up already. Raises Problem."""
        self.ensure()
        if self.running:
            return False
        self._configure()
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
        if "aftershower" not in self.databases():
            self.tell("create database aftershower")

    @property
    def _as_owner(self) -> dict[str, str]:
        return {**os.environ, **self.environment, "PGDATABASE": "postgres"}

    def tell(self, statement: str) -> None:
        """Have something done to the cluster itself. Raises Problem."""
        run(self._programs / "psql", "-qc", statement, what="psql", env=self._as_owner)

    def databases(self) -> set[str]:
        """Those that it has, by name."""
        known = subprocess.run(
            [self._programs / "psql", "-Atc", "select datname from pg_database"],
            env=self._as_owner,
            capture_output=True,
            text=True,
        )
        return set(known.stdout.split())

    @property
    def answers(self) -> bool:
        """Does anything listen at its port? Cheaper than to ask PostgreSQL's own programs."""
        try:
            socket.create_connection(("127.0.0.1", self.port), timeout=1).close()
        except OSError:
            return False
        return True

    def revive(self, patience: float = 60.0) -> None:
        """Start it again at the port that everybody knows, after it was killed. Raises Problem.

        What the old one left behind (its processes, its shared memory) ends by itself within moments; until then it does not start.
        """
        end = time.monotonic() + patience
        while True:
            done = self._control("-w", "-t", "30", "-o", f"-p {self.port}", "-l", str(self.folder / "server.log"), "start")
            if done.returncode == 0 or self.answers:
                return
            if time.monotonic() > end:
                raise Problem(f"PostgreSQL ended and does not start again; see {self.folder / 'server.log'}")
            time.sleep(0.5)

    def stop(self) -> None:
        """Stop it, letting nobody's transaction finish but losing none that was committed."""
        self._control("-m", "fast", "-w", "stop")

    def drop_data(self) -> None:
        """Empty the database (for a start over)."""
        self.tell("drop database if exists aftershower with (force)")
        self._create_database()

"""Serving: database, mail stand-in, web server and worker, started together and stopped together."""

from __future__ import annotations

import os
import shutil
import signal
import socket
import subprocess
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from pathlib import Path

from demo.people import CALENDAR, FOLDER, IDENTITY, MAIL_DOMAIN, OUTSIDE, PASSWORD, SIGN_INS, TELEPHONE
from house.ground import LOGS, ROOT, VAR, VENV_PYTHON, Problem, run, say
from house.postgres import Cluster, free_port, free_ports
from house.setting_up import environment, set_up

_FIRST_MAIL_PORT = 8640


@dataclass
class Process:
    """A program of ours that is kept running."""

    name: str
    command: list[str]
    environment: dict[str, str]
    running: subprocess.Popen | None = None
    started: list[float] = field(default_factory=list)

    def start(self) -> None:
        """Start it in a process group of its own, so that a Ctrl-C reaches us first and we stop it in order."""
        LOGS.mkdir(parents=True, exist_ok=True)
        with (LOGS / f"{self.name}.log").open("ab") as log:
            self.running = subprocess.Popen(
                self.command, cwd=ROOT, env=self.environment, stdout=log, stderr=log, stdin=subprocess.DEVNULL, start_new_session=True
            )
        self.started.append(time.monotonic())

    def stop(self, patience: float = 8.0) -> None:
        """Ask it to end, then make it."""
        if self.running is None or self.running.poll() is not None:
            return
        self.running.terminate()
        try:
            self.running.wait(patience)
        except subprocess.TimeoutExpired:
            os.killpg(self.running.pid, signal.SIGKILL)
            self.running.wait()


def python(*arguments: str) -> list[str]:
    """A command of our own Python environment."""
    return [str(VENV_PYTHON), *arguments]


def manage(*arguments: str) -> list[str]:
    """A command of Django's."""
    return python("server/manage.py", *arguments)


def web_command(port: int) -> list[str]:
    """The web server on loopback: a process a processor, so that twenty people do not wait for one (`./aftershower bench load`)."""
    return python(
        "-m",
        "uvicorn",
        "server.asgi:application",
        "--host",
        "127.0.0.1",
        "--port",
        str(port),
        "--no-access-log",
        "--timeout-graceful-shutdown",
        "3",
        "--workers",
        str(max(1, min(4, os.cpu_count() or 1))),
        "--lifespan",
        "off",
    )


def prepare_database(settings: dict[str, str], *, demo: bool = False) -> None:
    """Tables as the code wants them, and the demo where it is wanted."""
    say("preparing the database" + (" and the demo (about two minutes the first time)" if demo else ""))
    run(*manage("prepare", *(["--demo"] if demo else [])), what="prepare the database", cwd=ROOT, env=settings)


def gather_static(settings: dict[str, str]) -> None:
    """Collect and compress the web application's files, once a build."""
    if not (VAR / "static").exists():
        run(*manage("collectstatic", "--noinput"), what="collectstatic", cwd=ROOT, env=settings)


def _check_port(port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError as error:
            raise Problem(
                f"port {port} is taken (is Aftershower running already?). Choose another: ./aftershower up --port {free_port(port + 1)}"
            ) from error


def _await(url: str, process: Process, patience: float = 60.0) -> None:
    end = time.monotonic() + patience
    while time.monotonic() < end:
        if process.running and process.running.poll() is not None:
            raise Problem(f"the {process.name} server ended at once; see {LOGS / (process.name + '.log')}")
        try:
            urllib.request.urlopen(url, timeout=2).close()
            return
        except OSError:
            time.sleep(0.2)
    raise Problem(f"the {process.name} server does not answer; see {LOGS / (process.name + '.log')}")


def serve(port: int, *, fresh: bool, demo: bool) -> int:
    """Set up, start everything, keep it running until Ctrl-C. Raises Problem."""
    _check_port(port)
    set_up()
    for sign in (signal.SIGINT, signal.SIGTERM):
        signal.signal(sign, signal.default_int_handler)
    cluster = Cluster()
    started_cluster = cluster.start()
    processes: list[Process] = []
    try:
        mail_port, mail_page, calendar_port, folder_port, call_port, phone_port, letter_port, identity_port, *outside_ports = free_ports(_FIRST_MAIL_PORT, 8 + len(OUTSIDE))
        url, calendar, folder, calls = (f"http://127.0.0.1:{one}" for one in (port, calendar_port, folder_port, call_port))
        inside = [f"127.0.0.1:{one}" for one in (calendar_port, folder_port, call_port, phone_port, identity_port, *outside_ports)]
        outside = {kind: f"http://127.0.0.1:{one}/" for kind, one in zip(OUTSIDE, outside_ports, strict=True)}
        settings = environment(
            **cluster.environment,
            DJANGO_SETTINGS_MODULE="server.settings",
            AFTERSHOWER_URL=url,
            AFTERSHOWER_SMTP_PORT=str(mail_port),
            AFTERSHOWER_MAIL_DOMAIN=os.environ.get("AFTERSHOWER_MAIL_DOMAIN") or MAIL_DOMAIN,
            AFTERSHOWER_INSIDE=",".join(filter(None, (os.environ.get("AFTERSHOWER_INSIDE"), *inside))),
            AFTERSHOWER_SIGN_IN=",".join(filter(None, (os.environ.get("AFTERSHOWER_SIGN_IN"), "|".join((*IDENTITY[:2], f"http://127.0.0.1:{identity_port}", *IDENTITY[2:]))))),
            AFTERSHOWER_CONFERENCES=",".join(filter(None, (os.environ.get("AFTERSHOWER_CONFERENCES"), f"whep={calls}"))),
        )
        if fresh:
            say("starting over")
            cluster.drop_data()
            for kept in ("media", "incoming", "mail", "calendar"):
                shutil.rmtree(VAR / kept, ignore_errors=True)
        prepare_database(settings, demo=demo)
        events = VAR / "calendar" / "events.json"
        if demo:
            run(*manage("demo_calendar", calendar, str(events), calls), what="prepare the demo's calendar", cwd=ROOT, env=settings)
        rooms = VAR / "conference" / "rooms.json"
        phone = rooms.with_name("telephone.flac")
        if not phone.exists():
            run(*python("-m", "demo.call", str(rooms.parent)), what="prepare the demo's calls", cwd=ROOT, env=settings)
        gather_static(settings)
        processes += [
            Process(
                "mail",
                python("-m", "standins.mail", "--smtp", str(mail_port), "--page", str(mail_page), "--folder", str(VAR / "mail"), "--letterbox", str(letter_port)),
                settings,
            ),
            Process("letterbox", manage("letterbox", "--port", str(letter_port)), {**settings, "AFTERSHOWER_POOL": "1"}),
            Process(
                "calendar",
                python("-m", "standins.calendar", "--port", str(calendar_port), "--folder", str(VAR / "calendar"), "--events", str(events)),
                settings,
            ),
            Process(
                "folder",
                python("-m", "standins.folder", "--port", str(folder_port), "--folder", str(VAR / "recordings"), "--name", FOLDER["account"], "--password", FOLDER["password"]),
                settings,
            ),
            Process("identity", python("-m", "standins.identity", "--port", str(identity_port), "--client", IDENTITY[2], "--secret", IDENTITY[3]), settings),
            *(Process(kind, python("-m", f"standins.{kind}", "--port", str(one), "--token", OUTSIDE[kind]), settings) for kind, one in zip(OUTSIDE, outside_ports, strict=True)),
            Process("conference", python("-m", "standins.conference", "--port", str(call_port), "--rooms", str(rooms)), settings),
            Process(
                "dialer",
                python("-m", "standins.dialer", "--port", str(phone_port), "--sound", str(phone), "--to", f"{url}/api/telephone/{TELEPHONE['id']}/calls", "--secret", TELEPHONE["secret"]),
                settings,
            ),
            Process("web", web_command(port), {**settings, "AFTERSHOWER_POOL": "1"}),
            Process("worker", manage("work"), settings),
            Process("live", manage("work", "--queues", "live", "--at-once", "4"), settings),
            Process("writer", manage("work", "--queues", "writing"), settings),
            # Two, so that there is another where one dies; each holds four calls (`./aftershower bench clerk`).
            *(Process(name, manage("clerk"), {**settings, "AFTERSHOWER_POOL": "1"}) for name in ("clerk", "clerk-2")),
        ]
        say("starting the servers")
        for process in processes:
            process.start()
        _await(f"{url}/api/health", next(one for one in processes if one.name == "web"))
        if demo:
            # They are asked to tell of what is new, so they have to be there.
            run(*manage("demo_connections", *(f"{kind}={where}" for kind, where in outside.items())), what="prepare the demo's connections", cwd=ROOT, env=settings)
        print(_welcome(url, f"http://127.0.0.1:{mail_page}", calendar, folder, calls, f"http://127.0.0.1:{phone_port}", outside, demo), flush=True)
        _keep_running(processes, cluster if started_cluster else None)
    except KeyboardInterrupt:
        say("stopping")
    finally:
        for process in reversed(processes):
            process.stop()
        if started_cluster:
            cluster.stop()
    return 0


def _welcome(url: str, mail: str, calendar: str, folder: str, calls: str, phone: str, outside: dict[str, str], demo: bool) -> str:
    lines = ["", f"  Aftershower is at {url}", f"  Its mail is at    {mail}; mail to the clerk can be written there"]
    lines.append(f"  A folder is at    {folder}/ (WebDAV; name “{FOLDER['account']}”, password “{FOLDER['password']}”): {VAR / 'recordings'}")
    lines.append(f"  A call runs at    {calls}/join/palm-house?pass=4711, with two voices, and one with a lobby at {calls}/join/heating")
    lines.append("  Outside systems:  " + ", ".join(f"{kind} {where} (token “{OUTSIDE[kind]}”)" for kind, where in outside.items()))
    if demo:
        lines.append(f"  A telephone is at {phone}/: press there, and a recorded call comes in")
        account, password = CALENDAR["account"], CALENDAR["password"]
        lines.append(f"  A calendar is at  {calendar}/{account}/ (CalDAV; name “{account}”, password “{password}”)")
        lines += ["", f"  Demo sign-ins, each with the password “{PASSWORD}”:"] + [f"    {email:28} {what}" for email, what in SIGN_INS]
    return "\n".join([*lines, "", "  Ctrl-C stops it.", ""])


def _keep_running(processes: list[Process], cluster: Cluster | None) -> None:
    """Start again what ends by itself, the database first; give up on what ends over and over."""
    while True:
        time.sleep(0.5)
        if cluster and not cluster.answers:
            say("the database ended; starting it again")
            cluster.revive()
        for process in processes:
            if process.running.poll() is None:
                continue
            recent = [moment for moment in process.started if time.monotonic() - moment < 60]
            if len(recent) >= 5:
                raise Problem(f"the {process.name} process ends again and again; see {LOGS / (process.name + '.log')}")
            say(f"the {process.name} process ended; starting it again")
            process.start()


def work(queues: list[str]) -> int:
    """One more worker, on the database of this folder (started if it is not up) or on the one that PGHOST names."""
    set_up(web=False)
    with _database() as settings:
        prepare_database(settings)
        say(f"working on {', '.join(queues) or 'all queues'}; Ctrl-C stops")
        with suppress(KeyboardInterrupt):
            return subprocess.run(manage("work", *(["--queues", *queues] if queues else [])), cwd=ROOT, env=settings).returncode
    return 0


def manage_beside(*arguments: str, passphrase: Path | None = None) -> int:
    """A command of Django's beside whatever runs, on the same database. passphrase: a file with one. Raises Problem."""
    set_up(web=False)
    try:
        secret = passphrase.read_text(encoding="utf-8").strip() if passphrase else ""
    except OSError as error:
        raise Problem(f"the passphrase cannot be read from {passphrase} ({error.strerror})") from error
    if passphrase and not secret:
        raise Problem(f"{passphrase} is empty; it is to hold a passphrase")
    with _database() as settings:
        return subprocess.run(manage(*arguments), cwd=ROOT, env={**settings, "AFTERSHOWER_BACKUP_PASSPHRASE": secret}).returncode


@contextmanager
def _database() -> Iterator[dict[str, str]]:
    """The environment of a process on the database of this folder (started if it is not up), or on the one that PGHOST names."""
    if os.environ.get("PGHOST"):
        yield environment(DJANGO_SETTINGS_MODULE="server.settings")
        return
    cluster = Cluster()
    started = cluster.start()
    try:
        yield environment(**cluster.environment, DJANGO_SETTINGS_MODULE="server.settings")
    finally:
        if started:
            cluster.stop()

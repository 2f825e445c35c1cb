"""What stand-ins that answer by HTTP share: they are on loopback, in a thread of whoever starts them, and say nothing of what they are asked.

Those that are interfaces of JSON can be told to behave badly (`Moods`).
"""

from __future__ import annotations

import argparse
import json
import re
import secrets
import signal
import threading
import time
from collections import deque
from collections.abc import Callable, Iterable, Sequence
from contextlib import suppress
from html import escape
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any, TypeVar
from urllib.parse import parse_qs, unquote, urlsplit

World = TypeVar("World", bound="Interface")


class Quiet(BaseHTTPRequestHandler):
    """A handler without a log."""

    def log_message(self, *args: Any) -> None:
        """Nothing."""


def start(handler: type[Quiet], port: int, **its: Any) -> ThreadingHTTPServer:
    """Serve on loopback until it is shut down. its: what handlers of this server have of their own, as attributes; port 0: any that is free."""
    server = ThreadingHTTPServer(("127.0.0.1", port), type("Answering", (handler,), its))
    threading.Thread(target=server.serve_forever, daemon=True).start()
    return server


class Moods:
    """How an interface behaves at its next requests, one mood each: "slow" (answers late), "refuse 503" (a status, and nothing is done), "half" (does it, and
    its answer breaks off), "huge" (answers with ten megabytes), "mind" (does it, and thinks better of it at once), "repeat" (tells of it twice)."""

    def __init__(self, late: float = 0.05) -> None:
        self.late, self._coming, self._lock = late, deque[str](), threading.Lock()

    def come(self, moods: Iterable[str]) -> None:
        """These, one after the other; "" is a good one."""
        with self._lock:
            self._coming.extend(moods)

    def forget(self) -> None:
        """Good ones again."""
        with self._lock:
            self._coming.clear()

    def next(self) -> str:
        """The mood of a request."""
        with self._lock:
            return self._coming.popleft() if self._coming else ""


class Refusal(Exception):
    """An answer that is none: its status and words."""

    def __init__(self, status: int, words: str) -> None:
        super().__init__(words)
        self.status, self.words = status, words


class Asked:
    """A request: what its address matched, what it asks and holds, and its headers in small letters."""

    def __init__(self, names: Sequence[str], query: dict[str, str], body: Any, headers: dict[str, str]) -> None:
        self.names, self.query, self.body, self.headers = names, query, body, headers
        self.mood = ""


Route = tuple[str, str, Callable[[Any, Asked], Any]]


class Interface:
    """A made-up service: state behind one lock, a token, keys that were seen, and moods. `routes`: (method, pattern, what it does)."""

    routes: Sequence[Route] = ()
    title = "A service"

    def __init__(self, token: str) -> None:
        self.token, self.moods, self.lock = token, Moods(), threading.RLock()
        self.keys: dict[str, tuple[int, Any]] = {}
        self.asked = 0
        """Requests so far."""

    def page(self) -> str:
        """What a person sees of it, as HTML."""
        return ""

    def pressed(self, form: dict[str, str]) -> None:
        """A person presses something on the page."""

    def answer(self, method: str, path: str, asked: Asked) -> tuple[int, Any]:
        """What a request comes to. A key that was seen gets the answer it had (Idempotency-Key, as services have it: common practice)."""
        if not secrets.compare_digest(asked.headers.get("authorization", ""), f"Bearer {self.token}"):
            raise Refusal(401, "This token is not known (any more).")
        key = asked.headers.get("idempotency-key", "")
        with self.lock:
            if key and key in self.keys:
                return self.keys[key]
            for its, pattern, do in self.routes:
                if its == method and (found := re.fullmatch(pattern, path)):
                    asked.names = [unquote(one) for one in found.groups()]
                    made = do(self, asked)
                    answered = made if isinstance(made, tuple) else (200, made)
                    if key:
                        self.keys[key] = answered
                    return answered
        raise Refusal(404, "There is nothing here.")


class Interfacing(Quiet):
    """Answers for an `Interface`."""

    protocol_version = "HTTP/1.1"
    world: Interface

    def _handle(self) -> None:
        where = urlsplit(self.path)
        body = self.rfile.read(int(self.headers.get("Content-Length") or 0))
        headers = {name.lower(): value for name, value in self.headers.items()}
        if where.path in ("/", "/press"):
            self._page(body)
            return
        self.world.asked += 1
        mood = self.world.moods.next()
        if mood == "slow":
            time.sleep(self.world.moods.late)
        if mood.startswith("refuse"):
            self._send(int(mood.split()[1]), {"detail": "Not now."})
            return
        query = {name: values[0] for name, values in parse_qs(where.query).items()}
        try:
            said = json.loads(body) if body else None
            asked = Asked((), query, said, headers)
            asked.mood = mood
            status, answer = self.world.answer(self.command, where.path, asked)
        except Refusal as refusal:
            status, answer = refusal.status, {"detail": refusal.words}
        except (KeyError, ValueError, TypeError) as error:
            status, answer = 422, {"detail": f"That cannot be read: {error}"}
        self._send(status, {"filling": "x" * 10_000_000} if mood == "huge" else answer, half=mood == "half")

    do_GET = do_POST = do_PATCH = do_PUT = do_DELETE = _handle  # noqa: N815 (the library's names)

    def _page(self, body: bytes) -> None:
        if self.command == "POST":
            with self.world.lock:
                self.world.pressed({name: values[0] for name, values in parse_qs(body.decode()).items()})
            self.send_response(303)
            self.send_header("Location", "/")
            self.send_header("Content-Length", "0")
            self.end_headers()
            return
        with self.world.lock:
            shown = page_of(self.world.title, self.world.page())
        self.send_response(200)
        self.send_header("Content-Type", "text/html; charset=utf-8")
        self.send_header("Content-Length", str(len(shown)))
        self.end_headers()
        self.wfile.write(shown)

    def _send(self, status: int, answer: Any, half: bool = False) -> None:
        data = b"" if status == 204 else json.dumps(answer).encode()
        self.send_response(status)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(data)))
        if isinstance(answer, dict) and "version" in answer:
            self.send_header("ETag", f'"{answer["version"]}"')
        if status in (429, 503):
            self.send_header("Retry-After", "0")
        self.end_headers()
        if half:
            data, self.close_connection = data[: len(data) // 2], True
        with suppress(OSError):  # whoever asked has had enough
            self.wfile.write(data)


def page_of(title: str, inside: str) -> bytes:
    """A plain page."""
    return (
        f"<!doctype html><html lang=en><meta charset=utf-8><title>{escape(title)}</title><style>body{{font:16px/1.5 serif;max-width:52rem;margin:2rem auto;padding:0 1rem}}"
        "table{border-collapse:collapse;width:100%}td,th{text-align:left;padding:.4rem;border-bottom:1px solid #bbb;vertical-align:top}button,input,select{font:inherit}"
        f"form{{display:inline}}blockquote{{margin:.2rem 0;color:#555}}</style><h1>{escape(title)}</h1>{inside}"
    ).encode()


def button(words: str, **fields: object) -> str:
    """A press on the page."""
    hidden = "".join(f'<input type=hidden name="{escape(name)}" value="{escape(str(value))}">' for name, value in fields.items())
    return f"<form method=post action=/press>{hidden}<button>{escape(words)}</button></form>"


def serve(world: World, port: int = 0) -> tuple[ThreadingHTTPServer, World]:
    """Start an interface on loopback."""
    return start(Interfacing, port, world=world), world


def run(made: Callable[[str], Interface], doc: str | None, port: int) -> None:
    """For `python -m standins.…`: serve one until told to stop."""
    parser = argparse.ArgumentParser(description=doc)
    parser.add_argument("--port", type=int, default=port)
    parser.add_argument("--token", required=True)
    given = parser.parse_args()
    serve(made(given.token), given.port)
    signal.sigwait({signal.SIGTERM, signal.SIGINT})

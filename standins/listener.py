"""A program that listens for messages (Standard Webhooks 1.0.0), for one machine: it checks their signatures, and keeps each once."""

from __future__ import annotations

import json
import secrets
from contextlib import suppress
from http.server import ThreadingHTTPServer
from typing import Any

from standins.local import Moods, Quiet, start
from standins.message import signature


class Listener:
    """What it has heard: by key, in order. `doubled`: how many messages came again."""

    def __init__(self, secret: str) -> None:
        self.secret, self.moods, self.heard, self.doubled, self.forged = secret, Moods(), dict[str, Any](), 0, 0

    def knows(self, key: str, stamp: str, given: str, body: bytes) -> bool:
        """Is a message signed with the secret?"""
        expected = signature(self.secret, key, stamp, body)
        return any(secrets.compare_digest(one, expected) for one in given.split())


class Handler(Quiet):
    """Takes messages at any address."""

    protocol_version = "HTTP/1.1"
    listener: Listener

    def do_POST(self) -> None:  # noqa: N802 (the library's name)
        """A message."""
        body = self.rfile.read(int(self.headers.get("Content-Length") or 0))
        key, stamp, given = (self.headers.get(f"webhook-{name}", "") for name in ("id", "timestamp", "signature"))
        mood = self.listener.moods.next()
        if mood.startswith("refuse"):
            self._say(int(mood.split()[1]), b'{"detail":"Not now."}')
            return
        if not self.listener.knows(key, stamp, given, body):
            self.listener.forged += 1
            self._say(401, b'{"detail":"This is not signed rightly."}')
            return
        self.listener.doubled += key in self.listener.heard
        self.listener.heard.setdefault(key, json.loads(body))
        if mood == "half":  # it has it, and breaks off before it says so
            self.close_connection = True
            self.wfile.write(b"HTTP/1.1 2")
            return
        self._say(200, b"x" * 10_000_000 if mood == "huge" else b"")

    def _say(self, status: int, data: bytes) -> None:
        self.send_response(status)
        self.send_header("Content-Length", str(len(data)))
        self.end_headers()
        with suppress(OSError):  # whoever asked has had enough
            self.wfile.write(data)


def serve(secret: str, port: int = 0) -> tuple[ThreadingHTTPServer, Listener]:
    """Start one on loopback."""
    listener = Listener(secret)
    return start(Handler, port, listener=listener), listener

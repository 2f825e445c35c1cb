"""A telephone system for one machine: it has recorded a call, and tells of it when somebody presses that.

`python -m standins.dialer --port N --sound FILE --to ADDRESS --secret SECRET`. It signs as Standard Webhooks 1.0.0 has it, and gives the recording
out under an address that nobody guesses.
"""

from __future__ import annotations

import argparse
import secrets
from datetime import UTC, datetime, timedelta
from html import escape
from pathlib import Path

import uvicorn
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import FileResponse, HTMLResponse, PlainTextResponse, Response
from starlette.routing import Route

from standins.message import send

_PAGE = """<!doctype html><html lang="en"><meta charset="utf-8"><title>A telephone system</title>
<body style="font:1rem/1.5 Georgia,serif;max-width:40rem;margin:3rem auto;padding:0 1rem"><h1>A telephone system</h1>
<p>It has recorded a call between {caller} and {called}, each on a channel of their own.</p>
<form method="post" action="/tell"><button style="font:inherit;padding:.4rem 1rem">Tell of it</button></form><p role="status">{said}</p></body></html>"""


class Dialer:
    """One recorded call. to: where it is told of."""

    def __init__(self, port: int, sound: Path, to: str, secret: str, caller: str, called: str):
        self._sound, self._to, self._secret, self._people = sound, to, secret, (caller, called)
        self._way = f"/recordings/{secrets.token_urlsafe(16)}/call{sound.suffix}"
        self._recording = f"http://127.0.0.1:{port}{self._way}"

    def application(self) -> Starlette:
        """To be served."""
        routes = [Route("/", self._page), Route("/tell", self._tell_of_it, methods=["POST"]), Route("/recordings/{key}/{file}", self._give)]
        return Starlette(routes=routes)

    def _shown(self, said: str) -> Response:
        caller, called = map(escape, self._people)
        return HTMLResponse(_PAGE.format(caller=caller, called=called, said=escape(said)))

    def _page(self, request: Request) -> Response:
        return self._shown("")

    def _give(self, request: Request) -> Response:
        return FileResponse(self._sound) if request.url.path == self._way else PlainTextResponse("There is no such recording.", 404)

    def _tell_of_it(self, request: Request) -> Response:
        return self._shown(self.tell())

    def tell(self) -> str:
        """Send the message; what was answered."""
        caller, called = self._people
        begun = datetime.now(UTC) - timedelta(minutes=5)
        call = {"call": secrets.token_hex(8), "begun_at": begun.isoformat(), "caller": {"name": caller}, "called": {"name": called}}
        status, said = send(self._to, self._secret, {**call, "recording": self._recording})
        if 200 <= status < 300:
            return f"Told; the answer was {status}."
        return f"It was not taken: {status} {said}" if status else f"Nobody answers at {self._to}: {said}"


def main() -> None:
    """Serve until told to stop."""
    parser = argparse.ArgumentParser(prog="python -m standins.dialer")
    parser.add_argument("--port", type=int, required=True)
    parser.add_argument("--sound", type=Path, required=True)
    parser.add_argument("--to", required=True)
    parser.add_argument("--secret", required=True)
    parser.add_argument("--caller", default="Pavel Drozd")
    parser.add_argument("--called", default="Anselm Odukoya")
    asked = parser.parse_args()
    dialer = Dialer(asked.port, asked.sound, asked.to, asked.secret, asked.caller, asked.called)
    uvicorn.run(dialer.application(), host="127.0.0.1", port=asked.port, log_level="warning", timeout_graceful_shutdown=1)


if __name__ == "__main__":
    main()

"""A folder on a server for one machine, over WebDAV (WsgiDAV): where a conference would put what it records.

`python -m standins.folder --port N --folder DIR --name NAME --password PASSWORD`
"""

from __future__ import annotations

import argparse
import errno
import threading
import time
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

from cheroot import wsgi
from wsgidav.wsgidav_app import WsgiDAVApp

from standins.local import Moods


def served(port: int, folder: Path, accounts: dict[str, str], moods: Moods | None = None) -> wsgi.Server:
    """The server, on loopback, not running yet. accounts: name → password. moods: how it behaves, where it is told to."""
    folder.mkdir(parents=True, exist_ok=True)
    application = WsgiDAVApp(
        {
            "provider_mapping": {"/": str(folder)},
            "simple_dc": {"user_mapping": {"*": {name: {"password": password} for name, password in accounts.items()}}},
            "http_authenticator": {"accept_basic": True, "accept_digest": False, "default_to_digest": False},
            "verbose": 1,
            "logging": {"enable": False},
        }
    )
    return wsgi.Server(("127.0.0.1", port), _moody(application, moods) if moods else application)


def _moody(application: Any, moods: Moods) -> Any:
    def answer(environ: dict[str, Any], start_response: Any) -> Iterable[bytes]:
        mood = moods.next()
        if mood == "slow":
            time.sleep(moods.late)
        if mood.startswith("refuse"):
            environ["wsgi.input"].read()
            start_response(f"{mood.split()[1]} Not now", [("Content-Length", "0"), ("Retry-After", "0")])
            return [b""]
        if mood not in ("half", "huge"):
            return application(environ, start_response)
        said: list[Any] = []
        body = b"".join(application(environ, lambda status, headers, *_: said.extend((status, headers)) or (lambda data: None)))
        more = 10_000_000 if mood == "huge" else 0
        headers = [one for one in said[1] if one[0].lower() != "content-length"]
        start_response(said[0], [*headers, ("Content-Length", str(len(body) + (more or 20)))])
        return [body, b"x" * more] if more else _cut_off(body)

    return answer


def _cut_off(body: bytes) -> Iterator[bytes]:
    """And the line goes dead: else whoever waits for the rest would wait until the server has had enough of it."""
    yield body
    raise ConnectionResetError(errno.ECONNRESET, "as it is meant")


def start(port: int, folder: Path, accounts: dict[str, str], moods: Moods | None = None) -> wsgi.Server:
    """The server, answering on a thread of its own; `stop()` ends it."""
    server = served(port, folder, accounts, moods)
    server.prepare()
    threading.Thread(target=server.serve, daemon=True).start()
    return server


def main() -> None:
    """Serve until told to stop."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--port", type=int, required=True)
    parser.add_argument("--folder", type=Path, required=True)
    parser.add_argument("--name", required=True)
    parser.add_argument("--password", required=True)
    asked = parser.parse_args()
    served(asked.port, asked.folder, {asked.name: asked.password}).safe_start()


if __name__ == "__main__":
    main()

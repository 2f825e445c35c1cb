"""A folder on a server for one machine, over WebDAV (WsgiDAV): where a conference would put what it records.

`python -m standins.folder --port N --folder DIR --name NAME --password PASSWORD`
"""

from __future__ import annotations

import argparse
import threading
from pathlib import Path

from cheroot import wsgi
from wsgidav.wsgidav_app import WsgiDAVApp


def served(port: int, folder: Path, accounts: dict[str, str]) -> wsgi.Server:
    """The server, on loopback, not running yet. accounts: name → password."""
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
    return wsgi.Server(("127.0.0.1", port), application)


def start(port: int, folder: Path, accounts: dict[str, str]) -> wsgi.Server:
    """The server, answering on a thread of its own; `stop()` ends it."""
    server = served(port, folder, accounts)
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

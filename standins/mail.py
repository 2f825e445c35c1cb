"""A mail server for one machine: takes mail by SMTP, keeps it in a folder, shows it on a page."""

from __future__ import annotations

import argparse
import email.policy
import html
import signal
import time
from email.message import EmailMessage
from email.parser import BytesParser
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

from aiosmtpd.controller import Controller


class Keep:
    """aiosmtpd handler: every message becomes a file."""

    def __init__(self, folder: Path):
        """folder: where messages are kept, made if it is not there."""
        self._folder = folder
        folder.mkdir(parents=True, exist_ok=True)

    async def handle_DATA(self, server, session, envelope) -> str:  # noqa: N802 (aiosmtpd's name)
        """Take one message."""
        name = self._folder / f"{time.time_ns()}.eml"
        name.with_suffix(".part").write_bytes(envelope.content)
        name.with_suffix(".part").rename(name)
        return "250 kept"


def messages(folder: Path) -> list[EmailMessage]:
    """The messages kept, newest first."""
    parser = BytesParser(policy=email.policy.default)
    return [parser.parsebytes(path.read_bytes()) for path in sorted(folder.glob("*.eml"), reverse=True)]


def page(folder: Path) -> str:
    """All messages as one page."""
    rows = []
    for message in messages(folder):
        body = message.get_body(("plain",))
        text = html.escape(body.get_content() if body else "")
        linked = " ".join(
            f'<a href="{word}">{word}</a>' if word.startswith("http") else word for word in text.replace("\n", " \n ").split(" ")
        )
        rows.append(
            f"<article><h2>{html.escape(str(message['subject']))}</h2><p>To {html.escape(str(message['to']))}, {html.escape(str(message['date']))}</p><pre>{linked}</pre></article>"
        )
    return (
        "<!doctype html><html lang=en><meta charset=utf-8><title>Mail</title><style>body{font:16px/1.5 serif;max-width:44rem;margin:2rem auto;padding:0 1rem}"
        "pre{white-space:pre-wrap}</style><h1>Mail that Aftershower sent</h1>" + ("".join(rows) or "<p>No mail yet.</p>")
    )


def main() -> None:
    """Serve until told to stop."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--smtp", type=int, required=True)
    parser.add_argument("--page", type=int, required=True)
    parser.add_argument("--folder", type=Path, required=True)
    arguments = parser.parse_args()

    class Page(BaseHTTPRequestHandler):
        def do_GET(self):  # noqa: N802 (http.server's name)
            body = page(arguments.folder).encode()
            self.send_response(200)
            self.send_header("Content-Type", "text/html; charset=utf-8")
            self.send_header("Content-Length", str(len(body)))
            self.end_headers()
            self.wfile.write(body)

        def log_message(self, *args):
            """Say nothing."""

    controller = Controller(Keep(arguments.folder), hostname="127.0.0.1", port=arguments.smtp)
    controller.start()
    server = ThreadingHTTPServer(("127.0.0.1", arguments.page), Page)
    signal.signal(signal.SIGTERM, signal.default_int_handler)
    try:
        server.serve_forever()
    except KeyboardInterrupt:
        pass
    finally:
        controller.stop()


if __name__ == "__main__":
    main()

"""A mail server for one machine: takes mail by SMTP, keeps it in a folder, shows it on a page, where one can write to the clerk as well."""

from __future__ import annotations

import argparse
import email.policy
import html
import signal
import smtplib
import time
from collections.abc import Mapping
from email.message import EmailMessage
from email.parser import BytesParser
from email.utils import formatdate, make_msgid
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from urllib.parse import parse_qsl

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


def written(asked: Mapping[str, str]) -> EmailMessage:
    """The message that somebody wrote on the page."""
    message = EmailMessage()
    message["From"], message["To"], message["Subject"] = asked.get("from", ""), asked.get("to", ""), asked.get("subject", "")
    message["Message-ID"], message["Date"] = make_msgid(domain="standin.example"), formatdate()
    text = asked.get("text", "")
    message.set_content(text)
    if "BEGIN:VCALENDAR" in text:
        message.add_alternative(text[text.index("BEGIN:VCALENDAR") :], "calendar")
    return message


_WRITE = (
    "<details><summary>Write to the clerk</summary><form method=post><label>From <input name=from type=email required></label>"
    "<label>To <input name=to type=email required></label><label>Subject <input name=subject></label>"
    "<label>Text: a link, or an invitation from BEGIN:VCALENDAR on <textarea name=text rows=6 required></textarea></label><button>Send</button></form></details>"
)


def page(folder: Path, said: str = "") -> str:
    """All messages as one page. said: what came of what was written."""
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
        "pre{white-space:pre-wrap}label{display:block;margin:.6rem 0}input,textarea{display:block;width:100%;font:inherit}</style><h1>Mail that Aftershower sent</h1>"
        f"{_WRITE}<p role=status>{html.escape(said)}</p>" + ("".join(rows) or "<p>No mail yet.</p>")
    )


def main() -> None:
    """Serve until told to stop."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--smtp", type=int, required=True)
    parser.add_argument("--page", type=int, required=True)
    parser.add_argument("--folder", type=Path, required=True)
    parser.add_argument("--letterbox", type=int, help="where what is written on the page is handed in, by SMTP")
    arguments = parser.parse_args()

    class Page(BaseHTTPRequestHandler):
        def do_GET(self, said: str = ""):  # noqa: N802 (http.server's name)
            body = page(arguments.folder, said).encode()
            self.send_response(200)
            self.send_header("Content-Type", "text/html; charset=utf-8")
            self.send_header("Content-Length", str(len(body)))
            self.end_headers()
            self.wfile.write(body)

        def do_POST(self):  # noqa: N802 (http.server's name)
            asked = dict(parse_qsl(self.rfile.read(int(self.headers.get("Content-Length", 0))).decode()))
            try:
                with smtplib.SMTP("127.0.0.1", arguments.letterbox or 0, timeout=20) as handing:
                    handing.send_message(written(asked))
                self.do_GET("It was taken.")
            except (OSError, smtplib.SMTPException) as error:
                self.do_GET(f"It was not taken: {error}")

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

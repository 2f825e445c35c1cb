"""What stand-ins that answer by HTTP share: they are on loopback, in a thread of whoever starts them, and say nothing of what they are asked."""

from __future__ import annotations

import threading
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any


class Quiet(BaseHTTPRequestHandler):
    """A handler without a log."""

    def log_message(self, *args: Any) -> None:
        """Nothing."""


def start(handler: type[Quiet], port: int, **its: Any) -> ThreadingHTTPServer:
    """Serve on loopback until it is shut down. its: what handlers of this server have of their own, as attributes; port 0: any that is free."""
    server = ThreadingHTTPServer(("127.0.0.1", port), type("Answering", (handler,), its))
    threading.Thread(target=server.serve_forever, daemon=True).start()
    return server

"""How much a request may bring, by its address: looked at before anything of it is stored, whoever sends it."""

from __future__ import annotations

import re
from collections.abc import Awaitable, Callable, MutableMapping
from http import HTTPStatus
from typing import Any

from server.problems import problem

Scope = MutableMapping[str, Any]
Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
Application = Callable[[Scope, Receive, Send], Awaitable[None]]

_MOST = (
    # A piece of a file; the web application sends 2 MB at a time: what is larger is spooled to disk before it is read (FILE_UPLOAD_MAX_MEMORY_SIZE), in the way of everybody else.
    ("PATCH", re.compile(r"^/api/uploads/"), 64 * 1024 * 1024),
    # A second of two tracks has 96 kB.
    ("PUT", re.compile(r"^/api/captures/[^/]+/stretches/[^/]+/chunks/"), 256 * 1024),
    ("PUT", re.compile(r"^/api/captures/[^/]+/stretches/[^/]+/pictures/"), 4 * 1024 * 1024),
    # A calendar as text; a feed may have as much.
    ("POST", re.compile(r"^/api/calendars/file$"), 10 * 1024 * 1024),
)
_OTHERS = 1024 * 1024
"""Bytes of any other body: what people write."""


class BodyLimits:
    """ASGI middleware: a body that is too large is refused, by what it says of itself at once and else as soon as it shows."""

    def __init__(self, application: Application):
        self._application = application

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Serve one request."""
        if scope["type"] != "http":
            await self._application(scope, receive, send)
            return
        most = next((most for method, path, most in _MOST if scope["method"] == method and path.match(scope["path"])), _OTHERS)
        stated = next((value for name, value in scope["headers"] if name == b"content-length"), b"0")
        if not stated.isdigit() or len(stated) > 15 or int(stated) > most:
            await _refuse(send, most)
            return
        taken, over = 0, False

        async def bounded() -> Message:
            nonlocal taken, over
            message = await receive()
            taken += len(message.get("body", b""))
            if taken > most:
                over = True
                await _refuse(send, most)
                return {"type": "http.disconnect"}
            return message

        async def unless_refused(message: Message) -> None:
            if not over:
                await send(message)

        await self._application(scope, bounded, unless_refused)


async def _refuse(send: Send, most: int) -> None:
    answer = problem(HTTPStatus.REQUEST_ENTITY_TOO_LARGE, f"That is more than can be sent here at once: {most // 1024} kB at most.")
    headers = [(b"content-type", b"application/problem+json"), (b"content-length", str(len(answer.content)).encode()), (b"connection", b"close")]
    await send({"type": "http.response.start", "status": answer.status_code, "headers": headers})
    await send({"type": "http.response.body", "body": answer.content})

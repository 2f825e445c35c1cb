"""The conference as a web application: its pages, what happens in a room, and how media are agreed on."""

from __future__ import annotations

import asyncio
import contextlib
import json
import secrets
from collections.abc import Callable
from pathlib import Path

from aiortc import RTCConfiguration, RTCPeerConnection, RTCSessionDescription
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import FileResponse, JSONResponse, PlainTextResponse, Response
from starlette.routing import Route, WebSocketRoute
from starlette.websockets import WebSocket, WebSocketDisconnect

from standins.conference.media import Source
from standins.conference.rooms import Laid, Room, Somebody

_PAGE = Path(__file__).parent / "page"
LARGEST = 25 * 1024 * 1024
"""Bytes of a file in the chat."""
WRONG_PASSCODE, NO_ROOM, FULL = 4401, 4404, 4429
"""With which a WebSocket is closed that leads nowhere (RFC 6455, section 7.4.2: 4000 to 4999 are for private use)."""


class Conference:
    """Rooms by name, and the connections that carry media."""

    def __init__(self, rooms: list[Room], started: Callable[[Conference], None] | None = None) -> None:
        """started: called in the running loop, once."""
        self.rooms = {room.name: room for room in rooms}
        self.connections: dict[str, RTCPeerConnection] = {}
        self._started = started

    def application(self) -> Starlette:
        """To be served."""
        return Starlette(
            routes=[
                Route("/join/{room}", self._page),
                Route("/page/{file}", self._file),
                WebSocketRoute("/rooms/{room}/events", self._events),
                Route("/rooms/{room}/whip", self._whip, methods=["POST"]),
                Route("/rooms/{room}/whip/screen", self._whip, methods=["POST"]),
                Route("/rooms/{room}/whep/{who}", self._whep, methods=["POST"]),
                Route("/rooms/{room}/whep/{who}/screen", self._whep, methods=["POST"]),
                Route("/rooms/{room}/clock", self._clock),
                Route("/rooms/{room}/files", self._lay, methods=["POST"]),
                Route("/rooms/{room}/files/{key}", self._laid),
                Route("/media/{key}", self._end, methods=["DELETE"]),
            ],
            lifespan=self._lifespan,
        )

    @contextlib.asynccontextmanager
    async def _lifespan(self, application: Starlette):  # noqa: ANN202 - what Starlette asks for
        if self._started:
            self._started(self)
        yield
        for connection in list(self.connections.values()):
            await connection.close()

    async def _page(self, request: Request) -> Response:
        known = request.path_params["room"] in self.rooms
        return FileResponse(_PAGE / "room.html") if known else PlainTextResponse("There is no such room.", 404)

    async def _file(self, request: Request) -> Response:
        file = _PAGE / request.path_params["file"]
        return FileResponse(file) if file.parent == _PAGE and file.is_file() else PlainTextResponse("There is no such page.", 404)

    async def _clock(self, request: Request) -> Response:
        """How far those have come who speak from a file, in seconds of it: for whoever tries something out at a certain word."""
        room = self.rooms.get(request.path_params["room"])
        if room is None:
            return PlainTextResponse("There is no such room.", 404)
        return JSONResponse({one.name: one.sound.seconds for one in room.inside if one.sound})

    async def _events(self, socket: WebSocket) -> None:
        await socket.accept()
        room = self.rooms.get(socket.path_params["room"])
        asked = socket.query_params
        if room is None:
            return await socket.close(NO_ROOM)
        if room.passcode and not secrets.compare_digest(asked.get("pass", "").encode(), room.passcode.encode()):
            return await socket.close(WRONG_PASSCODE)
        if len(room.people) >= room.most:
            return await socket.close(FULL)
        waiting: asyncio.Queue[dict] = asyncio.Queue()
        kind = "clerk" if asked.get("kind") == "clerk" else "person"
        one = Somebody(asked.get("name", "")[:80].strip() or "Somebody", kind, waiting.put_nowait)
        sending = asyncio.create_task(_send(socket, waiting))
        room.come(one)
        try:
            while not sending.done():
                receiving = asyncio.create_task(socket.receive_text())
                await asyncio.wait({receiving, sending}, return_when=asyncio.FIRST_COMPLETED)
                if not receiving.done():
                    receiving.cancel()
                    break
                if one.inside:
                    room.do(one, json.loads(receiving.result()))
        except (WebSocketDisconnect, ValueError, RuntimeError):
            pass
        finally:
            room.go(one)
            sending.cancel()

    def _somebody(self, request: Request) -> tuple[Room, Somebody] | None:
        room = self.rooms.get(request.path_params["room"])
        token = request.headers.get("Authorization", "").removeprefix("Bearer ")
        one = room.of_token(token) if room else None
        return (room, one) if room and one else None

    async def _whip(self, request: Request) -> Response:
        """Somebody gives media (RFC 9725)."""
        found = self._somebody(request)
        if found is None:
            return PlainTextResponse("That is nobody who is in this room.", 401)
        room, one = found
        screen = request.url.path.endswith("/screen")
        connection = RTCPeerConnection(RTCConfiguration(iceServers=[]))
        source = Source("video" if screen else "audio")

        @connection.on("track")
        def follow(track) -> None:  # noqa: ANN001
            if track.kind == source.kind:
                following = asyncio.ensure_future(source.follow(track))
                one.closing.append(following.cancel)

        answered = await self._answer(request, connection, one, lambda: room.shows(one, None) if screen else None)
        if answered.status_code == 201:
            (room.shows if screen else room.sounds)(one, source)
        return answered

    async def _whep(self, request: Request) -> Response:
        """Somebody takes another's media (draft-ietf-wish-whep)."""
        found = self._somebody(request)
        if found is None:
            return PlainTextResponse("That is nobody who is in this room.", 401)
        room, one = found
        other = room.people.get(request.path_params["who"])
        source = other and (other.screen if request.url.path.endswith("/screen") else other.sound)
        if not source:
            return PlainTextResponse("They give nothing of the kind.", 404)
        connection = RTCPeerConnection(RTCConfiguration(iceServers=[]))
        taken = source.take()
        connection.addTrack(taken)
        return await self._answer(request, connection, one, taken.stop)

    async def _lay(self, request: Request) -> Response:
        """Somebody puts a file into the chat."""
        found = self._somebody(request)
        if found is None:
            return PlainTextResponse("That is nobody who is in this room.", 401)
        room, one = found
        data = bytearray()
        async for piece in request.stream():
            data += piece
            if len(data) > LARGEST:
                return PlainTextResponse("That file is too large.", 413)
        key = room.lay(one, Laid(request.query_params.get("name", "").strip()[:200] or "file", bytes(data)))
        return Response(status_code=201, headers={"Location": f"/rooms/{room.name}/files/{key}"})

    async def _laid(self, request: Request) -> Response:
        """Somebody takes one."""
        found = self._somebody(request)
        if found is None:
            return PlainTextResponse("That is nobody who is in this room.", 401)
        file = found[0].files.get(request.path_params["key"])
        if file is None:
            return PlainTextResponse("There is no such file (any more).", 404)
        return Response(file.data, media_type="application/octet-stream", headers={"Content-Disposition": "attachment"})

    async def _answer(self, request: Request, connection: RTCPeerConnection, one: Somebody, over: Callable[[], object]) -> Response:
        if not request.headers.get("Content-Type", "").startswith("application/sdp"):
            await connection.close()
            return PlainTextResponse("An offer comes as application/sdp.", 415)
        try:
            await connection.setRemoteDescription(RTCSessionDescription((await request.body()).decode(), "offer"))
            await connection.setLocalDescription(await connection.createAnswer())
        except (ValueError, AssertionError) as error:
            await connection.close()
            return PlainTextResponse(f"This offer cannot be understood: {error}", 400)
        key = secrets.token_urlsafe(12)
        self.connections[key] = connection

        async def close() -> None:
            if self.connections.pop(key, None):
                over()
                await connection.close()

        @connection.on("connectionstatechange")
        async def changed() -> None:
            if connection.connectionState in ("failed", "closed"):
                await close()

        loop = asyncio.get_running_loop()
        one.closing.append(lambda: loop.create_task(close()))
        return Response(connection.localDescription.sdp, 201, {"Location": f"/media/{key}"}, "application/sdp")

    async def _end(self, request: Request) -> Response:
        connection = self.connections.get(request.path_params["key"])
        if connection is None:
            return PlainTextResponse("There is no such connection (any more).", 404)
        await connection.close()
        return Response(status_code=200)


async def _send(socket: WebSocket, waiting: asyncio.Queue[dict]) -> None:
    """Send what there is to tell, until somebody is out."""
    while True:
        event = await waiting.get()
        await socket.send_text(json.dumps(event))
        if event["event"] in ("refused", "removed", "ended"):
            await socket.close()
            return

"""A conference over open protocols (`docs/conference.md`): its rooms' events over a WebSocket, everybody's sound and screen by WHEP."""

from __future__ import annotations

import asyncio
import contextlib
import json
import logging
import re
import ssl
import time
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import parse_qs, quote, urlencode, urljoin, urlsplit

import av
import numpy as np
import requests
from aiortc import MediaStreamTrack, RTCConfiguration, RTCIceServer, RTCPeerConnection, RTCSessionDescription
from aiortc.mediastreams import MediaStreamError
from django.conf import settings
from websockets.asyncio.client import ClientConnection, connect
from websockets.exceptions import ConnectionClosed, InvalidHandshake

from core.media.chunks import CAPTURE_RATE
from core.media.stills import Stills
from core.planning.attending import Cause
from core.problems import InputProblem
from server.clerk.conferences.base import Call, Event, Gone, Heard, Here, Knocking, Laid, LetIn, Out, Shown, Written
from server.outward import Outward, checked, trouble_of

logger = logging.getLogger("server.clerk")

_CLOSED = {4401: Cause.WRONG_PASSCODE, 4404: Cause.NO_ROOM, 4429: Cause.FULL}
_OVER = {"refused": Cause.REFUSED, "removed": Cause.REMOVED, "ended": Cause.ENDED}
_AGAIN = 1.0  # seconds until media that could not be had are asked for again
_LOOKS = 1.0  # seconds between two looks at a screen
_AT_ONCE = 0.1  # seconds of sound that are converted at once
_NEXT = 0.005  # seconds by which the next packet's time stamp may be off the end of the one before it
_PATIENCE = 10.0


@dataclass
class _Run:
    """Packets of somebody's sound that follow each other and wait to be converted. Seconds by the track's clock, but for `arrived`."""

    resampler: av.AudioResampler
    frames: list[np.ndarray] = field(default_factory=list)
    begins: float = 0.0
    ends: float = 0.0
    arrived: float = 0.0
    rate: int = 48_000


def ice_servers(named: Sequence[str]) -> list[RTCIceServer]:
    """Servers that help through routers (RFC 7064, RFC 7065), as an operator names them: ADDRESS, or ADDRESS|NAME|SECRET. Raises ValueError."""
    servers = []
    for one in named:
        address, *known = one.split("|")
        if not re.match(r"(stun|turn)s?:[^/]", address) or len(known) not in (0, 2) or address.startswith("turn") and not known:
            raise ValueError(f"{address!r}: a server is named as stun:HOST:PORT, or as turn:HOST:PORT|NAME|SECRET")
        servers.append(RTCIceServer(address, *known))
    return servers


class WhepConference:
    """One call. Whose media are taken follows from what the room says of everybody."""

    def __init__(self, call: Call) -> None:
        self.events: asyncio.Queue[Event] = asyncio.Queue()
        parts = urlsplit(call.address)
        before, _, room = parts.path.partition("/join/")
        self._rooms = f"{parts.scheme}://{parts.netloc}{before}/rooms/{quote(room.strip('/'))}"
        self._host, self._port = parts.hostname or "", parts.port or (443 if parts.scheme == "https" else 80)
        passcode = call.passcode or parse_qs(parts.query).get("pass", [""])[0]
        self._asked = urlencode({"name": call.name, "pass": passcode, "kind": "clerk"})
        self._socket: ClientConnection | None = None
        self._token, self._own = "", ""
        self._out = False
        self._web = Outward()
        self._running: set[asyncio.Task] = set()
        self._taken: dict[tuple[str, str], asyncio.Task] = {}
        self._heard: dict[str, _Run] = {}

    async def enter(self) -> None:
        """Knock."""
        self._run(self._follow())
        self._run(self._convert())

    async def say(self, text: str) -> None:
        """Write into the chat."""
        if self._socket:
            with contextlib.suppress(ConnectionClosed):
                await self._socket.send(json.dumps({"do": "say", "text": text}))

    async def fetch(self, address: str) -> bytes:
        """A file of the chat."""
        try:
            answer = await asyncio.to_thread(self._web.get, urljoin(self._rooms, address), headers={"Authorization": f"Bearer {self._token}"}, allow_redirects=False)
        except requests.RequestException as error:
            raise InputProblem(trouble_of(error, self._host)) from error
        if answer.status_code != 200:
            raise InputProblem(f"{self._host} does not give it: it answers {answer.status_code}.")
        return answer.content

    async def leave(self) -> None:
        """Go."""
        self._out = True
        for task in [*self._running]:
            task.cancel()
        await asyncio.gather(*self._running, return_exceptions=True)
        if self._socket:
            await self._socket.close()

    def _run(self, work: Any) -> asyncio.Task:
        task = asyncio.create_task(work)
        self._running.add(task)
        task.add_done_callback(self._running.discard)
        return task

    def _tell(self, event: Event) -> None:
        if not self._out:
            self.events.put_nowait(event)
            self._out = isinstance(event, Out)

    async def _follow(self) -> None:
        """All that happens in the room."""
        inside = False
        try:
            address = await asyncio.to_thread(checked, self._host, self._port)
            secure = self._rooms.startswith("https")
            self._socket = await connect(
                f"{self._rooms.replace('http', 'ws', 1)}/events?{self._asked}",
                host=address,
                port=self._port,
                ssl=ssl.create_default_context() if secure else None,
                server_hostname=self._host if secure else None,
                proxy=None,
                open_timeout=_PATIENCE,
                max_size=2**20,
            )
            async for message in self._socket:
                event = json.loads(message)
                inside = inside or event.get("event") == "admitted"
                self._happened(event)
        except InputProblem:
            self._tell(Out(Cause.NO_ROOM))
        except (OSError, TimeoutError, InvalidHandshake, ConnectionClosed, ValueError, KeyError) as error:
            logger.info("conference %s: %s", self._host, type(error).__name__)
        code = self._socket.close_code if self._socket else None
        self._tell(Out(_CLOSED.get(code or 0, Cause.LOST if inside else Cause.OUT_OF_REACH)))

    def _happened(self, event: dict) -> None:
        who = event.get("who", {})
        match event["event"]:
            case "lobby":
                self._tell(Knocking())
            case "admitted":
                self._own, self._token = event["you"], event["token"]
                self._tell(LetIn(str(event.get("title", ""))[:200]))
                for one in event["people"]:
                    self._see(one)
            case "joined" | "changed" if who["id"] != self._own:
                self._see(who)
            case "left":
                for kind in ("", "/screen"):
                    self._drop(who["id"], kind)
                self._tell(Gone(who["id"]))
            case "said" if who["id"] != self._own:
                self._tell(Written(who["id"], str(event["text"])[:4000], time.monotonic()))
            case "laid" if who["id"] != self._own:
                self._tell(Laid(who["id"], str(event["name"])[:200], str(event["href"]), time.monotonic()))
            case "refused" | "removed" | "ended" as over:
                self._tell(Out(_OVER[over]))

    def _see(self, one: dict) -> None:
        key = str(one["id"])
        self._tell(Here(key, str(one["name"])[:120], one["kind"] != "person"))
        for kind, there in (("", one["sound"]), ("/screen", one["screen"])):
            if there and (key, kind) not in self._taken:
                self._taken[key, kind] = self._run(self._take(key, kind))
            elif not there:
                self._drop(key, kind)

    def _drop(self, key: str, kind: str) -> None:
        if task := self._taken.pop((key, kind), None):
            task.cancel()

    async def _take(self, key: str, kind: str) -> None:
        """Somebody's sound, or their screen, for as long as they give it."""
        while True:
            connection = RTCPeerConnection(RTCConfiguration(iceServers=ice_servers(settings.ICE)))
            location = ""
            try:
                connection.addTransceiver("video" if kind else "audio", direction="recvonly")
                arriving: asyncio.Future[MediaStreamTrack] = asyncio.get_running_loop().create_future()
                connection.on("track", lambda track, arriving=arriving: arriving.done() or arriving.set_result(track))
                await connection.setLocalDescription(await connection.createOffer())
                answer = await asyncio.to_thread(self._ask, "POST", f"{self._rooms}/whep/{key}{kind}", connection.localDescription.sdp)
                if answer.status_code == 404:
                    return
                answer.raise_for_status()
                location = urljoin(answer.url, answer.headers.get("Location", ""))
                await connection.setRemoteDescription(RTCSessionDescription(answer.text, "answer"))
                await (self._see_screen if kind else self._hear)(key, await asyncio.wait_for(arriving, _PATIENCE))
            except (requests.RequestException, MediaStreamError, TimeoutError, ValueError, InputProblem) as error:
                logger.info("media of %s: %s", self._host, type(error).__name__)
            finally:
                await connection.close()
                if location:
                    with contextlib.suppress(requests.RequestException, InputProblem):
                        await asyncio.to_thread(self._ask, "DELETE", location)
            await asyncio.sleep(_AGAIN)

    def _ask(self, method: str, address: str, offer: str | None = None) -> requests.Response:
        headers = {"Authorization": f"Bearer {self._token}", "Content-Type": "application/sdp"}
        return self._web.request(method, address, data=offer.encode() if offer else None, headers=headers, allow_redirects=False)

    async def _hear(self, key: str, track: MediaStreamTrack) -> None:
        heard = self._heard[key] = _Run(av.AudioResampler(format="s16", layout="mono", rate=CAPTURE_RATE))
        while True:
            frame = await track.recv()
            assert isinstance(frame, av.AudioFrame)
            stamp = float((frame.pts or 0) * (frame.time_base or 0))
            if heard.frames and abs(stamp - heard.ends) > _NEXT:
                self._hand_on(key, heard)
            if not heard.frames:
                heard.begins, heard.rate = stamp, frame.sample_rate
            heard.ends, heard.arrived = stamp + frame.samples / frame.sample_rate, time.monotonic()
            heard.frames.append(frame.to_ndarray())

    async def _convert(self) -> None:
        """What has come, some packets at a time: to convert each by itself takes three times as long."""
        while True:
            await asyncio.sleep(_AT_ONCE)
            for key, heard in self._heard.items():
                if heard.frames:
                    self._hand_on(key, heard)

    def _hand_on(self, key: str, heard: _Run) -> None:
        whole = av.AudioFrame.from_ndarray(np.concatenate(heard.frames, axis=1), format="s16", layout="stereo")
        whole.sample_rate = heard.rate
        heard.frames = []
        blocks = [block.to_ndarray().reshape(-1) for block in heard.resampler.resample(whole)]
        if blocks:
            self._tell(Heard(key, heard.begins, heard.arrived, np.concatenate(blocks)))

    async def _see_screen(self, key: str, track: MediaStreamTrack) -> None:
        stills, looked = Stills(), 0.0
        while True:
            frame = await track.recv()
            if time.monotonic() - looked < _LOOKS:
                continue
            looked = time.monotonic()
            assert isinstance(frame, av.VideoFrame)
            if image := await asyncio.to_thread(stills.see, frame.to_image()):
                self._tell(Shown(key, image, looked))

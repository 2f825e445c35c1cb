"""What changes, handed on to whoever is looking: PostgreSQL notifications in (`server.notify`), server-sent events out.

An event says which part of a meeting is new, never what it holds: who looks asks for it, through the one visibility rule.
Any web process serves any listener, since each hears all notifications.
"""

from __future__ import annotations

import asyncio
import hashlib
import json
import logging
import math
from collections import defaultdict, deque
from collections.abc import AsyncIterator, Collection
from contextlib import suppress
from dataclasses import dataclass
from uuid import UUID

import psycopg
from asgiref.sync import sync_to_async
from django.conf import settings
from django.contrib.auth.signals import user_logged_out
from django.contrib.sessions.models import Session
from django.db import close_old_connections, connection
from django.dispatch import receiver
from django.http import HttpRequest, HttpResponseBase, StreamingHttpResponse
from django.utils import timezone

from server.accounts.current import membership_of
from server.accounts.models import Workspace
from server.meetings.models import Meeting
from server.notify import CHANNEL, notify_left
from server.pipeline.work import kept
from server.problems import Refused, problem
from server.sharing.visibility import seen_by, visible_meetings

logger = logging.getLogger("server.events")

_HEARTBEAT = 15.0  # seconds; proxies drop connections that are silent for a minute
_LATELY = 10.0  # seconds; a page asks for what it shows and listens within that
_LOOK_AGAIN = 5.0  # seconds after which the visibility rule is asked again before anything is handed on
_LEFT = "left"


class _Hub:
    """One listening connection a process; hands what it hears to the streams that are open.

    It listens on while no stream is open: one that opens is told what was new in the last moments, since whoever looks has asked
    for the meeting a little before they began to listen.
    """

    def __init__(self) -> None:
        self._streams: dict[str, dict[asyncio.Queue, Listener | None]] = defaultdict(dict)
        self._sessions: dict[str, set[asyncio.Queue]] = defaultdict(set)
        self._listening: asyncio.Task | None = None
        self._asked: dict[str, tuple[float, asyncio.Task[set[Listener]]]] = {}
        self._lately: deque[tuple[float, str | None, list[str]]] = deque(maxlen=1000)

    def join(self, meeting_id: str, session: str, listener: Listener | None = None) -> asyncio.Queue:
        queue: asyncio.Queue = asyncio.Queue()
        self._streams[meeting_id][queue] = listener
        self._sessions[session].add(queue)
        loop = asyncio.get_running_loop()
        if self._listening is None or self._listening.done() or self._listening.get_loop() is not loop:
            self._listening = loop.create_task(self._listen())
        for told, meeting, parts in self._lately:
            if meeting in (None, meeting_id) and loop.time() - told < _LATELY:
                queue.put_nowait(parts)
        return queue

    def leave(self, meeting_id: str, session: str, queue: asyncio.Queue) -> None:
        self._streams[meeting_id].pop(queue, None)
        self._sessions[session].discard(queue)
        if not self._streams[meeting_id]:
            del self._streams[meeting_id]
            self._asked.pop(meeting_id, None)
        if not self._sessions[session]:
            del self._sessions[session]

    async def lets(self, meeting_id: str, listener: Listener) -> bool:
        """May somebody who has listened for a while listen on? The answer for all who do is asked for once in a while."""
        loop = asyncio.get_running_loop()
        at, asking = self._asked.get(meeting_id, (-math.inf, None))
        if asking is None or loop.time() - at > _LOOK_AGAIN:
            listeners = [one for one in self._streams[meeting_id].values() if one]
            asking = loop.create_task(kept(still_let_in, UUID(meeting_id), listeners))
            self._asked[meeting_id] = loop.time(), asking
        # One who goes away meanwhile does not take the question with them.
        return listener in await asyncio.shield(asking)

    async def _listen(self) -> None:
        while True:
            try:
                async with await psycopg.AsyncConnection.connect(**_address(), autocommit=True) as heard:
                    await heard.execute(f"listen {CHANNEL}")
                    # What was told while nobody listened is not known, so everything counts as new.
                    self._hand_out(None, ["everything"])
                    async for note in heard.notifies():
                        self._heard(json.loads(note.payload))
            except (psycopg.OperationalError, OSError) as error:
                logger.warning("not listening for events (%s); trying again", error)
                await asyncio.sleep(1)

    def _heard(self, said: dict) -> None:
        if _LEFT not in said:
            self._hand_out(said["meeting"], said["parts"])
            return
        for queue in self._sessions.get(said[_LEFT], ()):
            queue.put_nowait([_LEFT])

    def _hand_out(self, meeting_id: str | None, parts: list[str]) -> None:
        self._lately.append((asyncio.get_running_loop().time(), meeting_id, parts))
        for queue in [q for key, queues in self._streams.items() if meeting_id in (None, key) for q in queues]:
            queue.put_nowait(parts)


_hub = _Hub()


def _address() -> dict:
    parameters = connection.get_connection_params()
    found = {key: parameters[key] for key in ("dbname", "user", "password", "host", "port") if parameters.get(key)}
    host, _, port = settings.LISTEN_AT.rpartition(":")
    return found | ({"host": host, "port": port} if host else {})


def _session(request: HttpRequest) -> str:
    """What a session is called among web processes: never its key."""
    return hashlib.sha256((request.session.session_key or "").encode()).hexdigest()


@receiver(user_logged_out)
def _close_streams(sender: object, request: HttpRequest, **_: object) -> None:
    notify_left(_session(request))


@dataclass(frozen=True)
class Listener:
    """Who listens. asks: what their workspace asked of how one signs in, when they began."""

    session: str
    membership: int
    asks: tuple[bool, str]


@sync_to_async
def _listener(request: HttpRequest, meeting_id: UUID) -> Listener | None:
    """Somebody who may listen, by the whole of the rule; None for anybody else."""
    try:
        membership = membership_of(request)
        if not visible_meetings(membership).filter(pk=meeting_id).exists():
            return None
        return Listener(request.session.session_key or "", membership.pk, _asks(membership.workspace))
    except Refused:
        return None
    finally:
        close_old_connections()


def _asks(workspace: Workspace) -> tuple[bool, str]:
    return workspace.second_factor, workspace.provider


def still_let_in(meeting_id: UUID, listeners: Collection[Listener]) -> set[Listener]:
    """Those who may listen on: their session lasts, they see the meeting as the rule stands now, and nothing new is asked of how they sign in.

    Asked once for all who follow a meeting; each for themselves, two hundred would wait for each other at every comment.
    """
    meeting = Meeting.objects.filter(pk=meeting_id, removed_at=None, going_at=None).select_related("workspace").first()
    if meeting is None:
        return set()
    readers = meeting.readers.values_list("user", flat=True)
    seers = {one.pk for one in seen_by(meeting.workspace_id, meeting.created_by_id, meeting.visibility, readers, meeting)}
    last = set(Session.objects.filter(session_key__in={one.session for one in listeners}, expire_date__gt=timezone.now()).values_list("session_key", flat=True))
    return {one for one in listeners if one.membership in seers and one.session in last and one.asks == _asks(meeting.workspace)}


async def events(request: HttpRequest, meeting_id: UUID) -> HttpResponseBase:
    """The stream of what is new in a meeting (WHATWG HTML, server-sent events). It ends when its session does, or when the meeting is
    no longer shared with whoever listens."""
    if not await sync_to_async(lambda: request.user.is_authenticated)():
        return problem(401, "Sign in first.")
    listener = await _listener(request, meeting_id)
    if listener is None:
        return problem(404, "There is no such meeting, or it is not shared with you.")
    session = _session(request)

    async def stream() -> AsyncIterator[str]:
        loop = asyncio.get_running_loop()
        queue, looked = _hub.join(str(meeting_id), session, listener), loop.time()
        try:
            yield "retry: 1000\n\n"
            while True:
                parts: set[str] = set()
                with suppress(TimeoutError):
                    parts = set(await asyncio.wait_for(queue.get(), _HEARTBEAT))
                    # A burst is one event.
                    await asyncio.sleep(0.05)
                    while not queue.empty():
                        parts |= set(queue.get_nowait())
                if _LEFT in parts:
                    return
                if loop.time() - looked > _LOOK_AGAIN:
                    looked = loop.time()
                    if not await _hub.lets(str(meeting_id), listener):
                        return
                yield f"data: {json.dumps(sorted(parts))}\n\n" if parts else ": still here\n\n"
        finally:
            _hub.leave(str(meeting_id), session, queue)

    return StreamingHttpResponse(
        stream(), content_type="text/event-stream", headers={"Cache-Control": "no-store", "X-Accel-Buffering": "no"}
    )

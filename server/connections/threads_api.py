"""Threads of a chat, read."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Any, Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership
from server.answers import Answer
from server.bounds import Moment
from server.connections.actions.read_thread import ask_thread, drop_thread, keep_thread
from server.connections.models import Thread, ThreadState
from server.connections.queries import connection_of
from server.connections.threads import rooms_for
from server.languages import OurWords
from server.problems import Refused

router = Router(tags=["threads"], auth=signed_in)
of_connection = Router(tags=["threads"], auth=signed_in)
"""Of a connection."""
SHOWN = 20


class RoomOut(Schema):
    key: str
    name: str


class ThreadIn(Schema):
    """From when on, by one of these: since a moment; from a message on; one thread, by its first message; since I was last there."""

    room: Annotated[str, Field(min_length=1, max_length=200)]
    since: Moment | None = None
    first: Annotated[str, Field(max_length=200)] = ""
    thread: Annotated[str, Field(max_length=200)] = ""
    unread: bool = False


class ThreadMessageOut(Schema):
    key: str
    who: str
    text: str
    at: datetime
    url: str


class ThreadDrawnOut(Schema):
    """What was read, and the places of the messages that it rests on."""

    kind: Literal["in short", "decision", "action", "question"]
    text: str
    owner: str | None
    due: date | None
    messages: list[int]


class ThreadOut(Schema):
    """said: why it could not be read. meeting: what it was kept as."""

    id: UUID
    connection: UUID
    connection_name: str
    room_name: str
    state: ThreadState
    said: OurWords
    made_at: datetime
    messages: list[ThreadMessageOut]
    drawn: list[ThreadDrawnOut]
    meeting: UUID | None


class KeptThreadOut(Schema):
    meeting: UUID


def _thread(thread: Thread) -> dict[str, Any]:
    told = {name: getattr(thread, name) for name in ("id", "room_name", "state", "said", "made_at", "messages", "drawn")}
    return {**told, "connection": thread.connection_id, "connection_name": thread.connection.name, "meeting": thread.meeting_id}


def _thread_of(request: HttpRequest, key: UUID) -> tuple[Membership, Thread]:
    membership = membership_of(request)
    found = Thread.objects.filter(pk=key, membership=membership).select_related("connection", "meeting").first()
    if found is None:
        raise Refused(404, "That was read some days ago and let go of, or is somebody else's. Have it read again.")
    return membership, found


@of_connection.get("/{connection_id}/rooms", response=list[RoomOut])
def rooms(request: HttpRequest, connection_id: UUID) -> Answer:
    """Rooms that I am in, of which a thread can be read."""
    membership = membership_of(request)
    return [{"key": one.key, "name": one.name} for one in rooms_for(membership, connection_of(membership, connection_id))]


@of_connection.post("/{connection_id}/threads", response={202: ThreadOut})
def read_thread(request: HttpRequest, connection_id: UUID, payload: ThreadIn) -> Answer:
    """Have what was written in a room read."""
    membership = membership_of(request)
    asked = payload.dict()
    return 202, _thread(ask_thread(membership, connection_of(membership, connection_id), asked.pop("room"), **asked))


@router.get("", response=list[ThreadOut])
def threads(request: HttpRequest) -> Answer:
    """Those that were read for me lately."""
    return [_thread(one) for one in Thread.objects.filter(membership=membership_of(request)).select_related("connection")[:SHOWN]]


@router.get("/{thread_id}", response=ThreadOut)
def one_thread(request: HttpRequest, thread_id: UUID) -> Answer:
    """One of them."""
    return _thread(_thread_of(request, thread_id)[1])


@router.post("/{thread_id}/keep", response={201: KeptThreadOut})
def keep(request: HttpRequest, thread_id: UUID) -> Answer:
    """Keep it as a meeting, which I alone see at first."""
    return 201, {"meeting": keep_thread(*_thread_of(request, thread_id)).pk}


@router.delete("/{thread_id}", response={204: None})
def let_go(request: HttpRequest, thread_id: UUID) -> Answer:
    """Let go of it."""
    drop_thread(*_thread_of(request, thread_id))
    return 204, None

"""Threads of a chat, read: fetched with the rights of the connection, for a member who is in that room, and let go of after some days."""

from __future__ import annotations

from datetime import datetime, timedelta
from uuid import UUID

from django.utils import timezone

from core.problems import InputProblem
from core.reading.thread import Message, read_thread
from server.accounts.models import Membership
from server.connections.kinds.base import Target, shortened
from server.connections.kinds.chat import Chat, Said, Stretch
from server.connections.models import Connection, Thread, ThreadState
from server.connections.queries import changes, open_kind
from server.pipeline.ear import encoder
from server.problems import Refused

KEPT = timedelta(days=7)
"""So long what was read can be looked at again."""


def chat_of(connection: Connection) -> Chat:
    """Raises Refused where it is none."""
    kind = open_kind(connection)
    if not isinstance(kind, Chat):
        raise Refused(422, "Only of a chat threads can be read.")
    return kind


def rooms_for(membership: Membership, connection: Connection) -> list[Target]:
    """The rooms that somebody may have read: with one's own connection all that it is let into; with the workspace's those in which one is oneself.
    Where the chat does not say who is in a room, those who look after the connection. Raises InputProblem."""
    every = connection.membership_id == membership.pk
    address = membership.user.email.lower()
    found = []
    for room, members in chat_of(connection).rooms_with_members():
        if every or (address in members if members is not None else changes(membership, connection)):
            found.append(room)
    return found


def read_now(key: UUID) -> None:
    """Fetch a thread and read it, here and now."""
    thread = Thread.objects.select_related("connection__workspace", "connection__membership", "membership__user").filter(pk=key, state=ThreadState.WAITING).first()
    if thread is None or thread.connection.dropped_at:
        return
    try:
        messages = chat_of(thread.connection).messages(thread.room, _stretch(thread))
        if not messages:
            raise InputProblem("Nothing was written there in that span.")
        drawn = read_thread([Message(one.who, one.text, one.at) for one in messages], encoder())
    except InputProblem as problem:
        Thread.objects.filter(pk=key).update(state=ThreadState.FAILED, said=shortened(str(problem), 400))
        return
    told = [{"kind": one.kind, "text": one.text, "owner": one.owner, "due": one.due and one.due.isoformat(), "messages": list(one.messages)} for one in drawn]
    Thread.objects.filter(pk=key).update(state=ThreadState.READY, messages=[_kept(one) for one in messages], drawn=told)


def _stretch(thread: Thread) -> Stretch:
    said = thread.stretch
    since = datetime.fromisoformat(said["since"]) if said.get("since") else None
    return Stretch(since, said.get("first", ""), said.get("thread", ""), thread.membership.user.email if said.get("unread") else "")


def _kept(message: Said) -> dict:
    return {"key": message.key, "who": message.who, "text": message.text, "at": message.at.isoformat(), "url": message.url}


def let_go_of_old() -> None:
    """What was read some days ago."""
    Thread.objects.filter(made_at__lt=timezone.now() - KEPT).delete()

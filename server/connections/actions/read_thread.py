"""Have a thread of a chat read; keep it as a meeting; let go of it."""

from __future__ import annotations

from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from django.utils import timezone
from procrastinate.contrib.django import app

from core.formats import webvtt_record
from core.problems import InputProblem
from core.reading.thread import Message, as_record
from server.accounts.models import Membership
from server.acting import acting
from server.capture.actions.take_upload import Given, take_upload
from server.capture.fetching import laid
from server.connections.models import Connection, Thread, ThreadState
from server.connections.threads import rooms_for
from server.meetings.models import Meeting
from server.pipeline.work import Queue
from server.problems import Refused
from server.sharing.policy import Can

MOST_A_DAY = 60
LONGEST = timedelta(days=92)


def ask_thread(membership: Membership, connection: Connection, room: str, *, since: datetime | None, first: str, thread: str, unread: bool) -> Thread:
    """Of a room in which one is: since a moment, from a message on, of one thread, or since one was last there. Raises Refused."""
    with acting(membership, Can.ADD, "read thread", connection=connection.name) as act:
        if sum(map(bool, (since, first, thread, unread))) != 1:
            raise Refused(422, "Say from when on: since a moment, from a message on, of one thread, or since you were last there.")
        if since and timezone.now() - since > LONGEST:
            raise Refused(422, f"Up to {LONGEST.days} days of a room are read. Choose a later moment.")
        if Thread.objects.filter(membership=membership, made_at__gt=timezone.now() - timedelta(days=1)).count() >= MOST_A_DAY:
            raise Refused(429, f"{MOST_A_DAY} threads were read for you in a day, which is as many as there can be.")
        try:
            found = next((one for one in rooms_for(membership, connection) if one.key == room), None)
        except InputProblem as problem:
            raise Refused(422, str(problem)) from problem
        if found is None:
            raise Refused(404, "There is no such room there, or you are not in it.")
        stretch = {"since": since and since.isoformat(), "first": first[:200], "thread": thread[:200], "unread": unread}
        made = Thread.objects.create(connection=connection, membership=membership, room=room, room_name=found.name, stretch=stretch)
        act.note(thread=str(made.pk))
        app.configure_task("read thread", queue=Queue.READING).defer(thread_id=str(made.pk))
    return made


def keep_thread(membership: Membership, thread: Thread) -> Meeting:
    """As a meeting of one's own, that goes through all that meetings go through. Once. Raises Refused."""
    if thread.meeting:
        return thread.meeting
    if thread.state != ThreadState.READY:
        raise Refused(409, "It is not read yet.")
    with acting(membership, Can.ADD, "keep thread", connection=thread.connection.name):
        messages = [Message(one["who"], one["text"], datetime.fromisoformat(one["at"])) for one in thread.messages]
        record, _ = as_record(messages, "thread")
        data = webvtt_record.dump(record).encode()
        zone = membership.user.time_zone or "UTC"
        day = messages[0].at.astimezone(ZoneInfo(zone))
        given = Given(f"{thread.room_name}, {day:%-d %B}", messages[0].at, zone, list(dict.fromkeys(one.who for one in messages)), visibility="mine")
        with laid(membership.user, "thread.vtt", data) as upload:
            meeting = take_upload(membership, upload.pk, given, again=True)
        Thread.objects.filter(pk=thread.pk).update(meeting=meeting)
    return meeting


def drop_thread(membership: Membership, thread: Thread) -> None:
    """What was read of it is gone here; the chat has it still."""
    with acting(membership, None, "drop thread", connection=thread.connection.name):
        thread.delete()

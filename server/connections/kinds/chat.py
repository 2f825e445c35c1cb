"""A chat with rooms and people (`docs/outside.md`): minutes, an action, a decision or an excerpt are written there; what was written in a room can be read
(`server.connections.threads`)."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, ClassVar
from urllib.parse import quote, urlencode, urljoin

from pydantic import Field

from core.problems import InputProblem
from core.text import one_line, prose
from server.connections.kinds.base import Address, Denied, Line, Parcel, Receipt, Secret, Settings, Target
from server.connections.kinds.spoken import Spoken, rows_in
from server.connections.models import Subject
from server.connections.subjects.excerpt import ExcerptContents
from server.connections.subjects.matters import ActionContents, DecisionContents
from server.connections.subjects.minutes import MinutesContents
from server.outward import pages

ROOM, PERSON = "room", "person"
MOST_MESSAGES = 2000
_MOST_LINES = 40


class ChatSettings(Settings):
    """Where it is; one room of it that is this connection's alone, or all."""

    address: Address = Field(title="Address", description="Of the chat's interface.")
    token: Secret = Field(title="Token", description="Made in the chat for this connection: it writes, and reads the rooms it is let into.")
    room: Line = Field("", title="Only this room", description="Its key there. Then no other connection writes into it. Empty: any room, chosen each time.")


@dataclass(frozen=True)
class Said:
    """A message of a room. key: by which it is found there."""

    key: str
    who: str
    address: str
    text: str
    at: datetime
    url: str


@dataclass(frozen=True)
class Stretch:
    """What of a room is wanted: since a moment, from a message on, of one thread, or what somebody (by their address) has not seen yet."""

    since: datetime | None = None
    first: str = ""
    thread: str = ""
    unread: str = ""


class Chat(Spoken):
    """What it is given is a message, which is worded anew or taken out with what it is of."""

    name: ClassVar[str] = "chat"
    title: ClassVar[str] = "A chat"
    about: ClassVar[str] = "Minutes, excerpts, decisions and actions are written into a room or to a person; a thread can be read, and comes back as minutes."
    asks = ChatSettings
    takes = frozenset({Subject.MINUTES, Subject.ACTION, Subject.DECISION, Subject.EXCERPT})
    keyed = True
    recalls = True
    aims = True
    strange: ClassVar[str] = "What the chat answers is not what a chat answers."
    nameless: ClassVar[str] = "The chat has answered without saying which message it made."
    settings: ChatSettings

    def check(self) -> str:
        """Who are we there?"""
        said = self.ask("GET", "me")
        if self.settings.room and self.settings.room not in {one.key for one in self.rooms()}:
            raise InputProblem("There is no such room there, or this token is not let into it.")
        return f"The chat knows this connection as “{one_line(str(said.get('name', '')))[:80]}”."

    def claims(self) -> str:
        """A room that was named."""
        return f"{self.settings.address} {self.settings.room}" if self.settings.room else ""

    def rooms(self) -> list[Target]:
        """The rooms it is let into, of those it may write into. Raises InputProblem."""
        return [room for room, _ in self.rooms_with_members()]

    def rooms_with_members(self) -> list[tuple[Target, set[str] | None]]:
        """The same, each with the addresses of who is in it; None where the chat does not say."""
        found: list[tuple[Target, set[str] | None]] = []
        for one in rows_in(self.ask("GET", "rooms"), "rooms"):
            members = one.get("members")
            found.append((Target(one["id"], _name(one), ROOM), {str(who).lower() for who in members} if isinstance(members, list) else None))
        return [one for one in found if not self.settings.room or one[0].key == self.settings.room]

    def targets(self) -> Sequence[Target]:
        """Rooms, and people."""
        rooms = self.rooms()
        people = [] if self.settings.room else [Target(f"{PERSON} {one['id']}", _name(one), PERSON) for one in rows_in(self.ask("GET", "people"), "people")]
        return [Target(f"{ROOM} {one.key}", one.name, ROOM) for one in rooms] + people

    def deliver(self, parcel: Parcel) -> Receipt:
        """A message, or the same worded anew."""
        said = {"text": _worded(parcel)}
        if parcel.there:
            return self.receipt(self.ask("PATCH", f"messages/{quote(parcel.there.remote)}", said=said, key=parcel.key_of_words))
        kind, _, key = parcel.target.partition(" ")
        if kind not in (ROOM, PERSON) or not key or self.settings.room and key != self.settings.room:
            raise Denied("Choose a room or a person that this connection writes to.")
        where = "rooms" if kind == ROOM else "people"
        return self.receipt(self.ask("POST", f"{where}/{quote(key)}/messages", said=said, key=parcel.key))

    def find(self, key: str) -> Receipt | None:
        """The message that a request of this key made."""
        found = rows_in(self.ask("GET", f"messages?{urlencode({'key': key})}"), "messages")
        return self.receipt(found[0]) if found else None

    def withdraw(self, key: str, there: Receipt) -> None:
        """Take it out."""
        self.speaker().ask("DELETE", f"messages/{quote(there.remote)}", key=key)

    def messages(self, room: str, stretch: Stretch) -> list[Said]:
        """What was written in a room, in order. Raises InputProblem; Denied where it is too much."""
        asked = {"thread": stretch.thread, "from": stretch.first, "since": stretch.since.astimezone(UTC).isoformat() if stretch.since else "", "unread": stretch.unread}
        asked = {name: value for name, value in asked.items() if value}
        found: list[Said] = []

        def page(after: str) -> tuple[list[dict[str, Any]], str | None]:
            said = self.ask("GET", f"rooms/{quote(room)}/messages?{urlencode({**asked, 'after': after} if after else asked)}")
            return rows_in(said, "messages"), said["next"] if isinstance(said.get("next"), str) else None

        for rows in pages(page):
            found += _read(rows, self.settings.address)
            if len(found) > MOST_MESSAGES:
                raise Denied(f"More than {MOST_MESSAGES} messages were written there. Choose a shorter span.")
        return found


def _name(said: dict[str, Any]) -> str:
    return one_line(str(said.get("name", "")))[:120]


def _read(rows: Sequence[dict[str, Any]], address: str) -> Iterator[Said]:
    """Messages; one that cannot be read is passed over."""
    for one in rows:
        who = one.get("who") if isinstance(one.get("who"), dict) else {}
        try:
            at = datetime.fromisoformat(str(one.get("at")))
        except ValueError:
            continue
        text = prose(str(one.get("text", ""))).strip()
        if text:
            yield Said(one["id"], one_line(str((who or {}).get("name", "")))[:120] or "Somebody", str((who or {}).get("address", "")), text[:8000], at if at.tzinfo else at.replace(tzinfo=UTC), urljoin(address, str(one.get("url", ""))))


def _worded(parcel: Parcel) -> str:
    """As plain text: chats have markup of many kinds, and all show this."""
    contents = parcel.contents
    if isinstance(contents, MinutesContents):
        lines = [f"Minutes: {contents.meeting.title}, {contents.meeting.started_at:%-d %B %Y}"]
        for section in contents.sections:
            lines += ["", section.heading, *(f"– {one.text}" for one in section.lines)]
        more = len(lines) - _MOST_LINES
        if more > 0:
            lines = [*lines[:_MOST_LINES], f"… and {more} more lines"]
        return "\n".join([*lines, "", contents.meeting.link])
    if isinstance(contents, ExcerptContents):
        return "\n".join([f"“{contents.title}”", *(f"{one.who}: {one.text}" for one in contents.said), contents.link])
    assert isinstance(contents, (ActionContents, DecisionContents))
    about = []
    if isinstance(contents, ActionContents):
        about = [*([contents.owner.name] if contents.owner else []), *([f"by {contents.due:%-d %B}"] if contents.due else [])]
    head = f"{'Action' if isinstance(contents, ActionContents) else 'Decision'}{f' ({contents.state})' if contents.state not in ('open', 'stands') else ''}: {contents.text}"
    return "\n".join([head, *([", ".join(about)] if about else []), *(f"> {one.who}: {one.text}" for one in contents.quotes), contents.link])

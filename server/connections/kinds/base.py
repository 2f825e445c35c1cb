"""What a kind of outside system is: what it asks for, what it takes and gives, and how it is spoken to.

A kind is a class in a file of its own, and its line in `server.connections.kinds`. One instance speaks for one connection.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime
from typing import Annotated, Any, ClassVar

from ninja import Schema
from pydantic import Field

from core.problems import InputProblem
from core.text import one_line
from server.connections.models import Happened, Subject

Address = Annotated[str, Field(min_length=1, max_length=2000, json_schema_extra={"format": "uri"})]
"""Where the other side is: settled by `server.outward.settled` before it is kept."""
Line = Annotated[str, Field(max_length=400)]
Secret = Annotated[str, Field(max_length=2000, json_schema_extra={"secret": True})]
"""What is kept sealed, and shown to nobody."""
SAID = 500
"""Signs of what the other side says that are kept."""


class Settings(Schema):
    """What a kind asks for: a pydantic model, whose JSON schema is what the form is drawn from. A field's title is its label, its description stands below."""


class Trouble(InputProblem):
    """It did not work now, and may work later. after: seconds that the other side wants to be left alone."""

    def __init__(self, words: str, after: float = 0.0) -> None:
        super().__init__(words)
        self.after = after


class Denied(InputProblem):
    """The other side will not have it, however often it is tried."""


class NotLetIn(Denied):
    """It does not let us in (any more)."""


class Missing(Denied):
    """There is no such thing there (any more)."""


class Touched(Denied):
    """Somebody has changed it there since, so that it was left as it is."""


@dataclass(frozen=True)
class Receipt:
    """What the other side keeps of what was delivered. remote: by which it is found there; address: for people; mark: which state of it that is."""

    remote: str = ""
    address: str = ""
    mark: str = ""


@dataclass(frozen=True)
class Parcel:
    """What goes. key: the delivery's, the same at every try: with it a thing is made, and found again (`find`). key_of_words: of the delivery and of
    what it says, for requests that bring a thing in step: with the same key the other side would keep the words it has. contents: as its subject has it (`server.connections.subjects`). there: what lies
    there of it already. held: what of it both sides have changed, and nobody has said which counts: that is left as it is there. file: the minutes or the record as a file: (what, form) → bytes. reserve: says where it is about to be put, before it
    is, so that it is found also where no answer comes. at_desk: addresses of those from outside who were there."""

    key: str
    key_of_words: str
    subject: Subject
    happened: Happened
    at: datetime
    contents: Any
    target: str = ""
    there: Receipt | None = None
    held: frozenset[str] = frozenset()
    file: Callable[[str, str], bytes] = lambda what, form: b""
    reserve: Callable[[Receipt], None] = lambda receipt: None
    at_desk: Sequence[str] = ()

    @property
    def contents_id(self) -> str:
        """By which what it is of is known here."""
        return str(getattr(self.contents, "id", None) or self.contents.meeting.id)


@dataclass(frozen=True)
class Target:
    """Where within the other side something can go: a room, a person, a project."""

    key: str
    name: str
    kind: str = ""


@dataclass(frozen=True)
class FieldThere:
    """A field of what lies there. type: as `core.search.value` has it."""

    key: str
    title: str
    type: str
    choices: tuple[str, ...] = ()


@dataclass(frozen=True)
class News:
    """What has become there of something that was delivered. remote: by which it is found there. gone: it is not there any more. state, owner,
    address (of its owner), due: as they are there now, None where nothing is said of them. mark: its state."""

    remote: str
    gone: bool = False
    state: str | None = None
    owner: str | None = None
    address: str | None = None
    due: date | None = None
    says_due: bool = False
    mark: str = ""


@dataclass(frozen=True)
class Message:
    """What the other side sent by itself: its headers, in small letters, and what it holds."""

    headers: Mapping[str, str]
    body: Any = field(default_factory=dict)


class Kind:
    """name: the identifier. title, about: in plain words. takes: what can go there. by_rule: what of that can go by itself. keyed: the same key
    makes the same thing once. recalls: it takes back what it was given. gives: something comes back. everybody: it can be the workspace's;
    own: it can be one member's alone."""

    name: ClassVar[str]
    title: ClassVar[str]
    about: ClassVar[str]
    asks: ClassVar[type[Settings]]
    takes: ClassVar[frozenset[Subject]] = frozenset()
    keyed: ClassVar[bool] = False
    recalls: ClassVar[bool] = False
    gives: ClassVar[bool] = False
    aims: ClassVar[bool] = False
    """Is there more than one place to put something: does `targets` name any?"""
    places: ClassVar[bool] = False
    """Does where something goes depend on who was there (`place`)?"""
    fills: ClassVar[bool] = False
    """Has it fields that can be filled (`fields`)?"""

    def __init__(self, settings: Any) -> None:
        self.settings = settings

    def check(self) -> str:
        """Ask the other side whether all is well; what it says of itself. Raises InputProblem."""
        raise NotImplementedError

    def claims(self) -> str:
        """What of the other side belongs to one connection alone; "" where nothing does."""
        return ""

    def targets(self) -> Sequence[Target]:
        """Where something can go, for a person to choose. Raises InputProblem."""
        return ()

    def place(self, address: str) -> Sequence[Target]:
        """Where there what has to do with an address goes, where that is not for a person to choose (`places`): several, where it is not clear. Raises InputProblem."""
        return ()

    def fields(self) -> Sequence[FieldThere]:
        """Fields that can be filled. Raises InputProblem."""
        return ()

    def deliver(self, parcel: Parcel) -> Receipt:
        """Put it there, or bring what lies there in step with it. Raises Trouble, Denied."""
        raise NotImplementedError

    def find(self, key: str) -> Receipt | None:
        """What came of a delivery whose answer never came, by its key; None where nothing did, or where that cannot be told."""
        return None

    def withdraw(self, key: str, there: Receipt) -> None:
        """Take back what lies there. What is gone there already is well. Raises Trouble, Denied."""
        raise Denied(f"{self.title} takes nothing back. Ask whoever has it there.")

    def look(self, there: Receipt) -> News | None:
        """How what was delivered stands there now; None where a kind does not tell. Raises Trouble, Denied."""
        return None

    def subscribe(self, address: str, secret: str) -> None:
        """Have the other side tell of what is new at an address, signed with a secret (Standard Webhooks). Raises InputProblem."""

    def unsubscribe(self, address: str) -> None:
        """Have it tell no more. Raises InputProblem."""

    def receive(self, message: Message) -> Sequence[News]:
        """What a message says. Its signature has been checked. Raises InputProblem."""
        return ()

    def poll(self, cursor: str) -> tuple[Sequence[News], str]:
        """What is new there since a cursor ("" at first), and the next cursor. Raises Trouble, Denied."""
        return (), cursor


def shortened(words: str, most: int = SAID) -> str:
    """What the other side says, as it is kept and shown."""
    return one_line(words)[:most]

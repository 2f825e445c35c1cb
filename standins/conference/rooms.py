"""Rooms, and who is in them."""

from __future__ import annotations

import secrets
import time
from collections.abc import Callable
from dataclasses import dataclass, field

from standins.conference.media import Source


@dataclass
class Somebody:
    """In a room, or before its door. kind: "person", or "clerk" for a program that says so itself. tell: sends them an event."""

    name: str
    kind: str
    tell: Callable[[dict], None]
    id: str = field(default_factory=lambda: secrets.token_hex(6))
    token: str = field(default_factory=lambda: secrets.token_urlsafe(24))
    inside: bool = False
    muted: bool = False
    sound: Source | None = None
    screen: Source | None = None
    closing: list[Callable[[], object]] = field(default_factory=list)

    def card(self) -> dict:
        """As others see them."""
        return {
            "id": self.id,
            "name": self.name,
            "kind": self.kind,
            "muted": self.muted,
            "sound": self.sound is not None,
            "screen": self.screen is not None,
        }


@dataclass(frozen=True)
class Laid:
    """A file that somebody put into the chat."""

    name: str
    data: bytes


@dataclass
class Room:
    """lobby: whoever comes waits until somebody inside opens. most: how many it holds."""

    name: str
    title: str = ""
    passcode: str = ""
    lobby: bool = False
    most: int = 50
    people: dict[str, Somebody] = field(default_factory=dict)
    said: list[dict] = field(default_factory=list)
    files: dict[str, Laid] = field(default_factory=dict)

    @property
    def inside(self) -> list[Somebody]:
        """Those who are in."""
        return [one for one in self.people.values() if one.inside]

    def of_token(self, token: str) -> Somebody | None:
        """Whose it is."""
        return next((one for one in self.people.values() if one.inside and secrets.compare_digest(one.token, token)), None)

    def tell(self, event: dict, but: Somebody | None = None) -> None:
        """Everybody inside learns it."""
        for one in self.inside:
            if one is not but:
                one.tell(event)

    def come(self, one: Somebody, *, at_home: bool = False) -> None:
        """Before the door, or straight in where there is no lobby or nobody to open it who is a person. at_home: whoever needs no letting in."""
        self.people[one.id] = one
        if self.lobby and not at_home and (one.kind == "clerk" or any(other.kind == "person" for other in self.inside)):
            one.tell({"event": "lobby"})
            self.tell({"event": "knocks", "who": one.card()})
        else:
            self.let_in(one)

    def let_in(self, one: Somebody) -> None:
        """Through the door."""
        one.inside = True
        one.tell(
            {
                "event": "admitted",
                "you": one.id,
                "token": one.token,
                "title": self.title or self.name,
                "people": [other.card() for other in self.inside if other is not one],
                "waiting": [other.card() for other in self.people.values() if not other.inside],
                "chat": self.said,
            }
        )
        self.tell({"event": "joined", "who": one.card()}, one)

    def go(self, one: Somebody, why: str = "left") -> None:
        """Out of the room. why: "left", "refused" or "removed"."""
        if self.people.pop(one.id, None) is None:
            return
        if why != "left":
            one.tell({"event": why})
        for close in one.closing:
            close()
        for source in (one.sound, one.screen):
            if source:
                source.end()
        if one.inside:
            self.tell({"event": "left", "who": one.card()})
        else:
            self.tell({"event": "gone", "who": one.card()})

    def end(self) -> None:
        """Everybody goes."""
        for one in list(self.people.values()):
            self.go(one, "ended")
        self.said.clear()
        self.files.clear()

    def do(self, one: Somebody, asked: dict) -> None:
        """What somebody inside asks for; what is not understood is told back."""
        other = self.people.get(str(asked.get("who", "")))
        match asked.get("do"):
            case "say":
                said = {"event": "said", "who": one.card(), "text": str(asked.get("text", ""))[:4000], "at": time.time()}
                self.said.append(said)
                self.tell(said)
            case "rename":
                one.name = str(asked.get("name", ""))[:80].strip() or one.name
                self.tell({"event": "changed", "who": one.card()})
            case "mute":
                one.muted = bool(asked.get("muted"))
                if one.sound:
                    one.sound.muted = one.muted
                self.tell({"event": "changed", "who": one.card()})
            case "open" if other and not other.inside:
                self.let_in(other)
            case "refuse" if other and not other.inside:
                self.go(other, "refused")
            case "remove" if other and other.inside:
                self.go(other, "removed")
            case "end":
                self.end()
            case "leave":
                self.go(one)
            case _:
                one.tell({"event": "not understood"})

    def lay(self, one: Somebody, file: Laid) -> str:
        """Somebody puts a file into the chat; its key."""
        key = secrets.token_urlsafe(12)
        self.files[key] = file
        laid = {"event": "laid", "who": one.card(), "name": file.name, "size": len(file.data), "href": f"/rooms/{self.name}/files/{key}", "at": time.time()}
        self.said.append(laid)
        self.tell(laid)
        return key

    def sounds(self, one: Somebody, source: Source) -> None:
        """Somebody gives sound from now on."""
        one.sound, source.muted = source, one.muted
        self.tell({"event": "changed", "who": one.card()})

    def shows(self, one: Somebody, source: Source | None) -> None:
        """Somebody shows their screen from now on; None: no more."""
        if source is None and one.screen:
            one.screen.end()
        one.screen = source
        self.tell({"event": "changed", "who": one.card()})

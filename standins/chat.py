"""A chat for one machine, in memory, with rooms, threads and a page: `python -m standins.chat --port N --token T`. Its interface is described in `docs/outside.md`."""

from __future__ import annotations

import secrets
from datetime import UTC, datetime, timedelta
from html import escape
from typing import Any

from standins.local import Asked, Interface, Refusal, button, run

PEOPLE = {"u1": ("Maren Tollefsen", "maren@larkmoor.example"), "u2": ("Idris Quaye", "idris@larkmoor.example"), "u3": ("Yuki Hanamori", "yuki@larkmoor.example"), "u4": ("Nerys Vaughan-Pryce", "nerys@larkmoor.example")}
_PAGE = 50


class Chat(Interface):
    """Rooms and people, each with messages in order."""

    title = "A chat"

    def __init__(self, token: str, rooms: dict[str, str] | None = None) -> None:
        super().__init__(token)
        self.rooms = rooms if rooms is not None else {"r1": "Palm house", "r2": "Yard"}
        self.messages: dict[str, dict[str, Any]] = {}
        self.by_key: dict[str, str] = {}
        self.read_until: dict[str, str] = {}
        self.made = 0

    def say(self, room: str, who: str, text: str, at: datetime | None = None, thread: str = "") -> str:
        """Somebody writes something."""
        key = secrets.token_hex(6)
        name, address = PEOPLE.get(who, (who, ""))
        said = {"id": key, "room": room, "who": {"name": name, "address": address}, "text": text, "at": (at or datetime.now(UTC)).isoformat(), "thread": thread, "url": f"/#{key}", "version": 1}
        with self.lock:
            self.messages[key] = said
        return key

    def talk(self) -> None:
        """A thread that was made up, for the demo."""
        start = datetime.now(UTC).replace(microsecond=0) - timedelta(hours=5)
        first = ""
        for number, (who, text) in enumerate(TALK):
            key = self.say("r1", who, text, start + timedelta(minutes=4 * number), first)
            first = first or key

    def me(self, asked: Asked) -> Any:
        """Who speaks here."""
        return {"name": "Aftershower", "rooms": len(self.rooms)}

    def all_rooms(self, asked: Asked) -> Any:
        """Those there are."""
        return {"rooms": [{"id": key, "name": name, "members": [address for _, address in PEOPLE.values()]} for key, name in self.rooms.items()]}

    def all_people(self, asked: Asked) -> Any:
        """Who can be written to."""
        return {"people": [{"id": key, "name": name, "address": address} for key, (name, address) in PEOPLE.items()]}

    def _room(self, asked: Asked) -> str:
        if asked.names[0] not in self.rooms:
            raise Refusal(404, "There is no such room.")
        return str(asked.names[0])

    def listed(self, asked: Asked) -> Any:
        """Messages of a room in order, a page at a time: of a thread, since a moment, from a message on, or since one was last there."""
        room, query = self._room(asked), asked.query
        found = sorted((one for one in self.messages.values() if one["room"] == room), key=lambda one: (one["at"], one["id"]))
        if thread := query.get("thread"):
            found = [one for one in found if thread in (one["thread"], one["id"])]
        if since := query.get("since"):
            found = [one for one in found if one["at"] >= since]
        start = query.get("from") or self.read_until.get(f"{room} {query.get('unread', '')}", "")
        if start and start in self.messages:
            found = [one for one in found if one["at"] >= self.messages[start]["at"]]
            found = found[1:] if query.get("unread") else found
        first = int(query.get("after") or 0)
        page = found[first : first + _PAGE]
        return {"messages": page, "next": str(first + _PAGE) if len(found) > first + _PAGE else None}

    def _new(self, where: str, asked: Asked) -> Any:
        key = self.say(where, "Aftershower", asked.body["text"], thread=asked.body.get("thread") or "")
        self.by_key[asked.headers.get("idempotency-key", "")] = key
        self.made += 1
        if asked.mood == "mind":
            self.messages[key] = self.messages[key] | {"version": 2}
        return 201, dict(self.messages[key])

    def post(self, asked: Asked) -> Any:
        """Write into a room."""
        return self._new(self._room(asked), asked)

    def write_to(self, asked: Asked) -> Any:
        """Write to a person."""
        if asked.names[0] not in PEOPLE:
            raise Refusal(404, "There is nobody of that key.")
        return self._new(f"to {asked.names[0]}", asked)

    def _message(self, asked: Asked) -> dict[str, Any]:
        if asked.names[0] not in self.messages:
            raise Refusal(404, "This message was deleted.")
        return self.messages[asked.names[0]]

    def get(self, asked: Asked) -> Any:
        """One message."""
        return dict(self._message(asked))

    def patch(self, asked: Asked) -> Any:
        """Word one anew."""
        said = self._message(asked)
        self.messages[said["id"]] = said | {"text": asked.body["text"], "version": said["version"] + 1}
        return dict(self.messages[said["id"]])

    def delete(self, asked: Asked) -> Any:
        """Take one out."""
        del self.messages[self._message(asked)["id"]]
        return 204, None

    def by_its_key(self, asked: Asked) -> Any:
        """What was made by a request of a key."""
        key = self.by_key.get(asked.query.get("key", ""))
        return {"messages": [self.messages[key]] if key in self.messages else []}

    routes = (
        ("GET", "/me", me),
        ("GET", "/rooms", all_rooms),
        ("GET", "/people", all_people),
        ("GET", "/rooms/([^/]+)/messages", listed),
        ("POST", "/rooms/([^/]+)/messages", post),
        ("POST", "/people/([^/]+)/messages", write_to),
        ("GET", "/messages", by_its_key),
        ("GET", "/messages/([^/]+)", get),
        ("PATCH", "/messages/([^/]+)", patch),
        ("DELETE", "/messages/([^/]+)", delete),
    )

    def page(self) -> str:
        """Rooms with what was said in them."""
        parts = []
        places = [*self.rooms.items(), *((f"to {key}", f"To {name}") for key, (name, _) in PEOPLE.items())]
        for place, name in places:
            said = sorted((one for one in self.messages.values() if one["room"] == place), key=lambda one: one["at"])
            rows = "".join(
                f"<p id={one['id']} style='margin-left:{2 if one['thread'] else 0}rem;white-space:pre-line'><b>{escape(one['who']['name'])}</b> <small>{one['at'][:16]}</small><br>{escape(one['text'])} {button('Take out', id=one['id'])}</p>"
                for one in said
            )
            write = f"<form method=post action=/press><input type=hidden name=room value={place}><label>Say <input name=text size=50></label><button>Write</button></form>"
            if rows or not place.startswith("to "):
                parts.append(f"<h2>{escape(name)}</h2>{rows or '<p>Nothing was said yet.</p>'}{'' if place.startswith('to ') else write}")
        return "".join(parts)

    def pressed(self, form: dict[str, str]) -> None:
        """As the buttons say."""
        if "text" in form:
            self.say(form["room"], "u1", form["text"])
        else:
            self.messages.pop(form.get("id", ""), None)


TALK = (
    ("u1", "Morning. Pavel says the laminated panes for the north lantern are two weeks late."),
    ("u2", "Two weeks? The scaffold is booked until the 20th."),
    ("u3", "Could we keep the scaffold for another week?"),
    ("u2", "I can ask. It was 340 a week last time."),
    ("u1", "What if we glaze the south side first and leave the lantern for last?"),
    ("u3", "Works for me. South side first then."),
    ("u2", "Fine by me."),
    ("u1", "Good, that's agreed: south side first, the lantern last."),
    ("u2", "I'll ring the scaffolders by Thursday about the extra week."),
    ("u3", "Who tells the visitors' desk that the north door stays shut?"),
    ("u1", "I'll write to the visitors' desk tomorrow."),
    ("u3", "Do we know what the acid-etched panes cost now?"),
)
"""Who says what."""


def made(token: str) -> Chat:
    """A chat with a thread in it."""
    chat = Chat(token)
    chat.talk()
    return chat


if __name__ == "__main__":
    run(made, __doc__, 8633)

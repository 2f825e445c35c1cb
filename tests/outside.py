"""The other sides of all kinds of connections, as stand-ins that can be told to behave badly: one entry a kind."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from http.server import ThreadingHTTPServer
from pathlib import Path
from typing import Any

from house.postgres import free_port
from standins import chat, customers, folder, listener, local, store, tracker
from standins.local import Moods

SECRET = "whsec_MfKQ9r8GKYqrTwjUPD8ILPZIo2LaLaSw"


ORGANISATIONS = {"o1": {"name": "Drozd Glazing", "domains": ["drozd.example"]}, "o2": {"name": "Castellow Heating", "domains": ["castellow.example"]}, "o3": {"name": "Vidrios Alborada", "domains": ["alborada.example"]}}
PEOPLE = {"p1": {"name": "Pavel Drozd", "addresses": ["pavel@drozd.example"], "organisation": "o1"}, "p2": {"name": "Gwen Castellow", "addresses": ["gwen@castellow.example"], "organisation": "o2"}}


@dataclass
class Outside:
    """One other side. given: settings that lead there; wrong: settings that it does not let in, or None. held: what it holds, one entry a thing. texts: all that it holds, as one text.
    doubled: how many things it holds twice."""

    subject: str
    server: ThreadingHTTPServer
    given: dict[str, Any]
    wrong: dict[str, Any] | None
    moods: Moods
    held: Callable[[], list[Any]]
    doubled: Callable[[], int]
    world: Any
    target: str = ""

    @property
    def place(self) -> str:
        """host:port, to be allowed as a place inside."""
        return f"127.0.0.1:{self.server.server_address[1]}"

    def texts(self) -> str:
        return repr(self.held())


def _tracker() -> Outside:
    server, world = local.serve(tracker.Tracker("tt-key"))
    given = {"address": f"http://127.0.0.1:{server.server_address[1]}/", "token": "tt-key", "project": "glasshouse"}
    return Outside("action", server, given, given | {"token": "stale"}, world.moods, lambda: list(world.tasks.values()), lambda: world.made - len(set(world.by_key.values())), world)


def _webhook() -> Outside:
    server, world = listener.serve(SECRET)

    def held() -> list[Any]:
        """What a listener would have, who takes out what it is told is gone."""
        kept: dict[str, Any] = {}
        for one in world.heard.values():
            subject, _, happened = one["type"].partition(".")
            key = one["data"].get("id") or one["data"].get("meeting", {}).get("id")
            if happened == "gone":
                kept.pop(f"{subject} {key}", None)
            elif key:
                kept[f"{subject} {key}"] = one["data"]
        return list(kept.values())

    given = {"address": f"http://127.0.0.1:{server.server_address[1]}/", "secret": SECRET}
    return Outside("action", server, given, given | {"secret": "whsec_" + "QUJD" * 8}, world.moods, held, lambda: 0, world)


def _chat() -> Outside:
    server, world = local.serve(chat.Chat("ct-key"))
    given = {"address": f"http://127.0.0.1:{server.server_address[1]}/", "token": "ct-key"}
    return Outside("action", server, given, given | {"token": "stale"}, world.moods, lambda: list(world.messages.values()), lambda: world.made - len(set(world.by_key.values())), world, "room r1")


def _customers() -> Outside:
    server, world = local.serve(customers.Customers("kt-key", ORGANISATIONS, PEOPLE))
    given = {"address": f"http://127.0.0.1:{server.server_address[1]}/", "token": "kt-key"}
    return Outside("minutes", server, given, given | {"token": "stale"}, world.moods, lambda: list(world.log.values()), lambda: world.made - len(set(world.by_key.values())), world, "o1")


def _folder() -> Outside:
    lying, moods = Path(tempfile.mkdtemp()), Moods()
    server = folder.start(free_port(19300), lying, {"garden": "clover-42"}, moods)
    server.shutdown, server.server_address = server.stop, server.bind_addr
    given = {"address": f"http://127.0.0.1:{server.bind_addr[1]}/", "username": "garden", "password": "clover-42", "minutes_as": "md"}

    def held() -> list[str]:
        return [path.read_text() for path in lying.rglob("*") if path.is_file()]

    return Outside("minutes", server, given, given | {"password": "stale"}, moods, held, lambda: sum("(2)" in path.name for path in lying.rglob("*")), lying)


def _store() -> Outside:
    server, world = store.serve("garden", "clover-42", "minutes")
    given = {"address": f"http://127.0.0.1:{server.server_address[1]}/", "bucket": "minutes", "key": "garden", "secret": "clover-42", "minutes_as": "md"}
    return Outside("minutes", server, given, given | {"secret": "stale"}, world.moods, lambda: [data.decode() for data in world.objects.values()], lambda: sum("(2)" in name for name in world.objects), world)


OUTSIDES: dict[str, Callable[[], Outside]] = {"tracker": _tracker, "chat": _chat, "customers": _customers, "folder": _folder, "store": _store, "webhook": _webhook}
"""Kind → its other side."""

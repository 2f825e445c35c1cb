"""The page that says how a connection is written, followed to the letter: its file is the page's, its line is added, and the contract holds."""

from __future__ import annotations

import re
import sys
from types import ModuleType
from typing import Any

import pytest

from server.connections.kinds import KINDS
from server.connections.kinds.base import Kind
from standins.local import Asked, Interface, Refusal, serve
from tests.conftest import ROOT
from tests.outside import Outside
from tests.server import test_connections as contract

pytestmark = pytest.mark.django_db
PAGE = (ROOT / "docs" / "connections.md").read_text(encoding="utf-8")


class Board(Interface):
    """The other side."""

    def __init__(self, token: str) -> None:
        super().__init__(token)
        self.notices: dict[str, dict[str, Any]] = {}
        self.by_key: dict[str, str] = {}

    def board(self, asked: Asked) -> Any:
        return {"name": "Potting shed"}

    def hang(self, asked: Asked) -> Any:
        key = f"n{len(self.keys)}"
        self.notices[key] = {"id": key, "text": asked.body["text"]}
        self.by_key[asked.headers["idempotency-key"]] = key
        return 201, self.notices[key]

    def hanging(self, asked: Asked) -> Any:
        found = self.notices.get(self.by_key.get(asked.query["key"], ""))
        return {"notices": [found] if found else []}

    def change(self, asked: Asked) -> Any:
        if asked.names[0] not in self.notices:
            raise Refusal(404, "It was taken down.")
        self.notices[asked.names[0]]["text"] = asked.body["text"]
        return self.notices[asked.names[0]]

    def take_down(self, asked: Asked) -> Any:
        self.notices.pop(asked.names[0], None)
        return 204, None

    routes = (("GET", "/board", board), ("POST", "/notices", hang), ("GET", "/notices", hanging), ("PATCH", "/notices/(.+)", change), ("DELETE", "/notices/(.+)", take_down))


@pytest.fixture
def outside(settings, monkeypatch):
    [name, code] = re.search(r"`server/connections/kinds/(\w+)\.py`:\n\n```python\n(.*?)```", PAGE, re.S).groups()
    module = ModuleType(f"server.connections.kinds.{name}")
    monkeypatch.setitem(sys.modules, module.__name__, module)  # where annotations are looked up
    exec(compile(code, f"docs/connections.md: {name}.py", "exec"), module.__dict__)
    [written] = [one for one in vars(module).values() if isinstance(one, type) and issubclass(one, Kind) and one is not Kind]
    monkeypatch.setitem(KINDS, written.name, written)  # the line
    server, world = serve(Board("bt-key"))
    given = {"address": f"http://127.0.0.1:{server.server_address[1]}/", "token": "bt-key"}
    found = Outside("action", server, given, given | {"token": "stale"}, world.moods, lambda: list(world.notices.values()), lambda: 0, world)
    found.kind, settings.INSIDE = written.name, {found.place}
    yield found
    server.shutdown()


@pytest.mark.parametrize("asked", [name for name in vars(contract) if name.startswith("test_") and "outside" in getattr(contract, name).__code__.co_varnames[: getattr(contract, name).__code__.co_argcount]])
def test_the_contract_holds_for_a_kind_written_by_the_page(asked, outside, request):
    test = getattr(contract, asked)
    wanted = test.__code__.co_varnames[: test.__code__.co_argcount]
    test(**{name: outside if name == "outside" else request.getfixturevalue(name) for name in wanted})

"""What kinds share whose other side has an interface of JSON, let in by a token (`docs/outside.md`)."""

from __future__ import annotations

from typing import Any, ClassVar
from urllib.parse import urljoin

from core.problems import InputProblem
from server.connections.kinds.base import Kind, Receipt
from server.connections.kinds.speaking import Speaker


class Spoken(Kind):
    """Its settings have `address` and `token`. strange: what is said of an answer that is none of such a system's; nameless: of one that does not say
    what was made."""

    strange: ClassVar[str]
    nameless: ClassVar[str]
    settings: Any

    def speaker(self) -> Speaker:
        """Whom to ask."""
        return Speaker(self.settings.address, self.settings.token)

    def ask(self, method: str, path: str, **asked: Any) -> dict[str, Any]:
        """One request, and what it answers. Raises Trouble, Denied, InputProblem."""
        said = self.speaker().json(method, path, **asked)
        if not isinstance(said, dict):
            raise InputProblem(f"{self.strange} Check the address.")
        return said

    def receipt(self, said: dict[str, Any], mark: str = "") -> Receipt:
        """Of what was made, as it is answered. Raises InputProblem."""
        if not isinstance(said.get("id"), str):
            raise InputProblem(f"{self.nameless} Check the address.")
        url = said.get("url")
        return Receipt(said["id"], urljoin(self.settings.address, url) if isinstance(url, str) else "", mark)


def rows_in(said: dict[str, Any], name: str) -> list[dict[str, Any]]:
    """The rows of an answer that have a key; what else stands there is passed over."""
    rows = said.get(name)
    return [one for one in rows if isinstance(one, dict) and isinstance(one.get("id"), str)] if isinstance(rows, list) else []

"""The API, and the OpenAPI document that tells all it answers."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any

from ninja import NinjaAPI

from server.accounts.scopes import OPEN
from server.streamed import streamed

_PROBLEM = {
    "title": "Problem",
    "description": "What is wrong and what to do (RFC 9457).",
    "type": "object",
    "required": ["type", "title", "status", "detail"],
    "properties": {
        "type": {"type": "string"},
        "title": {"type": "string"},
        "status": {"type": "integer"},
        "detail": {"type": "string"},
    },
    "additionalProperties": True,
}
_TOKEN = "token"
"""How the document calls the way in by a token."""
_CONTENT = {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}}
_ERRORS = {
    "4XX": {"description": "Refused: what is wrong, and what to do.", "content": _CONTENT},
    "503": {"description": "The database does not answer just now. Try again.", "content": _CONTENT},
}


class Api(NinjaAPI):
    """Ninja's, whose document also has the errors, since every operation may answer with a problem, and what is told to others (webhooks: those, and the
    schemas they refer to)."""

    def __init__(self, *, webhooks: Callable[[], tuple[dict[str, Any], dict[str, Any]]], **options: Any) -> None:
        super().__init__(**options)
        self._webhooks = webhooks

    def get_openapi_schema(self, **options: Any) -> Any:
        """The document (OpenAPI 3.1)."""
        document = super().get_openapi_schema(**options)
        document["components"]["schemas"]["Problem"] = _PROBLEM
        for path, verbs in streamed().items():
            document["paths"].setdefault(path, {}).update(verbs)
        document["webhooks"], schemas = self._webhooks()
        document["components"]["schemas"].update(schemas)
        document["components"].setdefault("securitySchemes", {})[_TOKEN] = {"type": "http", "scheme": "bearer"}
        for path, verbs in document["paths"].items():
            for method, operation in verbs.items():
                operation["responses"] = {**operation["responses"], **_ERRORS}
                # The scopes of a token of which one leads there; without any, the operation is for people who are signed in.
                if scopes := [str(scope) for scope, operations in OPEN.items() if f"{method.upper()} {path}" in operations]:
                    operation["security"] = [*operation.get("security", []), *({_TOKEN: [scope]} for scope in scopes)]
        return document


def answers(*kinds: str) -> dict:
    """For an operation that answers with a file: `openapi_extra` with its media types."""
    return {"responses": {200: {"description": "OK", "content": {_plain(kind): _schema(_plain(kind)) for kind in kinds}}}}


def forms(kinds: Iterable[str]) -> dict:
    """The same for one that answers with one of several."""
    return answers(*dict.fromkeys(kinds))


def _schema(kind: str) -> dict:
    """A file of JSON is read as JSON by whoever reads the document; what is in it, its own format says."""
    return {"schema": {"type": "object"} if kind == "application/json" else {"type": "string", "format": "binary"}}


def _plain(kind: str) -> str:
    return kind.split(";")[0]

"""The catalogue of events: what is told, by what name, and what is in it. It stands in the API document as its webhooks (OpenAPI 3.1)."""

from __future__ import annotations

from typing import Any

from ninja import Schema
from pydantic.json_schema import models_json_schema

from server.connections.models import Happened, Subject
from server.connections.subjects import THINGS

_WORDS = {
    Subject.MINUTES: "the minutes of a meeting",
    Subject.RECORD: "the record of a meeting",
    Subject.ACTION: "an action",
    Subject.DECISION: "a decision",
    Subject.EXCERPT: "an excerpt",
    Subject.ANSWER: "what a field is to hold",
}
_HAPPENED = {Happened.MADE: "There are now: {}", Happened.CHANGED: "Something else is said now by {}", Happened.GONE: "Not to be kept any more: {}"}


class Gone(Schema):
    """What is not there any more: its key, as it was told before."""

    id: str


def event_of(subject: Subject, happened: Happened) -> str:
    """The name of an event."""
    return f"{subject}.{happened}"


def catalogue() -> dict[str, tuple[str, type[Schema]]]:
    """Name of an event → what it tells, and the schema of its data."""
    return {
        event_of(subject, happened): (_HAPPENED[happened].format(_WORDS[subject]), Gone if happened == Happened.GONE else THINGS[subject].contents)
        for subject in map(Subject, THINGS)
        for happened in Happened
    }


def webhooks() -> tuple[dict[str, Any], dict[str, Any]]:
    """For the API document: its webhooks, and the schemas they refer to."""
    found = catalogue()
    kinds = list(dict.fromkeys(schema for _, schema in found.values()))
    names, defined = models_json_schema([(kind, "serialization") for kind in kinds], ref_template="#/components/schemas/{model}")
    events = {}
    for name, (words, schema) in found.items():
        message = {
            "type": "object",
            "required": ["type", "timestamp", "data"],
            "properties": {"type": {"const": name}, "timestamp": {"type": "string", "format": "date-time"}, "data": names[(schema, "serialization")]},
        }
        events[name] = {
            "post": {
                "summary": words,
                "operationId": f"told {name}",
                "tags": ["events"],
                "parameters": [_header("webhook-id", "The same at every try of the same words."), _header("webhook-timestamp", "Seconds since 1970."), _header("webhook-signature", "As Standard Webhooks 1.0.0 has it.")],
                "requestBody": {"required": True, "content": {"application/json": {"schema": message}}},
                "responses": {"2XX": {"description": "It was taken. Anything else is tried again."}},
            }
        }
    return events, defined.get("$defs", {})


def _header(name: str, what: str) -> dict[str, Any]:
    return {"name": name, "in": "header", "required": True, "description": what, "schema": {"type": "string"}}

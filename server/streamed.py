"""What of the API takes or gives bytes and events: Django's own views, which Ninja does not know, for the OpenAPI document."""

from __future__ import annotations

import re
from typing import Any

BYTES = "bytes"
"""The tag of operations whose bodies are bytes or events and not JSON: Django's own views, which Ninja does not know."""


def _in_path(*names: str) -> list[dict]:
    return [{"name": name, "in": "path", "required": True, "schema": {"type": "string", "format": "uuid"}} for name in names]


def _header(name: str, what: str, required: bool = True) -> dict:
    return {"name": name, "in": "header", "required": required, "description": what, "schema": {"type": "string"}}


def _says(status: int, what: str, *kinds: str, **headers: str) -> dict:
    answer: dict[str, Any] = {"description": what}
    if kinds:
        answer["content"] = {kind: {"schema": {"type": "string", "format": "binary"}} for kind in kinds}
    if headers:
        answer["headers"] = {name.replace("_", "-"): {"description": said, "schema": {"type": "string"}} for name, said in headers.items()}
    return {str(status): answer}


_TUS = _header("Tus-Resumable", "1.0.0")
_RANGE = _header("Range", "One range of bytes (RFC 9110, section 14); without it, all.", required=False)


def _played(what: str, *kinds: str) -> dict:
    return {
        "get": {
            "summary": what,
            "parameters": [_RANGE],
            "responses": _says(200, "All of it.", *kinds)
            | _says(206, "The range that was asked for.", *kinds, Content_Range="Which bytes these are."),
        }
    }


_STREAMED: dict[str, dict[str, dict]] = {
    "/api/uploads": {
        "post": {
            "summary": "Begin an upload (tus 1.0.0, creation).",
            "parameters": [
                _TUS,
                _header("Upload-Length", "Bytes that will come."),
                _header("Upload-Metadata", "`filename` and its name in base64.", False),
            ],
            "responses": _says(201, "Made.", Location="Where its bytes go."),
        },
        "options": {
            "summary": "What is spoken here.",
            "responses": _says(204, "Said.", Tus_Version="1.0.0", Tus_Extension="creation,termination"),
        },
    },
    "/api/uploads/{upload_id}": {
        "head": {
            "summary": "How much has arrived.",
            "parameters": [_TUS],
            "responses": _says(200, "So much.", Upload_Offset="Bytes there.", Upload_Length="Bytes in all."),
        },
        "patch": {
            "summary": "The next piece.",
            "parameters": [_TUS, _header("Upload-Offset", "Where it goes: as much as has arrived.")],
            "requestBody": {"content": {"application/offset+octet-stream": {"schema": {"type": "string", "format": "binary"}}}},
            "responses": _says(204, "It is on disk.", Upload_Offset="Bytes there now."),
        },
        "delete": {"summary": "Give it up (tus 1.0.0, termination).", "parameters": [_TUS], "responses": _says(204, "It is gone.")},
    },
    "/api/meetings/{meeting_id}/sound": _played("The listening copy.", "audio/webm"),
    "/api/meetings/{meeting_id}/video": _played("The recording as it was given, where it has a picture.", "video/mp4", "video/webm"),
    "/api/excerpts/{excerpt_id}/sound": _played("The sound of an excerpt, and of nothing else.", "audio/webm"),
    "/api/linked/{token}/sound": _played("The sound of the meeting that a link leads to, where it goes with the link.", "audio/webm"),
    "/api/linked/{token}/sound/{place}": _played("The sound of the excerpt at a place of what a link leads to.", "audio/webm"),
    "/api/meetings/{meeting_id}/sound.{form}": {
        "get": {
            "summary": "A copy of the sound that was asked for and is ready; `video`: the recording as it is.",
            "parameters": [{"name": "form", "in": "path", "required": True, "schema": {"enum": ["opus", "flac", "wav", "mp3", "video"]}}],
            "responses": _says(200, "The file.", "audio/ogg", "audio/flac", "audio/wav", "audio/mpeg", "video/mp4"),
        }
    },
    "/api/meetings/{meeting_id}/events": {
        "get": {
            "summary": "Which parts of the meeting are new, as it happens (server-sent events).",
            "responses": _says(200, "A stream.", "text/event-stream"),
        }
    },
}


def streamed() -> dict[str, dict[str, dict]]:
    """Path → verb → operation, each with its tag and the keys that are in its address."""
    paths: dict[str, dict[str, dict]] = {}
    for path, verbs in _STREAMED.items():
        keys = _in_path(*(key for key in re.findall(r"{(\w+)}", path) if key != "form"))
        paths[path] = {
            verb: {**operation, "tags": [BYTES], "operationId": f"{verb} {path}", "parameters": [*keys, *operation.get("parameters", [])]}
            for verb, operation in verbs.items()
        }
    return paths

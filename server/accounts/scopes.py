"""What a program may do that comes in by a token: what is named here, and nothing else. A path is as the API document has it."""

from __future__ import annotations

import re
from functools import cache

from server.accounts.models import TokenScope

OPEN: dict[TokenScope, tuple[str, ...]] = {
    TokenScope.READ: (
        "GET /api/me",
        "GET /api/library",
        "GET /api/search",
        "GET /api/series/{series_id}",
        "GET /api/shelves",
        "GET /api/shelves/{shelf_id}",
        "GET /api/meetings/{meeting_id}",
        "GET /api/meetings/{meeting_id}/progress",
        "GET /api/meetings/{meeting_id}/record",
        "GET /api/meetings/{meeting_id}/record.{form}",
        "GET /api/meetings/{meeting_id}/minutes",
        "GET /api/meetings/{meeting_id}/minutes.{form}",
        "GET /api/meetings/{meeting_id}/airtime",
        "GET /api/meetings/{meeting_id}/comments",
        "GET /api/meetings/{meeting_id}/events",
        "GET /api/meetings/{meeting_id}/sound",
        "GET /api/excerpts/{excerpt_id}",
        "GET /api/excerpts/{excerpt_id}/sound",
        "GET /api/ledger",
        "GET /api/ledger/{matter_id}",
        "GET /api/ledger/out/{form}",
    ),
    TokenScope.GIVE: (
        "OPTIONS /api/uploads",
        "POST /api/uploads",
        "HEAD /api/uploads/{upload_id}",
        "PATCH /api/uploads/{upload_id}",
        "DELETE /api/uploads/{upload_id}",
        "POST /api/meetings",
        "POST /api/fetched",
        "GET /api/fetched/{fetched_id}",
        "GET /api/meetings/{meeting_id}/progress",
    ),
    TokenScope.WRITE: (
        "PATCH /api/meetings/{meeting_id}",
        "POST /api/meetings/{meeting_id}/minutes/lines",
        "PATCH /api/minutes/lines/{line_id}",
        "POST /api/meetings/{meeting_id}/comments",
        "PATCH /api/comments/{comment_id}",
        "POST /api/meetings/{meeting_id}/excerpts",
        "POST /api/connections/{connection_id}/send",
    ),
    TokenScope.LEDGER: (
        "POST /api/meetings/{meeting_id}/actions",
        "PATCH /api/minutes/findings/{finding_id}",
        "POST /api/ledger/steps/{step_id}",
    ),
}
"""TokenScope → operations. What signs in, manages, deletes, strikes, gives links or makes tokens is done by people."""


def needed(method: str, path: str) -> frozenset[TokenScope]:
    """The scopes of which one is needed; none where a token does not lead there."""
    return frozenset(scope for scope, patterns in _compiled() for its, pattern in patterns if its == method and pattern.fullmatch(path))


@cache
def _compiled() -> list[tuple[TokenScope, list[tuple[str, re.Pattern[str]]]]]:
    found = []
    for scope, operations in OPEN.items():
        split = [one.split(" ") for one in operations]
        found.append((scope, [(method, re.compile(re.sub(r"{\w+}", "[^/.]+", path).replace(".[", r"\.["))) for method, path in split]))
    return found

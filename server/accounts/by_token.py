"""Programs that come in by a token (RFC 6750): as the member whose it is, and only where its scopes lead."""

from __future__ import annotations

import hashlib
from datetime import timedelta
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from django.utils.deprecation import MiddlewareMixin

from server.accounts.models import Token
from server.accounts.scopes import needed
from server.problems import problem

PREFIX = "aft_"
"""Begins every token, so that one that lies where it should not is found."""
_NOTED = timedelta(minutes=5)


def digest_of(token: str) -> str:
    """By which it is found."""
    return hashlib.sha256(token.encode()).hexdigest()


class ByToken(MiddlewareMixin):
    """Middleware, behind the one for sessions: a token counts instead of these, so that no page elsewhere can make use of it."""

    def process_request(self, request: HttpRequest) -> HttpResponse | None:
        """Who comes, or the refusal."""
        kind, _, given = request.headers.get("Authorization", "").partition(" ")
        if kind.lower() != "bearer" or not request.path.startswith("/api/") or request.path == "/api/metrics":
            return None
        token = Token.objects.select_related("membership__user", "membership__workspace").filter(digest=digest_of(given.strip())).first()
        now = timezone.now()
        if token is None or token.revoked_at or token.until <= now:
            return _refused(401, "This token is not known, has ended or was taken back. Make another one under Connections.", 'error="invalid_token"')
        wanted = needed(request.method or "", request.path)
        if not wanted:
            return _refused(403, "No token leads here: this is done by people who are signed in.", 'error="insufficient_scope"')
        if wanted.isdisjoint(token.scopes):
            return _refused(403, f"This token lacks the scope {' or '.join(sorted(wanted))}. Make one that has it.", 'error="insufficient_scope"')
        if token.used_at is None or now - token.used_at > _NOTED:
            Token.objects.filter(pk=token.pk).update(used_at=now)
        came: Any = request
        # There is no cookie in it that a page elsewhere could have sent along.
        came.user, came.token, came._dont_enforce_csrf_checks = token.membership.user, token, True
        return None


def _refused(status: int, words: str, why: str) -> HttpResponse:
    answer = problem(status, words)
    answer["WWW-Authenticate"] = f"Bearer {why}"
    return answer

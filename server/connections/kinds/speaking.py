"""Speaking to other sides by HTTP and JSON: what goes wrong is told apart into what may work later and what will not."""

from __future__ import annotations

import json
from datetime import UTC, datetime
from email.utils import parsedate_to_datetime
from typing import Any
from urllib.parse import urljoin, urlsplit

import requests

from core.problems import InputProblem
from server.connections.kinds.base import Denied, Missing, NotLetIn, Touched, Trouble, shortened
from server.outward import NotAllowed, Outward, trouble_of

MOST = 2 * 1024 * 1024
"""Bytes of an answer that are read: none of ours is larger."""
_LATER = frozenset({408, 425, 429, 500, 502, 503, 504, 507, 509})
"""Answers after which it is worth while to try again (RFC 9110, 15; 6585; 8470; 4918)."""
_LONGEST_WAIT = 6 * 3600.0


class Speaker:
    """Requests to one other side. token: sent as a bearer token (RFC 6750); auth: how else it is let in."""

    def __init__(self, address: str, token: str = "", auth: Any = None) -> None:
        self.address = address if address.endswith("/") else f"{address}/"
        self.host = urlsplit(address).hostname or ""
        self._session = Outward(most=MOST)
        self._session.auth = auth or (_Bearer(token) if token else None)

    def ask(self, method: str, path: str = "", *, said: Any = None, data: bytes | None = None, key: str = "", headers: dict[str, str] | None = None) -> requests.Response:
        """One request. said: as JSON; data: as it is; key: an idempotency key. Raises Trouble, Denied and what it is more exactly."""
        sent = dict(headers or {})
        if key:
            sent["Idempotency-Key"] = key
        if said is not None:
            data, sent["Content-Type"] = json.dumps(said).encode(), "application/json"
        where = self.address if not path else urljoin(self.address, path)
        try:
            answer = self._session.request(method, where, data=data, headers=sent, allow_redirects=False)
        except NotAllowed as error:
            raise Denied(str(error)) from error
        except (OSError, ValueError) as error:  # every fault of requests is one of the two
            raise Trouble(trouble_of(error, self.host)) from error
        if answer.is_redirect:  # what we say is for whoever was named, and for nobody whom they name
            raise Denied(f"{self.host} sends us on to {urlsplit(answer.headers.get('Location', '')).hostname or 'another address'}. Name that address itself, if it is the right one.")
        if answer.status_code >= 400:
            raise self._refusal(answer)
        return answer

    def json(self, method: str, path: str = "", **asked: Any) -> Any:
        """The same, for an answer of JSON. Raises Trouble where half of it is missing."""
        answer = self.ask(method, path, **asked)
        if not answer.content:
            return {}
        try:
            return answer.json()
        except ValueError as error:
            raise Trouble(f"What {self.host} answers cannot be read: it is cut off, or no JSON. It is tried again.") from error

    def _refusal(self, answer: requests.Response) -> InputProblem:
        status, said = answer.status_code, _words(answer)
        told = f"{self.host} answers {status}{f': {said}' if said else ''}"
        if status in _LATER:
            return Trouble(f"{told}. It is tried again.", after=_wait(answer))
        if status in (401, 403):
            return NotLetIn(f"{self.host} does not let this connection in ({status}{f': {said}' if said else ''}). Check its credentials; they may have been taken back there.")
        if status in (404, 410):
            return Missing(f"{told}. There is no such thing there (any more).")
        if status in (409, 412):
            return Touched(f"{told}. It was changed there meanwhile.")
        return Denied(f"{told}.")


class _Bearer(requests.auth.AuthBase):
    def __init__(self, token: str) -> None:
        self._token = token

    def __call__(self, request: requests.PreparedRequest) -> requests.PreparedRequest:
        request.headers["Authorization"] = f"Bearer {self._token}"
        return request


def _words(answer: requests.Response) -> str:
    """What an answer says went wrong: of a problem document (RFC 9457) its detail."""
    try:
        said = answer.json()
        words = next((said[name] for name in ("detail", "title", "message", "error") if isinstance(said.get(name), str)), "") if isinstance(said, dict) else ""
    except ValueError:
        words = answer.text if answer.headers.get("Content-Type", "").startswith("text/plain") else ""
    return shortened(words, 200).rstrip(".")


def _wait(answer: requests.Response) -> float:
    """Retry-After (RFC 9110, 10.2.3), in seconds."""
    said = answer.headers.get("Retry-After", "").strip()
    if said.isdigit():
        return min(float(said), _LONGEST_WAIT)
    try:
        moment = parsedate_to_datetime(said)
        return min(max(0.0, (moment - datetime.now(moment.tzinfo or UTC)).total_seconds()), _LONGEST_WAIT)
    except (ValueError, TypeError):
        return 0.0

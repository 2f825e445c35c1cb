"""Errors of the API, as RFC 9457 problem details."""

from __future__ import annotations

import logging
import re
from collections.abc import Callable
from http import HTTPStatus
from inspect import iscoroutinefunction
from typing import Any

from django.core.exceptions import BadRequest, SuspiciousOperation
from django.db import DataError, InterfaceError, OperationalError
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse, UnreadablePostError
from django.http.multipartparser import MultiPartParserError
from django.utils.decorators import sync_and_async_middleware
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, ValidationError

from core.problems import InputProblem
from server.languages import said, translated

logger = logging.getLogger("server.api")


class Refused(Exception):
    """An action that is not to be done: its status, what is wrong and what to do, and facts for the client."""

    def __init__(self, status: int, detail: str, **facts: Any) -> None:
        super().__init__(detail)
        self.status, self.detail, self.facts = status, detail, facts


def not_allowed(detail: str) -> Refused:
    """The person may see it, and may not do this."""
    return Refused(403, detail)


def problem(status: int, detail: str, **facts: Any) -> JsonResponse:
    """A problem-details response, in the language of whoever asks."""
    body = {"type": "about:blank", "title": HTTPStatus(status).phrase, "status": status, "detail": translated(detail), **facts}
    return JsonResponse(body, status=status, content_type="application/problem+json")


AWAY = (OperationalError, InterfaceError)
"""What says that the database cannot be asked just now."""


def away() -> JsonResponse:
    """The answer while the database is away: at once, so that whoever asks can try again soon."""
    answer = problem(503, "The database does not answer just now. Nothing was changed; try again in a moment.")
    answer["Retry-After"] = "2"
    return answer


_BINARY = re.compile(r"^/api/(uploads/|letters/stop/|captures/[^/]+/stretches/[^/]+/(chunks|pictures)/)")
"""Addresses whose bodies are not JSON: bytes, and what mail programs post (RFC 8058), of which nothing is read."""
UNREADABLE = (SuspiciousOperation, BadRequest, UnreadablePostError, MultiPartParserError)


@sync_and_async_middleware
def boundary(get_response: Callable) -> Callable:
    """Middleware: bodies are JSON but where they are bytes, and every view says the same while the database is away."""
    handle: Any
    if iscoroutinefunction(get_response):

        async def handle_async(request: HttpRequest) -> HttpResponse:
            return _unwanted(request) or await get_response(request)

        handle = handle_async
    else:

        def handle_sync(request: HttpRequest) -> HttpResponse:
            return _unwanted(request) or get_response(request)

        handle = handle_sync
    handle.process_exception = _of_exception
    return handle


def _unwanted(request: HttpRequest) -> HttpResponse | None:
    """The refusal of a body that is no JSON: a form, which a page elsewhere could send as well, is read by nobody."""
    written = request.path.startswith("/api/") and not _BINARY.match(request.path)
    if written and int(request.META.get("CONTENT_LENGTH") or 0) and request.content_type != "application/json":
        return problem(415, "Send JSON (Content-Type: application/json).")
    return None


def _of_exception(request: HttpRequest, error: Exception) -> HttpResponse | None:
    """Asked by Django for what a view raised."""
    if isinstance(error, UNREADABLE):
        return problem(400, "What was sent cannot be read.")
    return away() if isinstance(error, AWAY) else None


def install(api: NinjaAPI) -> None:
    """Make every error of the API a problem document."""

    @api.exception_handler(Refused)
    def refused(request: HttpRequest, error: Refused) -> HttpResponse:
        return problem(error.status, error.detail, **error.facts)

    @api.exception_handler(InputProblem)
    def bad_input(request: HttpRequest, error: InputProblem) -> HttpResponse:
        return problem(422, str(error))

    @api.exception_handler(ValidationError)
    def invalid(request: HttpRequest, error: ValidationError) -> HttpResponse:
        fields = [
            {"field": ".".join(str(part) for part in one["loc"][1:] if part not in ("payload", "body")), "detail": translated(one["msg"])}
            for one in error.errors
        ]
        faults = "; ".join(f"{one['field']}: {one['detail']}" if one["field"] else one["detail"] for one in fields)
        return problem(422, said("Some of what was sent cannot be used. {0}", faults), errors=fields)

    @api.exception_handler(AuthenticationError)
    def unknown(request: HttpRequest, error: AuthenticationError) -> HttpResponse:
        return problem(401, "Sign in first.")

    @api.exception_handler(Http404)
    def missing(request: HttpRequest, error: Http404) -> HttpResponse:
        return problem(404, "There is nothing here, or nothing that you may see.")

    @api.exception_handler(OperationalError)
    @api.exception_handler(InterfaceError)
    def no_database(request: HttpRequest, error: Exception) -> HttpResponse:
        return away()

    for kind in UNREADABLE:
        api.add_exception_handler(kind, lambda request, error: problem(400, "What was sent cannot be read."))

    @api.exception_handler(DataError)
    def out_of_bounds(request: HttpRequest, error: DataError) -> HttpResponse:
        return problem(422, "Something that was sent is larger, or of other signs, than can be kept. Look at numbers, dates and texts.")

    @api.exception_handler(Exception)
    def unforeseen(request: HttpRequest, error: Exception) -> HttpResponse:
        logger.exception("%s %s", request.method, request.path)
        return problem(
            500, "Something went wrong on the server. Nothing was changed; try again, and if it happens again, tell whoever runs it."
        )

    @api.exception_handler(HttpError)
    def http(request: HttpRequest, error: HttpError) -> HttpResponse:
        return problem(error.status_code, error.message)

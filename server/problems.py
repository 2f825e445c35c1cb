"""Errors of the API, as RFC 9457 problem details."""

from __future__ import annotations

import logging
from http import HTTPStatus

from django.http import Http404, HttpRequest, JsonResponse
from ninja import NinjaAPI
from ninja.errors import AuthenticationError, HttpError, ValidationError

from core.problems import InputProblem

logger = logging.getLogger("server.api")


class Refused(Exception):
    """An action that is not to be done: its status, what is wrong and what to do, and facts for the client."""

    def __init__(self, status: int, detail: str, **facts):
        super().__init__(detail)
        self.status, self.detail, self.facts = status, detail, facts


def not_allowed(detail: str) -> Refused:
    """The person may see it, and may not do this."""
    return Refused(403, detail)


def problem(status: int, detail: str, **facts) -> JsonResponse:
    """A problem-details response."""
    body = {"type": "about:blank", "title": HTTPStatus(status).phrase, "status": status, "detail": detail, **facts}
    return JsonResponse(body, status=status, content_type="application/problem+json")


def install(api: NinjaAPI) -> None:
    """Make every error of the API a problem document."""

    @api.exception_handler(Refused)
    def refused(request: HttpRequest, error: Refused):
        return problem(error.status, error.detail, **error.facts)

    @api.exception_handler(InputProblem)
    def bad_input(request: HttpRequest, error: InputProblem):
        return problem(422, str(error))

    @api.exception_handler(ValidationError)
    def invalid(request: HttpRequest, error: ValidationError):
        fields = [
            {"field": ".".join(str(part) for part in one["loc"][1:] if part not in ("payload", "body")), "detail": one["msg"]}
            for one in error.errors
        ]
        said = "; ".join(f"{one['field']}: {one['detail']}" if one["field"] else one["detail"] for one in fields)
        return problem(422, f"Some of what was sent cannot be used. {said}", errors=fields)

    @api.exception_handler(AuthenticationError)
    def unknown(request: HttpRequest, error: AuthenticationError):
        return problem(401, "Sign in first.")

    @api.exception_handler(Http404)
    def missing(request: HttpRequest, error: Http404):
        return problem(404, "There is nothing here, or nothing that you may see.")

    @api.exception_handler(Exception)
    def unforeseen(request: HttpRequest, error: Exception):
        logger.exception("%s %s", request.method, request.path)
        return problem(
            500, "Something went wrong on the server. Nothing was changed; try again, and if it happens again, tell whoever runs it."
        )

    @api.exception_handler(HttpError)
    def http(request: HttpRequest, error: HttpError):
        return problem(error.status_code, error.message)

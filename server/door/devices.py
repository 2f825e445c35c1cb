"""A device on which somebody has signed in before is known by a cookie of its own; of another one they are told by mail."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from allauth.account.signals import user_logged_in
from django.core import signing
from django.dispatch import receiver
from django.http import HttpRequest, HttpResponseBase
from django.utils import timezone

from server.accounts.models import User
from server.languages import LONG_HOUR, at, translated
from server.mail.post import post
from server.mail.wording import Kind

_COOKIE, _SALT = "known-here", "known device"
_YEAR = 365 * 24 * 3600
_MOST = 20
"""People who share one browser."""


def _known(request: HttpRequest) -> list[int]:
    try:
        return list(signing.loads(request.COOKIES.get(_COOKIE, ""), salt=_SALT, max_age=_YEAR))
    except signing.BadSignature:
        return []


@receiver(user_logged_in, dispatch_uid="another device")
def _signed_in(sender: object, request: HttpRequest, user: User, **_: object) -> None:
    known = _known(request)
    if user.pk not in known and user.signed_in_before:
        agent = request.META.get("HTTP_USER_AGENT", "")[:200] or partial(translated, "a program that does not say what it is")
        when = partial(at, timezone.now(), LONG_HOUR, "UTC")
        post(Kind.NEW_DEVICE, user.email, when=lambda: f"{when()} UTC", agent=agent, address=request.META.get("REMOTE_ADDR", ""))
    if not user.signed_in_before:
        user.signed_in_before = True
        user.save(update_fields=["signed_in_before"])
    request.known_here = [user.pk, *(one for one in known if one != user.pk)][:_MOST]  # type: ignore[attr-defined]


def remember_device(get_response: Callable[[HttpRequest], HttpResponseBase]) -> Callable[[HttpRequest], HttpResponseBase]:
    """Middleware: the cookie goes with the answer to a sign-in."""

    def answer(request: HttpRequest) -> HttpResponseBase:
        response = get_response(request)
        if known := getattr(request, "known_here", None):
            value = signing.dumps(known, salt=_SALT)
            response.set_cookie(_COOKIE, value, max_age=_YEAR, httponly=True, secure=request.is_secure(), samesite="Lax")
        return response

    return answer

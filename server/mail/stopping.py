"""Mail that comes again and again stops by one click (RFC 8058): the address says which, signed, so that nothing is kept for it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from django.conf import settings
from django.core import signing

from server.problems import Refused

_SALT = "mail that stops"


@dataclass(frozen=True)
class Recurring:
    """A kind of mail that comes again. called: what stops, in words. stop: for a row's key; where the row is gone it has stopped."""

    called: str
    stop: Callable[[int], None]


RECURRING: dict[str, Recurring] = {}
"""Name → kind. Apps behind this one register theirs."""


def stop_token(name: str, key: int) -> str:
    """For whoever gets the mail, and nobody else: it stops this mail and does nothing else, and does not end."""
    return signing.dumps([name, key], salt=_SALT)


def one_click(token: str) -> str:
    """The address that a mail program posts to."""
    return f"{settings.BASE_URL}/api/letters/stop/{token}"


def by_hand(token: str) -> str:
    """The page that a person goes to."""
    return f"{settings.BASE_URL}/stop/{token}"


def read_token(token: str) -> tuple[Recurring, int]:
    """What it stops. Raises Refused."""
    try:
        name, key = signing.loads(token, salt=_SALT)
        return RECURRING[name], int(key)
    except (signing.BadSignature, KeyError, ValueError, TypeError) as error:
        raise Refused(404, "This address stops nothing. Take it whole from the mail, or say in the application what you want by mail.") from error

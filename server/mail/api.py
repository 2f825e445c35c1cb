"""Where mail that comes again is stopped, by a mail program or by hand, without a sign-in."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import Path, Router, Schema

from server.answers import Answer
from server.mail.stopping import read_token

router = Router(tags=["mail"])
Token = Path(max_length=400)


class RecurringOut(Schema):
    """called: what would stop, in words."""

    called: str


@router.get("/stop/{token}", response=RecurringOut)
def what_stops(request: HttpRequest, token: str = Token) -> Answer:
    """What this address stops. Nothing is stopped by looking: programs that check links do that as well."""
    return {"called": read_token(token)[0].called}


@router.post("/stop/{token}", response={204: None})
def stop_mail(request: HttpRequest, token: str = Token) -> Answer:
    """Stop it (RFC 8058, section 3.1: without cookies, without going elsewhere). What was stopped stays so."""
    recurring, key = read_token(token)
    recurring.stop(key)
    return 204, None

"""What somebody without an account sees who follows a link: that one thing, and nothing beside it."""

from __future__ import annotations

from datetime import datetime

from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from ninja import Router, Schema
from pydantic import Field

from server.accounts.current import anybody
from server.answers import Answer
from server.links.models import Link, Scope
from server.links.queries import KEY_FOR, cookie_of, followed, heard_of, note_opening, seen_by_name, shown, unlock, unlocked

router = Router(tags=["links"], auth=anybody)

class PassphraseIn(Schema):
    passphrase: str = Field(max_length=200)


class LinkedSectionOut(Schema):
    heading: str
    lines: list[str]


class LinkedSaidOut(Schema):
    speaker: str
    text: str
    start: float


class ShownExcerptOut(Schema):
    title: str
    place: int
    playable: bool
    said: list[LinkedSaidOut]


class LinkedOut(Schema):
    """locked: a passphrase is wanted first, and nothing else is told. until: when it ends. playable: it can be heard as a whole."""

    locked: bool
    scope: Scope | None = None
    title: str = ""
    when: datetime | None = None
    until: datetime | None = None
    playable: bool = False
    sections: list[LinkedSectionOut] = []
    said: list[LinkedSaidOut] = []
    excerpts: list[ShownExcerptOut] = []


def _quiet(response: HttpResponse) -> None:
    """Nobody finds it by searching, and no page that it leads to learns of it."""
    response["X-Robots-Tag"] = "noindex, nofollow, noarchive"
    response["Referrer-Policy"] = "no-referrer"
    response["Cache-Control"] = "private, no-store"


@router.get("/{token}", response=LinkedOut)
def follow(request: HttpRequest, response: HttpResponse, token: str) -> Answer:
    """What the link leads to, as it stands now."""
    get_token(request)  # with which a passphrase may be given
    _quiet(response)
    link = followed(request, token)
    if not unlocked(request, link):
        return {"locked": True}
    if seen_by_name(link) not in request.COOKIES:  # a page that looks again whether it still leads somewhere is opened once
        note_opening(link)
        _remember(request, response, seen_by_name(link), "1", token)
    return {"locked": False, "scope": link.scope, "until": link.until, "playable": heard_of(link) is not None, **_told(link)}


def _told(link: Link) -> dict:
    found = shown(link)
    sections = [{"heading": heading, "lines": lines} for heading, lines in found.sections]
    return {"title": found.title, "when": found.when, "sections": sections, "said": found.said, "excerpts": found.excerpts}


@router.post("/{token}/unlock", response={204: None})
def give_passphrase(request: HttpRequest, token: str, payload: PassphraseIn) -> Answer:
    """Give the passphrase; it counts in this browser for half a day."""
    link = followed(request, token)
    proof = unlock(request, link, payload.passphrase) if link.passphrase else ""
    answer = HttpResponse(status=204)
    _quiet(answer)
    if proof:
        _remember(request, answer, cookie_of(link), proof, token)
    return answer


def _remember(request: HttpRequest, response: HttpResponse, name: str, value: str, token: str) -> None:
    """In this browser, for half a day, for this link alone."""
    response.set_cookie(name, value, max_age=KEY_FOR, httponly=True, secure=request.is_secure(), samesite="Lax", path=f"/api/linked/{token}")

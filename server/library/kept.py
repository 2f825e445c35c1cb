"""What is new of the searches that members keep."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, datetime
from functools import partial
from typing import Any

from django.conf import settings
from django.utils import timezone

from server.acting import acting
from server.languages import said
from server.library.models import KeptSearch
from server.library.narrow import Narrowed, narrowed
from server.library.search import Order, search
from server.mail.post import post
from server.mail.stopping import stop_token
from server.mail.wording import Kind
from server.meetings.models import Meeting
from server.problems import Refused

_DAYS = ("since", "until")
_MOST, _LISTED = 50, 10


def packed(wanted: Narrowed) -> dict[str, Any]:
    """As it is kept: what was said, and nothing else."""
    said = {name: value for name, value in vars(wanted).items() if value not in (None, "", (), False) and name != "ready_since"}
    return {name: value.isoformat() if isinstance(value, date) else list(value) if isinstance(value, tuple) else value for name, value in said.items()}


def unpacked(kept: dict[str, Any]) -> Narrowed:
    """What `packed` made."""
    said: dict[str, Any] = {name: date.fromisoformat(value) if name in _DAYS else value for name, value in kept.items()}
    return Narrowed(**{**said, "holds": tuple(said.get("holds", ())), "only": tuple(said.get("only", ()))})


def new_of(kept: KeptSearch, since: datetime) -> list[Meeting]:
    """The meetings that match, that its member sees, and that could first be read after a moment, the latest first."""
    wanted = replace(unpacked(kept.wanted), ready_since=since)
    if not kept.words:
        return list(narrowed(kept.membership, wanted).order_by("-started_at")[:_MOST])
    try:
        found = search(kept.membership, kept.words, wanted, Order.NEWEST, page=_MOST, by_meaning=False)
    except Refused:  # words that were struck from it leave nothing to look for
        return []
    return [] if found.alike else [one.meeting for one in found.meetings]


def _titles(found: list[Meeting]) -> str:
    more = [said("and {0} more", len(found) - _LISTED)] if len(found) > _LISTED else []
    return "\n".join(f"– {line}" for line in [*(one.title for one in found[:_LISTED]), *more])


def tell_of_new() -> int:
    """A letter for each search that is to tell and has something new. Returns how many."""
    told = 0
    for kept in KeptSearch.objects.filter(tells=True).select_related("membership__user", "membership__workspace"):
        now = timezone.now()
        if found := new_of(kept, kept.told_at):
            with acting(None, None, "tell of kept search"):
                link = f"{settings.BASE_URL}/library?kept={kept.pk}"
                post(Kind.FOUND, kept.membership.user.email, link=link, workspace=kept.membership.workspace, stop=stop_token("search", kept.pk), name=kept.name, titles=partial(_titles, found))
                KeptSearch.objects.filter(pk=kept.pk).update(told_at=now)
            told += 1
    return told

"""Reminders by mail, and the feed of one's open actions for a calendar."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Router, Schema

from server.accounts.current import membership_of, signed_in
from server.answers import Answer
from server.bounds import Name
from server.document import forms
from server.ledger.actions.wish_reminders import close_feed, open_feed, wish_reminders
from server.ledger.models import Reminders
from server.ledger.outward import FORMATS, written
from server.ledger.queries import View, Wanted
from server.problems import Refused

router = Router(tags=["ledger"], auth=signed_in)
feed_router = Router(tags=["ledger"])


class RemindMeIn(Schema):
    """Of actions of mine: the day before they are due, the day after."""

    before: bool
    after: bool


class RemindersOut(RemindMeIn):
    """feed: the address at which a calendar finds my open actions; whoever knows it sees them."""

    feed: str | None


def _out(wishes: Reminders) -> dict:
    feed = f"{settings.BASE_URL}/api/feeds/{wishes.feed}.ics" if wishes.feed else None
    return {"before": wishes.before, "after": wishes.after, "feed": feed}


@router.get("", response=RemindersOut)
def reminders(request: HttpRequest) -> Answer:
    """What I am reminded of."""
    membership = membership_of(request)
    return _out(Reminders.objects.filter(membership=membership).first() or Reminders(membership=membership))


@router.put("", response=RemindersOut)
def wish(request: HttpRequest, payload: RemindMeIn) -> Answer:
    """Say what I want to be reminded of."""
    return _out(wish_reminders(membership_of(request), payload.before, payload.after))


@router.post("/feed", response=RemindersOut)
def begin_feed(request: HttpRequest) -> Answer:
    """Open the feed, or give it another address."""
    return _out(open_feed(membership_of(request)))


@router.delete("/feed", response={204: None})
def end_feed(request: HttpRequest) -> Answer:
    """Close it; its address leads nowhere any more. It can be opened again at another one."""
    close_feed(membership_of(request))
    return 204, None


@feed_router.get("/{key}.ics", response={200: None}, openapi_extra=forms([FORMATS["ics"]]))
def feed(request: HttpRequest, key: Name) -> HttpResponse:
    """The open actions of whoever has this address, as tasks (RFC 5545); of nothing that they may not see."""
    wishes = Reminders.objects.filter(feed=key).select_related("membership__workspace", "membership__user").first()
    if wishes is None or not wishes.membership.user.is_active:
        raise Refused(404, "There is no such feed, or it was closed.")
    answer = HttpResponse(written("ics", wishes.membership, Wanted(View.OPEN, timezone.now().date(), mine=True)), content_type=FORMATS["ics"])
    answer["Cache-Control"] = "private, max-age=900"
    return answer

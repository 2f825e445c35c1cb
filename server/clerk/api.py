"""The clerk: sent, steered, and what it did."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated
from urllib.parse import urlsplit
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from core.planning.attending import Cause, Standing
from core.planning.joining import Rule
from core.planning.links import Source
from server.accounts.current import membership_of, signed_in
from server.answers import Answer
from server.bounds import Name, Number
from server.calendars.queries import planned_of
from server.clerk.actions.send import send_clerk
from server.clerk.actions.steer import go_off, go_on_again, send_away, strike_lately
from server.clerk.actions.wish import set_rules, wish
from server.clerk.models import Rules, Visit
from server.clerk.queries import current_visits, visit_of
from server.convening.seen import seen

router = Router(tags=["clerk"], auth=signed_in)
meeting_router = Router(tags=["clerk"], auth=signed_in)
planned_router = Router(tags=["clerk"], auth=signed_in)


class VisitChangeOut(Schema):
    at: datetime
    state: Standing
    cause: Cause
    who: str
    words: str


class VisitOut(Schema):
    """why: it goes. wanted_by: for whom, by name. off: it is off the record, or just going there. leaving: it was sent away."""

    id: UUID
    state: Standing
    over: bool
    title: str
    host: str
    starts_at: datetime
    until: datetime
    why: str
    wanted_by: list[str]
    off: bool
    leaving: bool
    meeting: UUID | None
    changes: list[VisitChangeOut]


class PresentOut(Schema):
    """Somebody in the call. here: now."""

    name: str
    here: bool
    came: datetime | None
    left: datetime | None


class InCallOut(Schema):
    visit: VisitOut | None
    people: list[PresentOut]


class SendIn(Schema):
    """link: or the text of an invitation."""

    link: str = Field(min_length=1, max_length=8000)
    passcode: str = Field("", max_length=80)
    title: Name = ""
    minutes: Annotated[int, Field(ge=5, le=12 * 60)] = 180


class RulesIn(Schema):
    rules: list[Rule] = Field(max_length=10)


class WishIn(Schema):
    """wanted: None where the rules are to say. series: all meetings of this event."""

    wanted: bool | None
    series: bool = False


class StrikeLatelyIn(Schema):
    minutes: int = Field(ge=1, le=12 * 60)


class StruckLatelyOut(Schema):
    """seconds: so much went."""

    seconds: float


def shown(visit: Visit) -> dict:
    """A visit as the page shows it."""
    return {
        "id": visit.pk,
        "state": visit.state,
        "over": visit.over,
        "title": visit.meeting.title if visit.meeting else visit.title,
        "host": urlsplit(visit.address).hostname or "",
        "starts_at": visit.starts_at,
        "until": visit.until,
        "why": visit.why,
        "wanted_by": [one.user.called for one in visit.wanted_by.all()],
        "off": visit.paused,
        "leaving": bool(visit.away_by) and not visit.over,
        "meeting": visit.meeting_id,
        "changes": list(visit.changes.all()),
    }


@router.post("", response={201: VisitOut})
def send(request: HttpRequest, payload: SendIn) -> Answer:
    """Send it to a call that runs. Where it is there already, it is there for me too."""
    membership = membership_of(request)
    visit = send_clerk(membership, [Source("address", payload.link)], payload.passcode, payload.title, payload.minutes)
    return 201, shown(visit_of(membership, visit.pk))


@router.get("", response=list[VisitOut])
def visits(request: HttpRequest) -> Answer:
    """Where it is for me, or was today."""
    return [shown(one) for one in current_visits(membership_of(request))]


@router.get("/rules", response=RulesIn)
def rules(request: HttpRequest) -> Answer:
    """To which meetings of my calendars it goes by itself."""
    kept = Rules.objects.filter(membership=membership_of(request)).first()
    return {"rules": sorted(kept.read()) if kept else []}


@router.put("/rules", response=RulesIn)
def keep_rules(request: HttpRequest, payload: RulesIn) -> Answer:
    """Say to which."""
    return {"rules": set_rules(membership_of(request), payload.rules).rules}


@router.post("/{visit_id}/off", response={204: None})
def off(request: HttpRequest, visit_id: UUID) -> Answer:
    """Off the record, from now on; everyone in the call is told."""
    membership = membership_of(request)
    go_off(membership, visit_of(membership, visit_id))
    return 204, None


@router.post("/{visit_id}/on", response={204: None})
def on(request: HttpRequest, visit_id: UUID) -> Answer:
    """On the record again; everyone in the call is told."""
    membership = membership_of(request)
    go_on_again(membership, visit_of(membership, visit_id))
    return 204, None


@router.post("/{visit_id}/strike", response=StruckLatelyOut)
def strike(request: HttpRequest, visit_id: UUID, payload: StrikeLatelyIn) -> Answer:
    """Strike the last minutes, for good; it goes on taking down."""
    membership = membership_of(request)
    return {"seconds": strike_lately(membership, visit_of(membership, visit_id), payload.minutes)}


@router.post("/{visit_id}/away", response={204: None})
def away(request: HttpRequest, visit_id: UUID) -> Answer:
    """It leaves; what was taken is kept."""
    membership = membership_of(request)
    send_away(membership, visit_of(membership, visit_id))
    return 204, None


@planned_router.put("/{planned_id}/clerk", response={204: None})
def wish_for(request: HttpRequest, planned_id: Number, payload: WishIn) -> Answer:
    """Whether it goes to a meeting of my calendar, whatever the rules say."""
    membership = membership_of(request)
    wish(membership, planned_of(membership, planned_id), payload.wanted, series=payload.series)
    return 204, None


@meeting_router.get("/{meeting_id}/clerk", response=InCallOut)
def in_call(request: HttpRequest, meeting_id: UUID) -> Answer:
    """The clerk in this meeting's call, what it did, and who is there."""
    membership, found = seen(request, meeting_id)
    visit = getattr(found, "visit", None)
    people = found.capture.participants.select_related("person") if hasattr(found, "capture") else ()
    return {
        "visit": visit and shown(visit_of(membership, visit.pk)),
        "people": [
            {
                "name": one.called,
                "here": bool(one.moments) and one.moments[-1][1] is None,
                "came": one.moments and datetime.fromtimestamp(one.moments[0][0], UTC) or None,
                "left": datetime.fromtimestamp(one.moments[-1][1], UTC) if one.moments and one.moments[-1][1] else None,
            }
            for one in people
        ],
    }

"""Who gets the minutes, when, and who has got them; what is usual of that."""

from __future__ import annotations

from datetime import datetime
from typing import Literal
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from core.text import folded
from server.accounts.current import membership_of, signed_in
from server.accounts.models import name_of
from server.answers import Answer
from server.audit.log import log
from server.bounds import Name, Number
from server.convening.seen import seen
from server.mail.models import Letter, LetterState
from server.meetings.models import Custom, GoesTo, Going, OwnCustom, Person, Visibility, WorkspaceCustom
from server.sending.actions.say_custom import say_own, say_workspace
from server.sending.actions.send_minutes import SENT_AS, forget_plan, say_plan, send_minutes
from server.sending.queries import Way, sent_from, sent_from_workspace, to_look_over, way_of, way_of_one_to_come
from server.sharing.policy import Can, may, require
from server.sharing.visibility import visible_meetings

router = Router(tags=["sending"], auth=signed_in)
meeting_router = Router(tags=["sending"], auth=signed_in)
customs_router = Router(tags=["sending"], auth=signed_in)

_MOST = 500


class ReceiverOut(Schema):
    """outside: no place in the workspace. reached: an address is known. sent_at: when the minutes last went to them."""

    person: int
    name: str
    organisation: str
    outside: bool
    sees: bool
    reached: bool
    sent_at: datetime | None


class WayOut(Schema):
    """by_hand: said of this meeting; else as is usual. waiting: how many have not got them."""

    receivers: list[ReceiverOut]
    going: Going
    by_hand: bool
    waiting: int


class WayIn(Schema):
    """people: keys of people."""

    people: list[Number] = Field(max_length=2000)
    going: Going


class ToComeIn(Schema):
    series: Name = ""
    visibility: Visibility
    people: list[Name] = Field([], max_length=200)


class SendMinutesIn(Schema):
    people: list[Number] = Field(max_length=2000)
    form: str = Field(SENT_AS[0], max_length=8)


class SentToOut(Schema):
    names: list[str]


class SentLetterOut(Schema):
    """document: in which form one was attached, "" without one. said: by the mail server, where it did not take it."""

    kind: str
    subject: str
    to: str
    by: str
    document: str
    state: LetterState
    said: str
    at: datetime
    meeting: UUID | None
    """None where the asker does not see it; nothing is told of it then but that something of one was sent."""
    meeting_title: str


class ToLookOverOut(Schema):
    meeting: UUID
    title: str
    names: list[str]
    outside: int


class CustomIn(Schema):
    """ "": as is usual otherwise."""

    visibility: Visibility | Literal[""] = ""
    goes_to: GoesTo | Literal[""] = ""
    going: Going | Literal[""] = ""


class CustomsOut(Schema):
    own: CustomIn
    workspace: CustomIn
    may_change: bool
    """The workspace's."""


def _way(way: Way) -> dict:
    receivers = [
        {
            "person": one.person.pk,
            "name": one.person.name,
            "organisation": one.person.organisation,
            "outside": one.outside,
            "sees": one.sees,
            "reached": bool(one.address),
            "sent_at": one.sent_at,
        }
        for one in way.receivers
    ]
    return {"receivers": receivers, "going": way.going, "by_hand": way.by_hand, "waiting": len(way.waiting)}


@meeting_router.get("/{meeting_id}/receivers", response=WayOut)
def receivers(request: HttpRequest, meeting_id: UUID) -> Answer:
    """Who gets its minutes, and when."""
    membership, found = seen(request, meeting_id)
    require(membership, Can.SEND, found)
    return _way(way_of(found))


@meeting_router.put("/{meeting_id}/receivers", response=WayOut)
def say_receivers(request: HttpRequest, meeting_id: UUID, payload: WayIn) -> Answer:
    """Say who gets the minutes of this meeting, and when."""
    membership, found = seen(request, meeting_id)
    say_plan(membership, found, payload.people, payload.going)
    return _way(way_of(found))


@meeting_router.delete("/{meeting_id}/receivers", response=WayOut)
def usual_receivers(request: HttpRequest, meeting_id: UUID) -> Answer:
    """Leave it to what is usual."""
    membership, found = seen(request, meeting_id)
    forget_plan(membership, found)
    return _way(way_of(found))


@meeting_router.post("/{meeting_id}/minutes/send", response=SentToOut)
def send(request: HttpRequest, meeting_id: UUID, payload: SendMinutesIn) -> Answer:
    """Send them, as a document that shows the moment it is of."""
    return {"names": send_minutes(*seen(request, meeting_id), payload.people, payload.form)}


def _letter(letter: Letter, *, seen_by_asker: bool = True) -> dict:
    assert letter.meeting is not None
    return {
        "kind": letter.kind,
        "subject": letter.subject if seen_by_asker else "",
        "to": letter.to,
        "by": name_of(letter.by) if letter.by_id else "",
        "document": letter.attached.partition(" ")[2],
        "state": letter.state,
        "said": letter.said,
        "at": letter.sent_at or letter.queued_at,
        "meeting": letter.meeting_id if seen_by_asker else None,
        "meeting_title": letter.meeting.title if seen_by_asker else "",
    }


@meeting_router.get("/{meeting_id}/sent", response=list[SentLetterOut])
def sent(request: HttpRequest, meeting_id: UUID) -> Answer:
    """What of it went to whom by mail, the latest first."""
    membership, found = seen(request, meeting_id)
    require(membership, Can.SEND, found)
    return [_letter(one) for one in sent_from(found).select_related("meeting")[:_MOST]]


@router.get("/sent", response=list[SentLetterOut])
def sent_by_all(request: HttpRequest) -> Answer:
    """The same of all meetings of the workspace, for those who manage it."""
    membership = membership_of(request)
    require(membership, Can.MANAGE)
    log(membership.workspace, membership.user, "look at what was sent")
    letters = list(sent_from_workspace(membership.workspace)[:_MOST])
    mine = set(visible_meetings(membership).filter(pk__in=[one.meeting_id for one in letters]).values_list("pk", flat=True))
    return [_letter(one, seen_by_asker=one.meeting_id in mine) for one in letters]


@router.post("/receivers", response=WayOut)
def would_get(request: HttpRequest, payload: ToComeIn) -> Answer:
    """Who would get the minutes of a meeting that I make, before it is made."""
    membership = membership_of(request)
    require(membership, Can.SEND)
    people = Person.objects.filter(workspace=membership.workspace, folded__in=[folded(name) for name in payload.people])
    readers = [one.user_id for one in people if one.user_id]
    return _way(way_of_one_to_come(membership, payload.visibility, payload.series, list(people), readers))


@router.get("/to-look-over", response=list[ToLookOverOut])
def waiting(request: HttpRequest) -> Answer:
    """My meetings whose minutes wait to be looked over and sent."""
    found = to_look_over(membership_of(request))
    return [
        {"meeting": meeting.pk, "title": meeting.title, "names": [one.person.name for one in way.waiting], "outside": sum(one.outside for one in way.waiting)}
        for meeting, way in found
    ]


def _custom(custom: Custom | None) -> dict:
    return {field: getattr(custom, field) if custom else "" for field in ("visibility", "goes_to", "going")}


@customs_router.get("", response=CustomsOut)
def customs(request: HttpRequest) -> Answer:
    """What is usual of my meetings, and of all here."""
    membership = membership_of(request)
    require(membership, Can.ADD)
    own = OwnCustom.objects.filter(membership=membership).first()
    common = WorkspaceCustom.objects.filter(workspace=membership.workspace).first()
    return {"own": _custom(own), "workspace": _custom(common), "may_change": may(membership, Can.MANAGE)}


@customs_router.put("/own", response={204: None})
def change_own(request: HttpRequest, payload: CustomIn) -> Answer:
    """Say what is usual of meetings that I make."""
    say_own(membership_of(request), **payload.dict())
    return 204, None


@customs_router.put("/workspace", response={204: None})
def change_workspace_custom(request: HttpRequest, payload: CustomIn) -> Answer:
    """Say what is usual of all here."""
    say_workspace(membership_of(request), **payload.dict())
    return 204, None

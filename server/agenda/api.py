"""The agenda of a meeting, and templates of agendas."""

from __future__ import annotations

from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from server.accounts.current import membership_of, signed_in
from server.agenda.actions.run_agenda import drop_template, keep_template, set_agenda, turn_to
from server.agenda.models import AgendaTemplate
from server.answers import Answer
from server.bounds import Name, Number, Seconds
from server.convening.seen import seen
from server.sharing.policy import Can, require

router = Router(tags=["agenda"], auth=signed_in)
templates_router = Router(tags=["agenda"], auth=signed_in)


class PointIn(Schema):
    text: Name
    minutes: int = Field(ge=1, le=600)


class PointOut(Schema):
    position: int
    text: str
    minutes: int
    begun_at: float | None
    spent: float
    running: bool


class AgendaIn(Schema):
    points: list[PointIn] = Field(max_length=60)


class TurnIn(Schema):
    position: Number | None
    at: Seconds


class TemplateOut(Schema):
    name: str
    points: list[PointIn]


@router.get("/{meeting_id}/agenda", response=list[PointOut])
def agenda(request: HttpRequest, meeting_id: UUID) -> Answer:
    """The points in order: what was planned, and what they took."""
    return list(seen(request, meeting_id)[1].points.all())


@router.put("/{meeting_id}/agenda", response={204: None})
def put_agenda(request: HttpRequest, meeting_id: UUID, payload: AgendaIn) -> Answer:
    """Set the points."""
    set_agenda(*seen(request, meeting_id), [(point.text, point.minutes) for point in payload.points])
    return 204, None


@router.post("/{meeting_id}/agenda/turn", response={204: None})
def turn(request: HttpRequest, meeting_id: UUID, payload: TurnIn) -> Answer:
    """Turn to a point, or past the last one."""
    turn_to(*seen(request, meeting_id), payload.position, payload.at)
    return 204, None


@templates_router.get("", response=list[TemplateOut])
def templates(request: HttpRequest) -> Answer:
    """The agendas kept for kinds of meeting."""
    membership = membership_of(request)
    require(membership, Can.KNOW_TEAM)
    kept = AgendaTemplate.objects.filter(workspace=membership.workspace).order_by("name")
    return [{"name": one.name, "points": [{"text": text, "minutes": minutes} for text, minutes in one.points]} for one in kept]


@templates_router.put("/{name}", response={204: None})
def put_template(request: HttpRequest, name: str, payload: AgendaIn) -> Answer:
    """Keep an agenda under a name."""
    keep_template(membership_of(request), name, [(point.text, point.minutes) for point in payload.points])
    return 204, None


@templates_router.delete("/{name}", response={204: None})
def delete_template(request: HttpRequest, name: str) -> Answer:
    """Take a template away."""
    drop_template(membership_of(request), name)
    return 204, None

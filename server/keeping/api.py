"""For how long what is kept, what goes soon, what is held, and what is kept where."""

from __future__ import annotations

from collections import Counter
from datetime import date, datetime, timedelta
from uuid import UUID

from django.conf import settings
from django.core.cache import cache
from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Schema
from pydantic import Field

from core.planning.retention import What
from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership, name_of
from server.answers import Answer
from server.audit.log import log
from server.bounds import Name, Number
from server.convening.seen import seen
from server.keeping.actions.let_go import BEFORE
from server.keeping.actions.rule import drafted, hold_meeting, lift_hold, say_rule
from server.keeping.models import Announced, KeepingRule
from server.keeping.places import database_bytes, engines, media_kept, meetings_kept, outside_of
from server.keeping.queries import Goes, due, rules_of, what_goes
from server.meetings.models import Hold, Place
from server.problems import Refused
from server.sharing.policy import Can, may, require
from server.sharing.visibility import visible_meetings

router = Router(tags=["keeping"], auth=signed_in)
meeting_router = Router(tags=["keeping"], auth=signed_in)

_SHOWN, _SOON = 60, 30
_FRESH = 600
"""Seconds for which the sizes of files count."""

Days = Field(None, ge=1, le=36_500)


class KeepingRuleIn(Schema):
    """For one of place, shelf, series; for none of them: for all. Days after a meeting; null: kept."""

    place: Place | None = None
    shelf: Number | None = None
    series: Number | None = None
    sound: int | None = Days
    record: int | None = Days
    all: int | None = Days


class KeepingRuleOut(KeepingRuleIn):
    id: int
    called: str
    by: str
    at: datetime


class GoesOut(Schema):
    """title: "" where the asker does not see the meeting."""

    meeting: UUID | None
    title: str
    held_on: datetime
    what: What
    on: date


class WouldGoOut(Schema):
    """now, soon: how much of what goes at the next night's turn, and within thirty days; first: the first of it. told_for: the nights for which
    it is told before anything goes."""

    now: dict[str, int]
    soon: dict[str, int]
    first: list[GoesOut]
    told_for: int = BEFORE


class HoldIn(Schema):
    why: Name = Field(max_length=400)


class KeptForOut(Schema):
    """Of one meeting. goes: what was told of. sound_gone_at, record_gone_at: what was let go of."""

    hold: HoldOut | None
    goes: list[AnnouncedOut]
    sound_gone_at: datetime | None
    record_gone_at: datetime | None
    may_change: bool


class HoldOut(Schema):
    why: str
    by: str
    at: datetime


class AnnouncedOut(Schema):
    what: What
    on: date


class FilesOut(Schema):
    what: str
    files: int
    bytes: int


class OutsideOut(Schema):
    what: str
    host: str
    count: int


class KeptOut(Schema):
    """What is kept where. media_place: "folder" or "elsewhere". database_bytes: of the whole installation."""

    meetings: int
    taken_out: int
    held: int
    seconds: float
    oldest: datetime | None
    newest: datetime | None
    within_month: int
    within_year: int
    media: list[FilesOut]
    media_place: str
    database_bytes: int
    engines: list[str]
    outside: list[OutsideOut]


KeptForOut.model_rebuild()


def _rule(rule: KeepingRule) -> dict:
    return {
        "id": rule.pk,
        "place": rule.place or None,
        "shelf": rule.shelf_id,
        "series": rule.series_id,
        "called": rule.series.name if rule.series else rule.shelf.name if rule.shelf else "",
        "sound": rule.sound,
        "record": rule.record,
        "all": rule.all,
        "by": name_of(rule.said_by),
        "at": rule.said_at,
    }


def _drafted(membership: Membership, payload: KeepingRuleIn) -> KeepingRule:
    require(membership, Can.MANAGE)
    return drafted(membership, **{**payload.dict(), "place": payload.place or ""})


@router.get("/rules", response=list[KeepingRuleOut])
def rules(request: HttpRequest) -> Answer:
    """For how long what is kept here."""
    membership = membership_of(request)
    require(membership, Can.KNOW_TEAM)
    # Of a closed shelf that the asker has no place at, not even the name.
    return [_rule(one) for one in rules_of(membership.workspace) if not (one.shelf and one.shelf.closed) or may(membership, Can.MANAGE)]


@router.put("/rules", response=list[KeepingRuleOut])
def say(request: HttpRequest, payload: KeepingRuleIn) -> Answer:
    """Say for how long; without days the rule goes."""
    membership = membership_of(request)
    say_rule(membership, _drafted(membership, payload))
    return rules(request)


@router.post("/preview", response=WouldGoOut)
def preview(request: HttpRequest, payload: KeepingRuleIn) -> Answer:
    """What would go, and when, if this were said; nothing is changed."""
    membership = membership_of(request)
    draft = _drafted(membership, payload)
    others = [one for one in rules_of(membership.workspace) if one.pk != draft.pk]
    return _goes(membership, [*others, draft])


@router.get("/goes", response=WouldGoOut)
def goes(request: HttpRequest) -> Answer:
    """What goes by the rules as they stand."""
    membership = membership_of(request)
    require(membership, Can.MANAGE)
    return _goes(membership, rules_of(membership.workspace))


def _goes(membership: Membership, known: list[KeepingRule]) -> dict:
    today = timezone.localdate()
    found = sorted(due(what_goes(membership.workspace, known), today + timedelta(days=_SOON)), key=lambda one: one.bite.on)
    runs = {(key, what): count for key, what, count in Announced.objects.filter(meeting__workspace=membership.workspace).values_list("meeting", "what", "runs")}
    titles = dict(visible_meetings(membership).filter(pk__in=[one.meeting.pk for one in found[:_SHOWN]]).values_list("pk", "title"))

    def told(one: Goes) -> dict:
        key = one.meeting.pk
        soonest = today + timedelta(days=BEFORE - runs.get((key, one.bite.what.value), 0))
        return {
            "meeting": key if key in titles else None,
            "title": titles.get(key, ""),
            "held_on": one.meeting.started_at,
            "what": one.bite.what,
            "on": max(one.bite.on, soonest),
        }

    return {
        "now": Counter(one.bite.what for one in found if one.bite.on <= today),
        "soon": Counter(one.bite.what for one in found),
        "first": [told(one) for one in found[:_SHOWN]],
    }


@router.get("/where", response=KeptOut)
def where(request: HttpRequest) -> Answer:
    """What is kept where."""
    membership = membership_of(request)
    require(membership, Can.MANAGE)
    log(membership.workspace, membership.user, "look at what is kept")
    workspace, told = membership.workspace, meetings_kept(membership.workspace)
    media = cache.get_or_set(f"media-kept-{workspace.pk}", lambda: media_kept(workspace), _FRESH) or {}
    return {
        "meetings": told["count"],
        "taken_out": told["taken_out"],
        "held": told["held"],
        "seconds": told["seconds"] or 0.0,
        "oldest": told["oldest"],
        "newest": told["newest"],
        "within_month": told["age_30"],
        "within_year": told["age_365"],
        "media": [{"what": what, "files": files, "bytes": size} for what, (files, size) in media.items()],
        "media_place": "folder" if "FileSystem" in settings.STORAGES["default"]["BACKEND"] else "elsewhere",
        "database_bytes": database_bytes(),
        "engines": engines(),
        "outside": [{"what": one.what, "host": one.host, "count": one.count} for one in outside_of(workspace)],
    }


@meeting_router.get("/{meeting_id}/hold", response=KeptForOut)
def held(request: HttpRequest, meeting_id: UUID) -> Answer:
    """Is it held, and what of it goes when?"""
    membership, found = seen(request, meeting_id)
    require(membership, Can.KNOW_TEAM)
    hold = Hold.objects.filter(meeting=found).select_related("by").first()
    recording = getattr(found, "recording", None)
    return {
        "hold": hold and {"why": hold.why, "by": name_of(hold.by), "at": hold.at},
        "goes": [{"what": one.what, "on": one.on} for one in Announced.objects.filter(meeting=found).order_by("on")],
        "sound_gone_at": recording and recording.let_go_at,
        "record_gone_at": found.record_gone_at,
        "may_change": may(membership, Can.GOVERN, found),
    }


@meeting_router.put("/{meeting_id}/hold", response={204: None})
def hold(request: HttpRequest, meeting_id: UUID, payload: HoldIn) -> Answer:
    """Hold it: nothing of it goes."""
    hold_meeting(*seen(request, meeting_id), payload.why)
    return 204, None


@meeting_router.delete("/{meeting_id}/hold", response={204: None})
def lift(request: HttpRequest, meeting_id: UUID) -> Answer:
    """Hold it no more."""
    membership, found = seen(request, meeting_id)
    if not Hold.objects.filter(meeting=found).exists():
        raise Refused(404, "It is not held.")
    lift_hold(membership, found)
    return 204, None

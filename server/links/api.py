"""Links that one gives, and those of the workspace."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated
from uuid import UUID

from django.conf import settings
from django.http import HttpRequest
from django.utils import timezone
from ninja import Router, Schema
from pydantic import Field

from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership, name_of
from server.answers import Answer
from server.audit.log import log
from server.bounds import Moment, Name
from server.excerpts.models import Excerpt, Sequence
from server.excerpts.queries import visible_excerpts, visible_sequences
from server.links.actions.give_link import change_link, give_link, revoke_link, set_rules
from server.links.models import USUAL, Link, LinkRules, Scope
from server.links.queries import leads, links_given, links_of_workspace, rules_of
from server.meetings.models import Meeting
from server.problems import Refused
from server.sealing import unseal
from server.sharing.policy import Can, may
from server.sharing.visibility import visible_meetings

router = Router(tags=["links"], auth=signed_in)


class LinkIn(Schema):
    """of: the key of what it leads to. until: None for no end."""

    scope: Scope
    of: str = Field(max_length=40)
    sound: bool = False
    whom: Annotated[Name, Field(max_length=120)] = ""
    passphrase: str = Field("", max_length=200)
    until: Moment | None = None


class LinkPatch(Schema):
    whom: Annotated[Name, Field(max_length=120)] = ""
    until: Moment | None = None


class LinkOut(Schema):
    """address: for whoever gave it. leads: whether it leads somewhere now."""

    id: UUID
    scope: Scope
    title: str
    meeting: UUID | None
    sound: bool
    whom: str
    passphrase: bool
    until: datetime | None
    by: str
    mine: bool
    made_at: datetime
    revoked_at: datetime | None
    opened: int
    opened_at: datetime | None
    address: str | None
    leads: bool


class LinkRulesOut(Schema):
    """usual: days until a link ends, unless it is said otherwise."""

    allowed: bool
    must_end: bool
    must_have_passphrase: bool
    usual: int
    may_change: bool


class LinkRulesIn(Schema):
    allowed: bool
    must_end: bool
    must_have_passphrase: bool


def _title(link: Link) -> str:
    target = link.meeting or link.excerpt or link.sequence
    assert target is not None
    return target.title


def _out(membership: Membership, link: Link, rules: LinkRules) -> dict:
    mine = link.made_by_id == membership.pk
    now = leads(link, timezone.now(), rules)
    return {
        "id": link.pk,
        "scope": link.scope,
        "title": _title(link),
        "meeting": link.meeting_id,
        "sound": link.sound,
        "whom": link.whom,
        "passphrase": bool(link.passphrase),
        "until": link.until,
        "by": name_of(link.made_by.user),
        "mine": mine,
        "made_at": link.made_at,
        "revoked_at": link.revoked_at,
        "opened": link.opened,
        "opened_at": link.opened_at,
        "address": f"{settings.BASE_URL}/l/{unseal(link.token)}" if mine and now else None,
        "leads": now,
    }


def _target(membership: Membership, scope: Scope, key: str) -> Meeting | Excerpt | Sequence:
    found: Meeting | Excerpt | Sequence | None
    try:
        if scope == Scope.SEQUENCE:
            found = visible_sequences(membership).filter(pk=int(key)).first()
        elif scope == Scope.EXCERPT:
            found = visible_excerpts(membership).filter(pk=UUID(key)).first()
        else:
            found = visible_meetings(membership).filter(pk=UUID(key)).first()
    except (ValueError, OverflowError):
        found = None
    if found is None:
        raise Refused(404, "There is nothing of the kind that you may see.")
    return found


@router.get("", response=list[LinkOut])
def links(request: HttpRequest, everybody: bool = False) -> Answer:
    """The links I gave; everybody's, where I manage the workspace."""
    membership = membership_of(request)
    if everybody and may(membership, Can.MANAGE):
        log(membership.workspace, membership.user, "look at all links")
    found = links_of_workspace(membership) if everybody else links_given(membership)
    wanted = rules_of(membership.workspace)
    return [_out(membership, one, wanted) for one in found[:500]]


@router.post("", response={201: LinkOut})
def give(request: HttpRequest, payload: LinkIn) -> Answer:
    """Give a link to something."""
    membership = membership_of(request)
    target = _target(membership, payload.scope, payload.of)
    link = give_link(membership, target, payload.scope, sound=payload.sound, whom=payload.whom, passphrase=payload.passphrase, until=payload.until)
    return 201, _out(membership, link, rules_of(membership.workspace))


def _found(request: HttpRequest, link_id: UUID) -> tuple[Membership, Link]:
    membership = membership_of(request)
    link = links_of_workspace(membership).filter(pk=link_id).first()
    if link is None:
        raise Refused(404, "There is no such link, or it is not yours.")
    return membership, link


@router.get("/rules", response=LinkRulesOut)
def rules(request: HttpRequest) -> Answer:
    """What the workspace wants of links."""
    membership = membership_of(request)
    known = rules_of(membership.workspace)
    return {
        "allowed": known.allowed,
        "must_end": known.must_end,
        "must_have_passphrase": known.must_have_passphrase,
        "usual": USUAL.days,
        "may_change": may(membership, Can.MANAGE),
    }


@router.put("/rules", response={204: None})
def change_rules(request: HttpRequest, payload: LinkRulesIn) -> Answer:
    """Say what the workspace wants of links; those that do not keep to it lead nowhere from now on."""
    set_rules(membership_of(request), **payload.dict())
    return 204, None


@router.patch("/{link_id}", response=LinkOut)
def change(request: HttpRequest, link_id: UUID, payload: LinkPatch) -> Answer:
    """Say for whom it is, and until when."""
    membership, link = _found(request, link_id)
    return _out(membership, change_link(membership, link, whom=payload.whom, until=payload.until), rules_of(membership.workspace))


@router.delete("/{link_id}", response={204: None})
def revoke(request: HttpRequest, link_id: UUID) -> Answer:
    """Take it back: it leads nowhere from now on."""
    revoke_link(*_found(request, link_id))
    return 204, None

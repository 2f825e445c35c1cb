"""What is kept on a person, as one file; and that it goes."""

from __future__ import annotations

import json
from datetime import datetime

from django.core.serializers.json import DjangoJSONEncoder
from django.db.models import Count
from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema
from pydantic import Field

from core.text import folded
from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership, name_of
from server.answers import Answer
from server.audit.log import log
from server.bounds import Number
from server.document import answers
from server.languages import OurWords
from server.meetings.models import Hold, Person
from server.problems import Refused
from server.rights.actions.erase_person import erase_person
from server.rights.known import counted, known_of, meetings_with
from server.rights.models import Erasure
from server.sharing.policy import Can, require

router = Router(tags=["rights"], auth=signed_in)

_MOST = 50


class SomebodyOut(Schema):
    id: int
    name: str
    email: str
    organisation: str
    meetings: int
    """In which they were."""


class KnownOfOut(Schema):
    """How much there is. held: of their meetings, as long as which nobody can be erased."""

    counts: dict[str, int]
    has_place: bool
    held: int


class EraseIn(Schema):
    """struck: what they said goes; else it stays, without whose it was. heir: the key of a member to whom their meetings go. name: mine."""

    struck: bool
    heir: Number | None = None
    name: str = Field(max_length=200)


class ErasureOut(Schema):
    id: int
    struck: bool
    by: str
    asked_at: datetime
    meetings: int
    done: int
    trouble: OurWords
    done_at: datetime | None


def _person(membership: Membership, key: int) -> Person:
    require(membership, Can.CROWN)
    found = Person.objects.filter(pk=key, workspace=membership.workspace).select_related("user").first()
    if found is None:
        raise Refused(404, "There is no such person.")
    return found


def _file(person: Person) -> HttpResponse:
    text = json.dumps(known_of(person), cls=DjangoJSONEncoder, ensure_ascii=False, indent=1)
    return HttpResponse(text, content_type="application/json; charset=utf-8", headers={"Content-Disposition": 'attachment; filename="known.json"', "Cache-Control": "no-store"})


@router.get("/people", response=list[SomebodyOut])
def people(request: HttpRequest, q: str = Query("", max_length=120)) -> Answer:
    """The people of the workspace by name, for its owners."""
    membership = membership_of(request)
    require(membership, Can.CROWN)
    found = Person.objects.filter(workspace=membership.workspace).annotate(count=Count("meetings")).order_by("name")
    if q.strip():
        found = found.filter(folded__contains=folded(q))
    return [{"id": one.pk, "name": one.name, "email": one.email, "organisation": one.organisation, "meetings": one.count} for one in found[:_MOST]]


@router.get("/mine/file", response={200: None}, openapi_extra=answers("application/json"))
def mine(request: HttpRequest) -> Answer:
    """Everything that is kept here on me, as one file."""
    membership = membership_of(request)
    person = Person.objects.filter(workspace=membership.workspace, user=membership.user_id).select_related("user").first()
    if person is None:
        raise Refused(404, "Nothing is kept on you here.")
    log(membership.workspace, membership.user, "take own file")
    return _file(person)


@router.get("/people/{person_id}", response=KnownOfOut)
def known(request: HttpRequest, person_id: Number) -> Answer:
    """How much is kept on a person, before it is taken or erased."""
    membership = membership_of(request)
    person = _person(membership, person_id)
    return {
        "counts": counted(known_of(person)),
        "has_place": person.user_id is not None and Membership.objects.filter(user=person.user_id, workspace=membership.workspace).exists(),
        "held": Hold.objects.filter(meeting__in=meetings_with(person)).count(),
    }


@router.get("/people/{person_id}/file", response={200: None}, openapi_extra=answers("application/json"))
def file(request: HttpRequest, person_id: Number) -> Answer:
    """Everything that is kept on a person, as one file, of meetings that I do not see as well: it is written down that I took it."""
    membership = membership_of(request)
    person = _person(membership, person_id)
    log(membership.workspace, membership.user, "take file of a person", person=person.pk)
    return _file(person)


@router.post("/people/{person_id}/erase", response={202: ErasureOut})
def erase(request: HttpRequest, person_id: Number, payload: EraseIn) -> Answer:
    """Erase them. It cannot be undone."""
    membership = membership_of(request)
    person = _person(membership, person_id)
    heir = Membership.objects.filter(pk=payload.heir, workspace=membership.workspace).select_related("user").first() if payload.heir else None
    return 202, _out(erase_person(membership, person, struck=payload.struck, heir=heir, name=payload.name))


@router.get("/erasures", response=list[ErasureOut])
def erasures(request: HttpRequest) -> Answer:
    """Who was erased is not told, but that somebody was, and how far it is."""
    membership = membership_of(request)
    require(membership, Can.CROWN)
    return [_out(one) for one in Erasure.objects.filter(workspace=membership.workspace).select_related("by")[:_MOST]]


def _out(erasure: Erasure) -> dict:
    return {
        "id": erasure.pk,
        "struck": erasure.struck,
        "by": name_of(erasure.by),
        "asked_at": erasure.asked_at,
        "meetings": erasure.meetings,
        "done": erasure.done,
        "trouble": erasure.trouble,
        "done_at": erasure.done_at,
    }

"""Who did what, for those who manage the workspace. What stands here is changed by nobody: see the migration."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

from django.db.models import Q, QuerySet
from django.http import HttpRequest, HttpResponse
from ninja import Query, Router, Schema

from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership
from server.answers import Answer
from server.audit.log import log
from server.audit.models import Entry
from server.bounds import Day, Number, Short
from server.cursors import cut, moment_of, read_cursor
from server.document import answers
from server.sharing.policy import Can, require
from server.sharing.visibility import visible_meetings
from server.tables import to_csv

router = Router(tags=["audit"], auth=signed_in)

_PAGE, _MOST = 100, 50_000


class AuditEntryOut(Schema):
    """who: "" where the program or somebody without an account did it. meeting: where the asker sees it. detail: in words and numbers."""

    id: int
    at: datetime
    who: str
    verb: str
    meeting: UUID | None
    meeting_title: str
    of_a_meeting: bool
    detail: dict[str, Any]


class AuditOut(Schema):
    entries: list[AuditEntryOut]
    next: str | None


class AuditIn(Schema):
    """who: the key of a member. verb: one of them. since, until: days, in UTC."""

    who: Number | None = None
    verb: Short = ""
    meeting: UUID | None = None
    since: Day | None = None
    until: Day | None = None


class VerbsOut(Schema):
    verbs: list[str]


def _entries(membership: Membership, asked: AuditIn) -> QuerySet[Entry]:
    found = Entry.objects.filter(workspace=membership.workspace).select_related("actor").order_by("-at", "-id")
    if asked.who is not None:
        found = found.filter(actor__memberships=asked.who, actor__memberships__workspace=membership.workspace)
    if asked.verb:
        found = found.filter(verb=asked.verb)
    if asked.meeting:
        found = found.filter(meeting=asked.meeting)
    if asked.since:
        found = found.filter(at__date__gte=asked.since)
    if asked.until:
        found = found.filter(at__date__lt=asked.until + timedelta(days=1))
    return found


def _told(membership: Membership, entries: list[Entry]) -> Iterator[dict]:
    """Of a meeting that the asker does not see, no more than that something was done in one."""
    titles = dict(visible_meetings(membership).filter(pk__in=[one.meeting_id for one in entries if one.meeting_id]).values_list("pk", "title"))
    for one in entries:
        seen = one.meeting_id in titles
        yield {
            "id": one.pk,
            "at": one.at,
            "who": one.actor.called if one.actor else "",
            "verb": one.verb,
            "meeting": one.meeting_id if seen else None,
            "meeting_title": titles[one.meeting_id] if seen and one.meeting_id else "",
            "of_a_meeting": one.meeting_id is not None,
            "detail": one.detail,
        }


@router.get("", response=AuditOut)
def audit(request: HttpRequest, asked: Query[AuditIn], after: str = Query("", max_length=400)) -> Answer:
    """Who did what, the latest first, page by page."""
    membership = membership_of(request)
    require(membership, Can.MANAGE)
    found = _entries(membership, asked)
    if after:
        at, key = read_cursor(after, moment_of, int, "audit")
        found = found.filter(Q(at__lt=at) | Q(at=at, pk__lt=key))
    else:
        log(membership.workspace, membership.user, "look at audit")
    page, following = cut(found, _PAGE, "at")
    return {"entries": list(_told(membership, page)), "next": following}


@router.get("/verbs", response=VerbsOut)
def verbs(request: HttpRequest) -> Answer:
    """What has been done here at all, to narrow by."""
    membership = membership_of(request)
    require(membership, Can.MANAGE)
    return {"verbs": sorted(Entry.objects.filter(workspace=membership.workspace).order_by().values_list("verb", flat=True).distinct())}


@router.get("/table.csv", response={200: None}, openapi_extra=answers("text/csv; charset=utf-8"))
def as_table(request: HttpRequest, asked: Query[AuditIn]) -> Answer:
    """The same as a table, the latest fifty thousand."""
    membership = membership_of(request)
    require(membership, Can.MANAGE)
    log(membership.workspace, membership.user, "download audit")
    told = _told(membership, list(_entries(membership, asked)[:_MOST]))
    rows = [
        (
            one["at"].isoformat(),
            one["who"],
            one["verb"],
            str(one["meeting"] or ""),
            one["meeting_title"],
            ", ".join(f"{name}: {value}" for name, value in one["detail"].items()),
        )
        for one in told
    ]
    text = to_csv(["at", "who", "what", "meeting", "title", "detail"], rows)
    return HttpResponse(text, content_type="text/csv; charset=utf-8", headers={"Content-Disposition": 'attachment; filename="audit.csv"'})

"""Reads over many meetings. Each starts from the visibility rule."""

from __future__ import annotations

import base64
import binascii
import json
import re
from collections import defaultdict
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from uuid import UUID

from django.contrib.postgres.search import SearchHeadline, SearchQuery, SearchRank
from django.db.models import Count, Exists, F, Max, OuterRef, Prefetch, Q, QuerySet
from django.utils import timezone

from core.record.spacing import UNSPACED
from server.accounts.models import Membership
from server.bounds import EARLIEST, LATEST
from server.meetings.models import Meeting
from server.minutes.models import Finding, FindingKind, FindingStatus, MinutesLine
from server.notes.models import Comment
from server.problems import Refused
from server.record.models import Line
from server.sharing.visibility import listed_meetings

PAGE = 40
_START, _STOP = "\x02", "\x03"  # around each hit of a snippet: signs that no text holds
_SNIPPETS = 3
_MENTIONED = timedelta(days=21)
_DONE_LATELY = timedelta(days=1)


def with_people(meetings: QuerySet[Meeting]) -> QuerySet[Meeting]:
    """What a row of the library needs, in a fixed number of queries."""
    return meetings.select_related("series", "recording", "capture", "created_by").prefetch_related(
        "people", "voices__person", "stage_runs"
    )


def library_page(
    membership: Membership, *, cursor: str = "", person: int | None = None, series: int | None = None
) -> tuple[list[Meeting], str | None]:
    """A page of meetings, newest first, and the cursor of the next page (None at the end). Raises Refused on a broken cursor."""
    meetings = listed_meetings(membership)
    if person:
        meetings = meetings.filter(attendees__person=person)
    if series:
        meetings = meetings.filter(series=series)
    if cursor:
        moment, key = _read_cursor(cursor)
        meetings = meetings.filter(Q(started_at__lt=moment) | Q(started_at=moment, pk__lt=key))
    rows = list(with_people(meetings.order_by("-started_at", "-pk"))[: PAGE + 1])
    following = _cursor(rows[PAGE - 1]) if len(rows) > PAGE else None
    return rows[:PAGE], following


def _cursor(meeting: Meeting) -> str:
    return base64.urlsafe_b64encode(json.dumps([meeting.started_at.isoformat(), str(meeting.pk)]).encode()).decode()


def _read_cursor(cursor: str) -> tuple[datetime, str]:
    try:
        moment, key = json.loads(base64.urlsafe_b64decode(cursor))
        stated = datetime.fromisoformat(moment)
        if not (stated.tzinfo and EARLIEST <= stated <= LATEST):
            raise ValueError("no moment of a page")
        return stated, str(UUID(key))
    except (ValueError, binascii.Error, TypeError, AttributeError, RecursionError) as error:
        raise Refused(422, "This page of the library cannot be found. Start from its first page.") from error


@dataclass
class Hits:
    """A meeting with what a search found in it: how many lines, and the best of them."""

    meeting: Meeting
    count: int
    best: list[Line] = field(default_factory=list)


def search(membership: Membership, words: str) -> list[Hits]:
    """Meetings with lines that hold the words, by rank of their best line.

    The query is the web's form: words, "quoted phrases", -excluded, or. Each best line has `snippet`, its hits between \\x02 and \\x03.
    Raises Refused when there is nothing to search for.
    """
    words = words.replace("\x00", " ").strip()[:200]
    if not words:
        raise Refused(422, "Type a word to search for.")
    query = SearchQuery(words, config="english", search_type="websearch") | SearchQuery(words, config="simple", search_type="websearch")
    # PostgreSQL takes a run of letters without spaces for one word: of such scripts any part of a line is found.
    unspaced = bool(re.search(UNSPACED, words))
    holds = Q(search=query) | Q(text__icontains=words) if unspaced else Q(search=query)
    lines = Line.objects.filter(holds, meeting__in=listed_meetings(membership)).annotate(rank=SearchRank(F("search"), query))
    ranked = {
        row["meeting"]: row
        for row in lines.order_by()
        .values("meeting")
        .annotate(count=Count("id"), best=Max("rank"), latest=Max("meeting__started_at"))
        .order_by("-best", "-latest")[:50]
    }
    meetings = {meeting.pk: meeting for meeting in with_people(listed_meetings(membership).filter(pk__in=ranked))}
    hits = {key: Hits(meetings[key], row["count"]) for key, row in ranked.items() if key in meetings}
    best: dict[object, list[int]] = defaultdict(list)
    for key, meeting in lines.filter(meeting__in=hits).order_by("-rank", "number").values_list("pk", "meeting")[:2000]:
        if len(best[meeting]) < _SNIPPETS:
            best[meeting].append(key)
    snippet = SearchHeadline("text", query, config="english", start_sel=_START, stop_sel=_STOP, highlight_all=True)
    found = (
        Line.objects.filter(pk__in=[key for keys in best.values() for key in keys])
        .annotate(snippet=snippet)
        .select_related("turn__voice__person")
        .order_by("number")
    )
    for line in found:
        if unspaced and _START not in line.snippet:
            line.snippet = re.sub(re.escape(words), lambda hit: f"{_START}{hit[0]}{_STOP}", line.snippet, flags=re.IGNORECASE)
        hits[line.meeting_id].best.append(line)
    return list(hits.values())


def my_actions(membership: Membership, most: int) -> list[tuple[Finding, str]]:
    """Actions of mine that are not done, the next due first, and behind them those done lately, which may have been ticked by mistake.

    Each as the minutes word it; one whose line somebody took out of the minutes is not mine any more.
    """
    actions = (
        Finding.objects.filter(
            Q(done_at=None) | Q(done_at__gt=timezone.now() - _DONE_LATELY),
            meeting__in=listed_meetings(membership),
            kind=FindingKind.ACTION,
            status=FindingStatus.STANDING,
            owner__user=membership.user,
        )
        .select_related("meeting")
        .prefetch_related(
            Prefetch("lines", Line.objects.only("number")),
            Prefetch("minutes_lines", MinutesLine.objects.only("finding", "text", "removed_at")),
        )
        .order_by(F("done_at").desc(nulls_first=True), F("due").asc(nulls_last=True), "meeting__started_at")
    )
    mine = []
    for action in actions[: 2 * most]:
        worded = action.minutes_lines.all()
        stands = [line.text for line in worded if line.removed_at is None]
        if stands or not worded:
            mine.append((action, stands[0] if stands else action.text))
    return mine[:most]


def mentions_of(membership: Membership) -> QuerySet[Comment]:
    """Comments of the last weeks that mention one and that one has not answered, the latest first."""
    answered = Comment.objects.filter(user=membership.user, removed_at=None).filter(
        Q(after=OuterRef("pk")) | Q(after=OuterRef("after"), at__gt=OuterRef("at"))
    )
    return (
        Comment.objects.filter(
            ~Exists(answered),
            meeting__in=listed_meetings(membership),
            mentions=membership.user,
            removed_at=None,
            at__gt=timezone.now() - _MENTIONED,
        )
        .exclude(user=membership.user)
        .select_related("user", "meeting")
        .order_by("-at")
    )


def new_meetings(membership: Membership) -> QuerySet[Meeting]:
    """The latest that became readable."""
    return with_people(listed_meetings(membership).filter(ready_at__isnull=False).order_by("-ready_at", "-started_at"))

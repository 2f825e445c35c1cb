"""What the rules take of which meeting, and when; and what is kept where."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date
from zoneinfo import ZoneInfo

from django.db.models import QuerySet

from core.planning.retention import Bite, What, bites
from server.accounts.models import Workspace
from server.keeping.models import KeepingRule
from server.meetings.models import Meeting, Shelved


@dataclass(frozen=True)
class Goes:
    """Something of a meeting goes."""

    meeting: Meeting
    bite: Bite


def rules_of(workspace: Workspace) -> list[KeepingRule]:
    """A workspace's rules."""
    return list(KeepingRule.objects.filter(workspace=workspace).select_related("shelf", "series"))


def kept_meetings(workspace: Workspace) -> QuerySet[Meeting]:
    """Those that rules are for: all but those that are being captured, held, or deleted already."""
    found = Meeting.objects.filter(workspace=workspace, going_at=None, hold=None).exclude(capture__isnull=False, capture__stopped_at=None)
    return found.select_related("recording", "created_by").order_by("started_at", "pk")


def what_goes(workspace: Workspace, rules: Sequence[KeepingRule]) -> Iterator[Goes]:
    """Everything that goes by these rules, now or some day, of what is there."""
    if not rules:
        return
    shelves: dict[object, set[int]] = defaultdict(set)
    for key, shelf in Shelved.objects.filter(meeting__workspace=workspace).values_list("meeting", "shelf"):
        shelves[key].add(shelf)
    for meeting in kept_meetings(workspace).iterator(chunk_size=500):
        mine = [one.as_rule for one in rules if _is_for(one, meeting, shelves[meeting.pk])]
        for bite in bites(mine, meeting.started_at.astimezone(ZoneInfo(meeting.time_zone)).date()):
            if not is_gone(meeting, bite.what):
                yield Goes(meeting, bite)


def _is_for(rule: KeepingRule, meeting: Meeting, shelves: set[int]) -> bool:
    if rule.series_id:
        return rule.series_id == meeting.series_id
    if rule.shelf_id:
        return rule.shelf_id in shelves
    return not rule.place or rule.place == meeting.place


def is_gone(meeting: Meeting, what: What) -> bool:
    """Was it let go of already, or never there?"""
    recording = getattr(meeting, "recording", None)
    if what is What.SOUND:
        return recording is None or recording.let_go_at is not None or recording.form == recording.Form.TRANSCRIPT or meeting.record_gone_at is not None
    return what is What.RECORD and meeting.record_gone_at is not None


def due(found: Iterator[Goes], until: date) -> list[Goes]:
    """What of it goes until a day."""
    return [one for one in found if one.bite.on <= until]

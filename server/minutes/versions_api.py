"""Minutes drawn anew, and the states they had."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from core.minutes import Change
from server.accounts.current import signed_in
from server.answers import Answer
from server.convening.seen import seen
from server.meetings.models import Meeting
from server.minutes.actions import draw_minutes
from server.minutes.models import Version
from server.minutes.queries import sections_of
from server.problems import Refused

router = Router(tags=["minutes"], auth=signed_in)


class DrawIn(Schema):
    template: str | None = Field(None, max_length=60)
    preview: bool = False


class ChangeOut(Schema):
    how: str
    section: str
    text: str
    before: str


class DrawnOut(Schema):
    changes: list[ChangeOut]
    version: int | None


class VersionOut(Schema):
    number: int
    at: datetime
    by: str | None
    why: str
    lines: int


class OneVersionOut(VersionOut):
    changes: list[ChangeOut]
    text: list[tuple[str, str]]


def _changes(meeting: Meeting, changes: list[Change]) -> list[dict]:
    """Changes with the headings of their sections."""
    named = [change.section for change in changes] + [change.before for change in changes if change.how == "moved"]
    names = sections_of(meeting, named)
    return [
        {
            "how": change.how,
            "section": names[change.section],
            "text": change.text,
            "before": names[change.before] if change.how == "moved" else change.before,
        }
        for change in changes
    ]


@router.post("/{meeting_id}/minutes/draw", response=DrawnOut)
def draw(request: HttpRequest, meeting_id: UUID, payload: DrawIn) -> Answer:
    """Draw the minutes anew, by another template ("" for what the talk suggests) or as before; with `preview`, only tell what would change."""
    membership, found = seen(request, meeting_id)
    changes = _changes(found, draw_minutes.preview(membership, found, payload.template))
    if payload.preview:
        return {"changes": changes, "version": None}
    version = draw_minutes.draw(membership, found, payload.template)
    return {"changes": changes, "version": version and version.number}


@router.post("/{meeting_id}/minutes/accept", response={204: None})
def accept(request: HttpRequest, meeting_id: UUID) -> Answer:
    """Take what a correction of the record has changed in the minutes."""
    membership, found = seen(request, meeting_id)
    draw_minutes.accept(membership, found)
    return 204, None


def _version(version: Version) -> dict:
    return {
        "number": version.number,
        "at": version.at,
        "by": version.by and version.by.called,
        "why": version.why,
        "lines": sum(not one["removed_at"] for one in version.lines),
    }


def _version_of(found: Meeting, number: int) -> Version:
    version = found.versions.select_related("by", "meeting").filter(number=number).first()
    if version is None:
        raise Refused(404, "There is no such version of these minutes.")
    return version


@router.get("/{meeting_id}/minutes/versions", response=list[VersionOut])
def versions(request: HttpRequest, meeting_id: UUID) -> Answer:
    """Earlier states of the minutes, the latest first."""
    _, found = seen(request, meeting_id)
    return [_version(version) for version in found.versions.select_related("by")]


@router.get("/{meeting_id}/minutes/versions/{number}", response=OneVersionOut)
def version(request: HttpRequest, meeting_id: UUID, number: int) -> Answer:
    """An earlier state: its lines with their headings, and what has changed since."""
    _, found = seen(request, meeting_id)
    one = _version_of(found, number)
    lines = draw_minutes.of_version(one)
    names = sections_of(found, [line.section for line in lines])
    return {
        **_version(one),
        "changes": _changes(found, draw_minutes.against_now(one)),
        "text": [(names[line.section], line.text) for line in lines],
    }


@router.post("/{meeting_id}/minutes/versions/{number}/restore", response=VersionOut)
def restore(request: HttpRequest, meeting_id: UUID, number: int) -> Answer:
    """Have an earlier state back; the state until now is kept, and returned."""
    membership, found = seen(request, meeting_id)
    return _version(draw_minutes.restore(membership, _version_of(found, number)))

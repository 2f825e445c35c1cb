"""What is usual where nobody says otherwise, of a series, a member, a workspace; and what a meeting takes from its series when it comes to be
of it: shelves, readers, template; other apps hear of it and add their own."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from django.dispatch import Signal

from server.accounts.models import Membership, Workspace
from server.meetings.models import Custom, GoesTo, Meeting, OwnCustom, Reader, Series, Shelved, Usual, Visibility, WorkspaceCustom

came_into_series = Signal()
"""Sender: Meeting; with `membership`, `meeting` and `usual`, in the transaction that is open."""


@dataclass(frozen=True)
class Customs:
    """visibility: of a meeting for which nobody chose. goes_to, going: of its minutes; going is "" where it depends on who gets them."""

    visibility: str
    goes_to: str
    going: str


def customs_of(workspace: Workspace, maker_id: int | None, series: Series | None) -> Customs:
    """The nearest that says something counts: the series, then whoever makes the meeting, then the workspace."""
    nearest: list[Custom | None] = [
        Usual.objects.filter(series=series).first() if series else None,
        OwnCustom.objects.filter(membership__user=maker_id, membership__workspace=workspace).first(),
        WorkspaceCustom.objects.filter(workspace=workspace).first(),
    ]

    def said(field: str) -> str:
        return next((value for one in nearest if one and (value := str(getattr(one, field)))), "")

    return Customs(said("visibility") or Visibility.NAMED, said("goes_to") or GoesTo.NOBODY, said("going"))


def usual_of(meeting: Meeting) -> Usual | None:
    """What is usual in its series, where anything is."""
    return Usual.objects.filter(series=meeting.series_id).first() if meeting.series_id else None


def take_usual(membership: Membership, meeting: Meeting, *, settled: bool = True) -> None:
    """In the transaction that is open, by somebody who governs the meeting. settled: who sees it was said by whoever made it; else that is
    as usual, too. What the meeting has of its own stays."""
    _shelve_by_series(meeting)
    usual = usual_of(meeting)
    if usual is None:
        return
    if not settled and usual.visibility:
        meeting.visibility = usual.visibility
    if not meeting.template:
        meeting.template = usual.template
    meeting.save(update_fields=["visibility", "template"])
    if meeting.visibility != Visibility.MINE:
        let_in(membership, meeting, set(usual.readers.values_list("user", flat=True)) - {meeting.created_by_id})
    came_into_series.send(Meeting, membership=membership, meeting=meeting, usual=usual)


def let_in(membership: Membership, meeting: Meeting, users: Collection[int]) -> None:
    """Let users see a meeting by name, in the transaction that is open; those who may already stay as they are."""
    for user in users:
        Reader.objects.get_or_create(meeting=meeting, user_id=user, defaults={"let_in_by": membership.user})


def _shelve_by_series(meeting: Meeting) -> None:
    """Onto the shelves of its series at which whoever made it has a place: their own meetings are theirs to show there."""
    if meeting.series is None:
        return
    shelves = meeting.series.shelves.filter(places__membership__user=meeting.created_by_id, workspace=meeting.workspace_id)
    for shelf in shelves:
        Shelved.objects.get_or_create(shelf=shelf, meeting=meeting)

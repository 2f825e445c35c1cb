"""The one rule of who sees what. Every read of a meeting or of anything in one starts here."""

from __future__ import annotations

from collections.abc import Iterable

from django.db.models import Exists, OuterRef, Q, QuerySet

from server.accounts.models import Membership, Role, User, Workspace
from server.meetings.models import Meeting, Place, Reader, ShelfPlace, Shelved, Visibility
from server.sharing.policy import Can, may

_BY_NAME = (Visibility.NAMED, Visibility.WORKSPACE)
_ON_SHELVES = (Visibility.SHELF, *_BY_NAME)


def visible_meetings(membership: Membership, *, removed: bool = False) -> QuerySet[Meeting]:
    """The meetings a member may see: their own; those into which they were let by name; those on shelves where they have a place; those of the
    workspace, if their role sees these.

    Nothing else gives access: not to have been there, not to be named in one, not to have an action in it.
    removed: those taken out of the library (and still to be had back) instead of those in it.
    """
    let_in = Exists(Reader.objects.filter(meeting=OuterRef("pk"), user=membership.user_id))
    on_shelf = Exists(Shelved.objects.filter(meeting=OuterRef("pk"), shelf__places__membership=membership.pk))
    rule = Q(created_by=membership.user_id) | Q(let_in, visibility__in=_BY_NAME) | Q(on_shelf, visibility__in=_ON_SHELVES)
    if may(membership, Can.SEE_SHARED):
        rule |= Q(visibility=Visibility.WORKSPACE)
    return Meeting.objects.filter(rule, workspace=membership.workspace_id, removed_at__isnull=not removed, going_at=None)


def everybody_in(workspace: Workspace) -> Membership:
    """Somebody who sees what all members of a workspace see, and nothing else: they made nothing, and were let into nothing. Never kept."""
    return Membership(pk=0, user=User(pk=0), workspace=workspace, role=Role.MEMBER)


def listed_meetings(membership: Membership) -> QuerySet[Meeting]:
    """Those of the visible meetings that stand in lists and searches: all but rehearsals."""
    return visible_meetings(membership).exclude(place=Place.REHEARSAL)


def seen_by(
    workspace_id: int, maker_id: int | None, visibility: str, readers: Iterable[int], meeting: Meeting | None = None
) -> list[Membership]:
    """The same rule the other way round: the members who see a meeting that has this maker, visibility and these readers (keys of users).
    meeting: where it is there already, so that it may stand on shelves."""
    let_in = set(readers) if visibility in _BY_NAME else set()
    shelved = meeting is not None and visibility in _ON_SHELVES
    at_shelf = set(ShelfPlace.objects.filter(shelf__shelved__meeting=meeting).values_list("membership", flat=True)) if shelved else set()
    members = Membership.objects.filter(workspace=workspace_id).select_related("user", "workspace").order_by("user__name", "user__email")
    return [
        one
        for one in members
        if one.user_id == maker_id
        or one.user_id in let_in
        or one.pk in at_shelf
        or visibility == Visibility.WORKSPACE
        and may(one, Can.SEE_SHARED)
    ]

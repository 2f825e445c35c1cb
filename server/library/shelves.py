"""Shelves, as far as one knows of them."""

from __future__ import annotations

from django.db.models import Exists, OuterRef, Q, QuerySet

from server.accounts.models import Membership
from server.meetings.models import Meeting, Shelf, ShelfPlace, Shelved
from server.problems import Refused
from server.sharing.policy import Can, may
from server.sharing.visibility import listed_meetings


def shelves_of(membership: Membership) -> QuerySet[Shelf]:
    """Those at which a member has a place, and, for the workspace's members, those that are open. Of a closed one nobody else knows."""
    own = Exists(ShelfPlace.objects.filter(shelf=OuterRef("pk"), membership=membership.pk))
    rule = Q(own)
    if may(membership, Can.SEE_SHARED):
        rule |= Q(closed=False)
    return Shelf.objects.filter(rule, workspace=membership.workspace_id)


def shelf_of(membership: Membership, key: int) -> Shelf:
    """Raises Refused where this member knows of no such shelf."""
    shelf = shelves_of(membership).filter(pk=key).first()
    if shelf is None:
        raise Refused(404, "There is no such shelf, or it is closed and you have no place at it.")
    return shelf


def place_at(membership: Membership, shelf: Shelf) -> ShelfPlace | None:
    """A member's place at it."""
    return ShelfPlace.objects.filter(shelf=shelf, membership=membership.pk).first()


def on_shelf(membership: Membership, shelf: Shelf) -> QuerySet[Meeting]:
    """What of it this member sees."""
    return listed_meetings(membership).filter(Exists(Shelved.objects.filter(meeting=OuterRef("pk"), shelf=shelf)))

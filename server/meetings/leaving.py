"""What becomes of a member's meetings, shelves and person when they leave."""

from __future__ import annotations

from server.accounts.models import Membership
from server.meetings.models import Meeting, Person, Reader, Shelf, ShelfPlace, Visibility


def made_by(membership: Membership) -> tuple[int, int]:
    """How many meetings of the workspace a member has made, and how many of them nobody else sees."""
    made = Meeting.objects.filter(workspace=membership.workspace_id, created_by=membership.user_id, going_at=None)
    return made.count(), made.filter(visibility=Visibility.MINE).count()


def hand_over(membership: Membership, heir: Membership | None) -> None:
    """In the transaction that is open. Without an heir the meetings stay where they are, seen by those who see them; what was the member's alone
    is seen by nobody until they are back."""
    meetings = Meeting.objects.filter(workspace=membership.workspace_id)
    Reader.objects.filter(meeting__in=meetings, user=membership.user_id).delete()
    if heir:
        meetings.filter(created_by=membership.user_id).update(created_by=heir.user)
    # A shelf keeps a keeper: the heir, else the one who has had a place there longest; where there is nobody, the shelf goes, and nothing on it does.
    for shelf in Shelf.objects.filter(places__membership=membership, places__keeper=True):
        others = shelf.places.exclude(membership=membership)
        if others.filter(keeper=True).exists():
            continue
        next_one = others.order_by("pk").first()
        if heir:
            ShelfPlace.objects.update_or_create(shelf=shelf, membership=heir, defaults={"keeper": True})
        elif next_one:
            others.filter(pk=next_one.pk).update(keeper=True)
        else:
            shelf.delete()
    Person.objects.filter(workspace=membership.workspace_id, user=membership.user_id).update(user=None, email=membership.user.email)

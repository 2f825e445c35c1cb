"""Put a question to the library; share it, take it away."""

from __future__ import annotations

from django.utils import timezone

from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.library.kept import packed
from server.library.models import Inquiry
from server.library.narrow import Narrowed
from server.problems import Refused, not_allowed
from server.sharing.policy import Can


def inquire(membership: Membership, text: str, wanted: Narrowed, after: Inquiry | None = None) -> Inquiry:
    """Ask all that one may see, or a part of it. after: the question it goes on from, whose part it then is. Raises Refused."""
    # What somebody asks is their business, the audit's not.
    with acting(membership, None, "ask the library"):
        if not one_line(text):
            raise Refused(422, "Ask something.")
        part = after.wanted if after else packed(wanted)
        return Inquiry.objects.create(membership=membership, text=one_line(text)[:400], wanted=part, after=after)


def change_inquiry(membership: Membership, inquiry: Inquiry, shared: bool | None = None, removed: bool | None = None) -> Inquiry:
    """Share a question of one's own with the workspace's members, or not any more; remove it, or put it back."""
    if inquiry.membership_id != membership.pk:
        raise not_allowed("A question is shared and removed by whoever asked it.")
    with acting(membership, Can.SEE_SHARED if shared else None, "change question to the library") as act:
        if shared is not None:
            inquiry.shared = shared
        if removed is not None:
            inquiry.removed_at = timezone.now() if removed else None
        inquiry.save(update_fields=["shared", "removed_at"])
        act.note(shared=inquiry.shared, removed=bool(inquiry.removed_at))
    return inquiry

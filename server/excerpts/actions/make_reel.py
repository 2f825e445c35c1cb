"""Reels: excerpts in an order."""

from __future__ import annotations

from collections.abc import Sequence
from uuid import UUID

from django.db import transaction
from django.utils import timezone

from server.accounts.models import Membership
from server.audit.log import log
from server.excerpts.models import Reel, ReelPart
from server.excerpts.queries import visible_excerpts
from server.problems import Refused, not_allowed


def make_reel(membership: Membership, title: str, excerpts: Sequence[UUID]) -> Reel:
    """Put excerpts in an order, under a title. Raises Refused."""
    if not membership.writes:
        raise not_allowed("Guests make no reels. Ask a member to.")
    with transaction.atomic():
        reel = Reel.objects.create(workspace=membership.workspace, user=membership.user, title=_titled(title))
        _put(membership, reel, excerpts)
        log(membership.workspace, membership.user, "make reel", excerpts=len(excerpts))
    return reel


def change_reel(
    membership: Membership, reel: Reel, title: str | None = None, excerpts: Sequence[UUID] | None = None, removed: bool | None = None
) -> Reel:
    """Title it, set what it plays, remove it or put it back: one's own. Raises Refused."""
    if reel.user_id != membership.user_id and not membership.manages:
        raise not_allowed("A reel is changed by whoever made it.")
    with transaction.atomic():
        if title is not None:
            reel.title = _titled(title)
        if removed is not None:
            reel.removed_at = timezone.now() if removed else None
        reel.save()
        if excerpts is not None:
            _put(membership, reel, excerpts)
        log(membership.workspace, membership.user, "change reel", removed=bool(reel.removed_at))
    return reel


def _titled(title: str) -> str:
    if not title.strip():
        raise Refused(422, "A reel needs a title.")
    return title.strip()[:200]


def _put(membership: Membership, reel: Reel, excerpts: Sequence[UUID]) -> None:
    known = set(visible_excerpts(membership).filter(pk__in=excerpts).values_list("pk", flat=True))
    if missing := [key for key in excerpts if key not in known]:
        raise Refused(404, f"There is no such excerpt ({missing[0]}), or it is not shared with you.")
    # What the caller may not see of it stays where it is: behind the rest.
    hidden = [
        part.excerpt_id
        for part in reel.parts.all()
        if part.excerpt_id not in set(visible_excerpts(membership).values_list("pk", flat=True))
    ]
    reel.parts.all().delete()
    ReelPart.objects.bulk_create([ReelPart(reel=reel, excerpt_id=key, position=at) for at, key in enumerate([*excerpts, *hidden])])

"""Sequences: excerpts in an order."""

from __future__ import annotations

from collections.abc import Sequence as Several
from uuid import UUID

from django.utils import timezone

from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.excerpts.models import Sequence, SequencePart
from server.excerpts.queries import visible_excerpts
from server.problems import Refused, not_allowed
from server.sharing.policy import Can, may


def make_sequence(membership: Membership, title: str, excerpts: Several[UUID]) -> Sequence:
    """Put excerpts in an order, under a title. Raises Refused."""
    with acting(membership, Can.ARRANGE, "make sequence", excerpts=len(excerpts)):
        sequence = Sequence.objects.create(workspace=membership.workspace, user=membership.user, title=_titled(title))
        _put(membership, sequence, excerpts)
    return sequence


def change_sequence(
    membership: Membership, sequence: Sequence, title: str | None = None, excerpts: Several[UUID] | None = None, removed: bool | None = None
) -> Sequence:
    """Title it, set what it plays, remove it or put it back: one's own. Raises Refused."""
    if sequence.user_id != membership.user_id and not may(membership, Can.MANAGE):
        raise not_allowed("A sequence is changed by whoever made it, or by an admin.")
    with acting(membership, None, "change sequence") as act:
        if title is not None:
            sequence.title = _titled(title)
        if removed is not None:
            sequence.removed_at = timezone.now() if removed else None
        sequence.save()
        if excerpts is not None:
            _put(membership, sequence, excerpts)
        act.note(removed=bool(sequence.removed_at))
    return sequence


def _titled(title: str) -> str:
    title = one_line(title)[:200]
    if not title:
        raise Refused(422, "A sequence needs a title.")
    return title


def _put(membership: Membership, sequence: Sequence, excerpts: Several[UUID]) -> None:
    known = set(visible_excerpts(membership).filter(pk__in=excerpts).values_list("pk", flat=True))
    if missing := [key for key in excerpts if key not in known]:
        raise Refused(404, f"There is no such excerpt ({missing[0]}), or it is not shared with you.")
    # What the caller may not see of it stays where it is: behind the rest.
    seen = set(visible_excerpts(membership).values_list("pk", flat=True))
    hidden = [part.excerpt_id for part in SequencePart.objects.filter(sequence=sequence) if part.excerpt_id not in seen]
    sequence.parts.all().delete()
    SequencePart.objects.bulk_create([SequencePart(sequence=sequence, excerpt_id=key, position=at) for at, key in enumerate([*excerpts, *hidden])])

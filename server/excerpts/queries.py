"""Who sees which excerpt, and what is in it."""

from __future__ import annotations

from django.db.models import Exists, OuterRef, Prefetch, Q, QuerySet

from core.record.excerpt import Said, clip
from core.record.timeline import Span
from server.accounts.models import Membership, User
from server.excerpts.models import Excerpt, Sequence, SequencePart
from server.record.keep import load_record
from server.record.models import Turn
from server.sharing.policy import Can, may
from server.sharing.visibility import visible_meetings


def visible_excerpts(membership: Membership, *, removed: bool = False) -> QuerySet[Excerpt]:
    """The excerpts a member may see: of meetings they see, those shared with them, those shared with the workspace (not with its guests).

    None of a meeting that was taken out of the library: it can be had back, and its excerpts with it.
    """
    rule = Q(meeting__in=visible_meetings(membership)) | Q(user=membership.user_id)
    rule |= Q(Exists(User.objects.filter(pk=membership.user_id, excerpts_for=OuterRef("pk"))), seen=Excerpt.Seen.CHOSEN)
    if may(membership, Can.SEE_SHARED):
        rule |= Q(seen=Excerpt.Seen.WORKSPACE)
    found = Excerpt.objects.filter(rule, meeting__workspace=membership.workspace_id, meeting__removed_at=None)
    return found.filter(removed_at__isnull=not removed).select_related("meeting__recording", "user")


def visible_sequences(membership: Membership) -> QuerySet[Sequence]:
    """One's own, and those that hold an excerpt one may see; each with only the excerpts one may see, in order."""
    seen = visible_excerpts(membership)
    parts = Prefetch("parts", SequencePart.objects.filter(excerpt__in=seen).select_related("excerpt__meeting__recording", "excerpt__user"))
    rule = Q(user=membership.user_id) | Q(Exists(SequencePart.objects.filter(sequence=OuterRef("pk"), excerpt__in=seen)))
    return Sequence.objects.filter(rule, workspace=membership.workspace_id, removed_at=None).select_related("user").prefetch_related(parts)


def said_in(excerpt: Excerpt) -> list[Said]:
    """What is said in an excerpt, as the record stands now."""
    inside = Turn.objects.filter(meeting=excerpt.meeting, start__lt=excerpt.end, end__gt=excerpt.start)
    return clip(load_record(excerpt.meeting, words=True, turns=inside).turns, Span(excerpt.start, excerpt.end))

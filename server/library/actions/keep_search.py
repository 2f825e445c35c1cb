"""Keep a search, change it, let go of it."""

from __future__ import annotations

from django.utils import timezone

from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.library.kept import packed
from server.library.models import KeptSearch
from server.library.narrow import Narrowed
from server.mail.stopping import RECURRING, Recurring
from server.problems import Refused

MOST = 50
"""Searches of one member."""


def keep_search(membership: Membership, name: str, words: str, wanted: Narrowed, *, tells: bool) -> KeptSearch:
    """Under a name; one of that name becomes this one. Raises Refused."""
    called = one_line(name)[:120]
    with acting(membership, None, "keep search"):
        if not called:
            raise Refused(422, "A search that is kept has a name.")
        if not words.strip() and packed(wanted).keys() <= {"zone"}:
            raise Refused(422, "There is nothing to keep: type words, or narrow the library.")
        if membership.kept_searches.exclude(name=called).count() >= MOST:
            raise Refused(409, f"You keep {MOST} searches, which is as many as there can be. Let go of one first.")
        now = timezone.now()
        facts = {"words": words.strip()[:400], "wanted": packed(wanted), "tells": tells, "seen_at": now, "told_at": now}
        kept, _ = KeptSearch.objects.update_or_create(membership=membership, name=called, defaults=facts)
    return kept


def see_kept(membership: Membership, kept: KeptSearch) -> None:
    """Its member has looked at what it finds."""
    with acting(membership, None, "see kept search"):
        KeptSearch.objects.filter(pk=kept.pk).update(seen_at=timezone.now())


def let_go_of_search(membership: Membership, kept: KeptSearch) -> None:
    """It is kept no more; it can be kept anew."""
    with acting(membership, None, "let go of search"):
        kept.delete()


def _stop(key: int) -> None:
    with acting(None, None, "stop telling of kept search"):
        KeptSearch.objects.filter(pk=key).update(tells=False)


RECURRING["search"] = Recurring("Mails about what is new for a search that you keep", _stop)

"""How a member wants to hear of what is new."""

from __future__ import annotations

from django.utils import timezone

from server.accounts.models import Membership
from server.acting import acting
from server.library.models import Digest, Often
from server.mail.stopping import RECURRING, Recurring


def wish_digest(membership: Membership, often: Often, hour: int, weekday: int, time_zone: str) -> Digest:
    """By mail, from now on: what is new by then is told, not what lies before."""
    with acting(membership, None, "wish digest", often=often):
        known = Digest.objects.filter(membership=membership).first()
        fresh = {} if known and known.often != Often.NEVER else {"sent_at": timezone.now()}
        wish = {"often": often, "hour": hour, "weekday": weekday, "time_zone": time_zone, **fresh}
        return Digest.objects.update_or_create(membership=membership, defaults=wish)[0]


def look_at_news(membership: Membership) -> None:
    """All that is new on Today has been seen."""
    with acting(membership, None, "look at news"):
        Digest.objects.update_or_create(membership=membership, defaults={"looked_at": timezone.now()})


def _stop(key: int) -> None:
    with acting(None, None, "stop digest"):
        Digest.objects.filter(membership=key).update(often=Often.NEVER)


RECURRING["digest"] = Recurring("The digest: what is new, and what is ahead", _stop)

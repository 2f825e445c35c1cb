"""What one wants to be reminded of, and the feed of one's open actions."""

from __future__ import annotations

from server.accounts.models import Membership, new_token
from server.acting import acting
from server.ledger.models import Reminders
from server.mail.stopping import RECURRING, Recurring


def wish_reminders(membership: Membership, before: bool, after: bool) -> Reminders:
    """By mail, from now on."""
    with acting(membership, None, "wish reminders", day_before=before, day_after=after):
        return Reminders.objects.update_or_create(membership=membership, defaults={"before": before, "after": after})[0]


def open_feed(membership: Membership) -> Reminders:
    """Another address for the feed; the old one leads nowhere from now on."""
    with acting(membership, None, "open feed"):
        return Reminders.objects.update_or_create(membership=membership, defaults={"feed": new_token()})[0]


def close_feed(membership: Membership) -> None:
    """There is no feed any more."""
    with acting(membership, None, "close feed"):
        Reminders.objects.filter(membership=membership).update(feed=None)


def _stop(key: int) -> None:
    member = Membership.objects.filter(pk=key).first()
    if member:
        wish_reminders(member, before=False, after=False)


RECURRING["reminders"] = Recurring("Reminders of your actions, the day before they are due and the day after", _stop)

"""Words onto the workspace's list, and off it."""

from __future__ import annotations

from collections.abc import Sequence

from core.text import folded, one_line
from server.accounts.models import Membership
from server.acting import acting
from server.problems import Refused
from server.sharing.policy import Can
from server.words.models import DeclinedOffer, ListedTerm

_LONGEST, _MOST = 80, 2000


def _clean(parts: Sequence[str]) -> list[str]:
    return list(dict.fromkeys(one_line(part)[:_LONGEST] for part in parts if one_line(part)))


def list_term(membership: Membership, text: str, sounds: Sequence[str], mistaken: Sequence[str]) -> ListedTerm:
    """Put a term on the list, or change what it says of it. Raises Refused when it is empty or the list is full."""
    text = one_line(text)[:_LONGEST]
    with acting(membership, Can.ARRANGE, "list word"):
        if not any(sign.isalnum() for sign in text):
            raise Refused(422, "A word has letters. Write it as it should stand in the record.")
        known = ListedTerm.objects.select_for_update().filter(workspace=membership.workspace, folded=folded(text)).first()
        if known is None and ListedTerm.objects.filter(workspace=membership.workspace).count() >= _MOST:
            raise Refused(409, f"The list has {_MOST} words already. Take some off first.")
        term = known or ListedTerm(workspace=membership.workspace, added_by=membership.user)
        term.text, term.sounds, term.mistaken = text, _clean(sounds), _clean(mistaken)
        term.save()
    return term


def unlist_term(membership: Membership, term: ListedTerm) -> None:
    """Take a term off the list; records that were heard with it stay as they are."""
    with acting(membership, Can.ARRANGE, "unlist word", term=term.pk):
        term.delete()


def decline_offer(membership: Membership, heard: str, meant: str) -> None:
    """Do not offer this for the list again."""
    with acting(membership, Can.ARRANGE, "decline word"):
        DeclinedOffer.objects.get_or_create(workspace=membership.workspace, heard=heard, meant=meant)

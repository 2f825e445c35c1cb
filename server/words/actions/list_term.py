"""Words onto the workspace's list, and off it."""

from __future__ import annotations

from collections.abc import Sequence

from django.db import transaction

from server.accounts.models import Membership, Role
from server.audit.log import log
from server.problems import Refused, not_allowed
from server.words.models import DeclinedOffer, ListedTerm

_LONGEST, _MOST = 80, 2000


def _check(membership: Membership) -> None:
    if membership.role == Role.GUEST:
        raise not_allowed("Guests do not change the word list. Ask a member to.")


def _clean(parts: Sequence[str]) -> list[str]:
    return list(dict.fromkeys(part.strip()[:_LONGEST] for part in parts if part.strip()))


def list_term(membership: Membership, text: str, sounds: Sequence[str], mistaken: Sequence[str]) -> ListedTerm:
    """Put a term on the list, or change what it says of it. Raises Refused when it is empty or the list is full."""
    _check(membership)
    text = " ".join(text.split())
    if not text or not any(sign.isalnum() for sign in text):
        raise Refused(422, "A word has letters. Write it as it should stand in the record.")
    with transaction.atomic():
        known = ListedTerm.objects.filter(workspace=membership.workspace, text__iexact=text).first()
        if known is None and ListedTerm.objects.filter(workspace=membership.workspace).count() >= _MOST:
            raise Refused(409, f"The list has {_MOST} words already. Take some off first.")
        term = known or ListedTerm(workspace=membership.workspace, added_by=membership.user)
        term.text, term.sounds, term.mistaken = text[:_LONGEST], _clean(sounds), _clean(mistaken)
        term.save()
        log(membership.workspace, membership.user, "list word", word=term.text)
    return term


def unlist_term(membership: Membership, term: ListedTerm) -> None:
    """Take a term off the list; records that were heard with it stay as they are."""
    _check(membership)
    with transaction.atomic():
        term.delete()
        log(membership.workspace, membership.user, "unlist word", word=term.text)


def decline_offer(membership: Membership, heard: str, meant: str) -> None:
    """Do not offer this for the list again."""
    _check(membership)
    DeclinedOffer.objects.get_or_create(workspace=membership.workspace, heard=heard, meant=meant)

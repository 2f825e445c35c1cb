"""Tokens for programs: of one's own, and of the workspace."""

from __future__ import annotations

import secrets
from collections.abc import Collection
from datetime import datetime, timedelta

from django.utils import timezone

from core.text import one_line
from server.accounts.by_token import PREFIX, digest_of
from server.accounts.models import Membership, Role, Token, TokenScope, User
from server.accounts.signals import leaving
from server.acting import acting
from server.problems import Refused
from server.removals.ledger import note_removal, replays
from server.sharing.policy import Can

MOST = 30
LONGEST = timedelta(days=366)


def make_token(membership: Membership, name: str, scopes: Collection[TokenScope], until: datetime, *, everybody: bool, guest: bool = False) -> tuple[Token, str]:
    """The token and its row; the token is told once. everybody: of the workspace, by who manages it: it comes in as a member of its own, who sees what all
    members see (guest: only what it is let into by name). Else as oneself. Raises Refused."""
    with acting(membership, Can.MANAGE if everybody else Can.ADD, "make token", scopes=sorted(scopes), everybody=everybody) as act:
        name = one_line(name)[:120]
        if not name or not scopes:
            raise Refused(422, "Say what the token is for, and what it lets one do.")
        if not timezone.now() < until <= timezone.now() + LONGEST:
            raise Refused(422, f"A token ends, at the latest after {LONGEST.days} days. Choose a day before that.")
        open_ones = Token.objects.filter(revoked_at=None, until__gt=timezone.now(), membership__workspace=membership.workspace)
        if open_ones.filter(membership__user__machine=True).count() >= MOST if everybody else open_ones.filter(membership=membership).count() >= MOST:
            raise Refused(409, f"{MOST} tokens are open, which is as many as there can be. Take some back first.")
        whose = _machine(membership, name, guest=guest) if everybody else membership
        said = PREFIX + secrets.token_urlsafe(32)
        token = Token.objects.create(membership=whose, made_by=membership.user, name=name, digest=digest_of(said), scopes=sorted(scopes), until=until)
        act.note(token=token.pk)
    return token, said


def revoke_token(membership: Membership, token: Token) -> None:
    """It leads nowhere any more; that cannot be undone, but another one can be made. What came in by one of the workspace's goes to whoever takes it back."""
    machine = token.membership.user.machine
    with acting(membership, Can.MANAGE if machine else None, "revoke token", token=token.pk):
        if not machine and token.membership_id != membership.pk:
            raise Refused(404, "There is no such token of yours.")
        note_removal("token", token=token.pk)
        Token.objects.filter(pk=token.pk, revoked_at=None).update(revoked_at=timezone.now())
        if machine:
            leaving.send(Membership, membership=token.membership, heir=membership)
            token.membership.delete()


@replays("token")
def _revoke_again(facts: dict) -> None:
    Token.objects.filter(pk=facts["token"], revoked_at=None).update(revoked_at=timezone.now())


def _machine(membership: Membership, name: str, *, guest: bool) -> Membership:
    """A member that nobody can sign in as, or write to: addresses under .invalid are nobody's (RFC 2606)."""
    user = User.objects.create_user(f"program-{secrets.token_hex(6)}@program.invalid", None, name=name, machine=True, is_active=False)
    return Membership.objects.create(user=user, workspace=membership.workspace, role=Role.GUEST if guest else Role.MEMBER, settled_in=True)

"""Tokens for programs."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from django.db.models import Q, QuerySet
from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership, Token, TokenScope
from server.answers import Answer
from server.bounds import Moment, Name, Number
from server.door.actions.tokens import make_token, revoke_token
from server.problems import Refused
from server.sharing.policy import Can, may, require

router = Router(tags=["tokens"], auth=signed_in)


class TokenOut(Schema):
    """everybody: it is the workspace's. guest: it sees only what it is let into by name. used_at: to a few minutes."""

    id: int
    name: str
    scopes: list[TokenScope]
    everybody: bool
    guest: bool
    until: datetime
    made_at: datetime
    by: str
    used_at: datetime | None
    revoked_at: datetime | None


class TokenMadeOut(TokenOut):
    """token: told once."""

    token: str


class TokenIn(Schema):
    """everybody: of the workspace. guest: then only for what it is let into by name."""

    name: Annotated[Name, Field(min_length=1, max_length=120)]
    scopes: list[TokenScope] = Field(min_length=1, max_length=8)
    until: Moment
    everybody: bool = False
    guest: bool = False


def _tokens(membership: Membership) -> QuerySet[Token]:
    """Mine; and the workspace's, where I manage it."""
    mine = Q(membership=membership.pk)
    if may(membership, Can.MANAGE):
        mine |= Q(membership__workspace=membership.workspace_id, membership__user__machine=True)
    return Token.objects.filter(mine).select_related("membership__user", "membership__workspace", "made_by")


def _token(token: Token) -> dict:
    told = {name: getattr(token, name) for name in ("id", "name", "scopes", "until", "made_at", "used_at", "revoked_at")}
    return {**told, "everybody": token.membership.user.machine, "guest": token.membership.from_outside, "by": token.made_by.called if token.made_by else ""}


@router.get("", response=list[TokenOut])
def tokens(request: HttpRequest) -> Answer:
    """Mine, and the workspace's where I manage it."""
    membership = membership_of(request)
    require(membership, Can.ADD)
    return [_token(one) for one in _tokens(membership)[:200]]


@router.post("", response={201: TokenMadeOut})
def make(request: HttpRequest, payload: TokenIn) -> Answer:
    """Make one. It is told once."""
    made, said = make_token(membership_of(request), payload.name, payload.scopes, payload.until, everybody=payload.everybody, guest=payload.guest)
    return 201, {**_token(made), "token": said}


@router.delete("/{token_id}", response={204: None})
def revoke(request: HttpRequest, token_id: Number) -> Answer:
    """Take it back."""
    membership = membership_of(request)
    found = _tokens(membership).filter(pk=token_id).first()
    if found is None:
        raise Refused(404, "There is no such token of yours (any more).")
    revoke_token(membership, found)
    return 204, None

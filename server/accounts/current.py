"""Who asks, and in which workspace."""

from __future__ import annotations

from typing import cast

from allauth.account.internal.flows.login import get_authentication_records
from allauth.mfa.models import Authenticator
from django.contrib.auth.models import AnonymousUser
from django.http import HttpRequest
from ninja.security import SessionAuth

from server.accounts.models import Membership, Token, User
from server.problems import Refused

WORKSPACE_KEY = "workspace"


class Signed(SessionAuth):
    """A signed-in user; CSRF is checked for every change."""

    def authenticate(self, request: HttpRequest, key: str | None) -> User | AnonymousUser | str | None:
        """The user, or None."""
        return request.user if request.user.is_authenticated else None


class Anybody(Signed):
    """Somebody who may be signed in or not. What they change is checked for CSRF all the same: a page elsewhere must not act as they."""

    def _get_key(self, request: HttpRequest) -> str:
        return super()._get_key(request) or "anybody"

    def authenticate(self, request: HttpRequest, key: str | None) -> User | AnonymousUser | str:
        """Always somebody."""
        return request.user if request.user.is_authenticated else "anybody"


signed_in = Signed()
anybody = Anybody()


def token_of(request: HttpRequest) -> Token | None:
    """The token by which a program came in; None where a person did, with a session."""
    return getattr(request, "token", None)


def user_of(request: HttpRequest) -> User:
    """Whoever asks, where the operation asks for a sign-in."""
    return cast(User, request.user)


def membership_of(request: HttpRequest) -> Membership:
    """The caller's place in the workspace they are in. Raises Refused when they are in none, or did not come in as it wants."""
    membership = place_of(request)
    if membership.user.machine:
        return membership
    if lacks_second(membership):
        raise Refused(403, "This workspace wants a second factor of everybody. Set one up under Account, How I sign in.", second_factor=True)
    if wanted := lacks_provider(request, membership):
        raise Refused(403, "This workspace wants its members to come in by way of their identity elsewhere. Sign in that way.", provider=wanted)
    return membership


def lacks_second(membership: Membership) -> bool:
    """Does the workspace want a second factor that they have not set up?"""
    return membership.workspace.second_factor and not has_second(membership.user)


def lacks_provider(request: HttpRequest, membership: Membership) -> str:
    """By way of whom they ought to have come in and did not; "" where nothing is wanted of them.

    Guests have no identity there. Owners who have a second factor come in without, so that a provider that is down shuts nobody out for good.
    """
    wanted = membership.workspace.provider
    if not wanted or token_of(request) or membership.from_outside or came_by(request, membership.user, wanted):
        return ""
    return "" if membership.answers_for_it and has_second(membership.user) else wanted


def came_by(request: HttpRequest, user: User, provider: str) -> bool:
    """Did somebody show in this session who they are by way of a provider?"""
    return any(one.get("provider") == provider for one in get_authentication_records(request, user))


def has_second(user: User) -> bool:
    """Has somebody a second factor: an app that makes codes, or a passkey? Codes for an emergency alone are none."""
    return Authenticator.objects.filter(user=user).exclude(type=Authenticator.Type.RECOVERY_CODES).exists()


def place_of(request: HttpRequest) -> Membership:
    """The same, whatever factors they have. Raises Refused when they are in none."""
    if token := token_of(request):
        return token.membership
    memberships = Membership.objects.select_related("workspace", "user").filter(user=user_of(request)).order_by("id")
    chosen = request.session.get(WORKSPACE_KEY)
    found = next((m for m in memberships if m.workspace_id == chosen), None) or memberships.first()
    if found is None:
        raise Refused(403, "You are in no workspace yet. Name one of your own, or ask for an invitation.")
    return found

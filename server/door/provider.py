"""Coming in by way of an identity provider (OpenID Connect), which whoever runs this server names (AFTERSHOWER_SIGN_IN).

An identity there is known by its key, never by its address: an address changes hands. It is tied to an account either because the account was
made by it, or by somebody who was signed in to the account. Where the address of an unknown identity has an account, its owner comes in with
the password once, and ties the two.
"""

from __future__ import annotations

import logging
from typing import Any

import requests
from allauth.account.adapter import get_adapter as account_adapter
from allauth.core.internal.httpkit import add_query_params
from allauth.headless.socialaccount.views import RedirectToProviderView
from allauth.socialaccount.adapter import DefaultSocialAccountAdapter
from allauth.socialaccount.internal.flows.login import record_authentication
from allauth.socialaccount.models import SocialAccount, SocialApp, SocialLogin, SocialToken
from allauth.socialaccount.providers.oauth2.client import OAuth2Error
from allauth.socialaccount.providers.oauth2.views import OAuth2CallbackView
from allauth.socialaccount.providers.openid_connect.views import OpenIDConnectOAuth2Adapter
from allauth.socialaccount.signals import social_account_added, social_account_updated
from django.conf import settings
from django.core.exceptions import ValidationError
from django.db.models.signals import pre_save
from django.dispatch import receiver
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.utils import timezone

from core.problems import InputProblem
from core.text import one_line
from server.accounts.models import Invitation, User
from server.outward import Outward

_log = logging.getLogger(__name__)
_BROKEN = (requests.RequestException, OAuth2Error, InputProblem, KeyError, TypeError, ValueError)
"""What comes of a provider that is down, or answers something else than it should."""
_AFTER_TROUBLE = "/sign-in"


def providers() -> list[dict[str, str]]:
    """Each with its id and what people call it."""
    return [{"id": one["provider_id"], "name": one["name"]} for one in _apps()]


def _apps() -> list[dict[str, Any]]:
    known: dict[str, Any] = settings.SOCIALACCOUNT_PROVIDERS
    return known["openid_connect"]["APPS"]


class ProviderAdapter(DefaultSocialAccountAdapter):
    """What the sign-in library leaves to us: whom an identity is tied to, and whether somebody new may come in."""

    def get_requests_session(self) -> requests.Session:
        """The way out, which goes nowhere it should not."""
        return Outward()

    def pre_social_login(self, request: HttpRequest, sociallogin: SocialLogin) -> None:
        """Somebody has shown there who they are. Raises ValidationError, whose code the sign-in page knows the words for."""
        if sociallogin.is_existing:
            return
        if sociallogin.state.get("process") == "connect":
            if SocialAccount.objects.filter(user=request.user.pk, provider=sociallogin.account.provider).exists():
                raise ValidationError("This account is tied to another identity there.", code="tied_already")
            return
        address = next((one.email.lower() for one in sociallogin.email_addresses if one.verified is True), None)
        if address is None:
            raise ValidationError("The provider does not vouch for an address.", code="no_address")
        if tied := User.objects.filter(email=address).first():
            taken = SocialAccount.objects.filter(user=tied, provider=sociallogin.account.provider).exists()
            raise ValidationError("That address has an account.", code="address_taken" if taken else "has_account")

    def is_open_for_signup(self, request: HttpRequest, sociallogin: SocialLogin) -> bool:
        """Also to whoever is invited: the provider vouches for the address that the invitation went to."""
        addresses = [one.email.lower() for one in sociallogin.email_addresses]
        invited = Invitation.objects.filter(accepted_at=None, ends_at__gt=timezone.now())
        return account_adapter().is_open_for_signup(request) or any(invited.filter(email__iexact=one).exists() for one in addresses)

    def populate_user(self, request: HttpRequest, sociallogin: SocialLogin, data: dict[str, Any]) -> User:
        """A new account has the address and the name from there."""
        user = sociallogin.user
        user.email = str(data.get("email") or "").lower()
        user.name = one_line(str(data.get("name") or ""))[:120]
        return user


@receiver(pre_save, sender=SocialAccount, dispatch_uid="nothing but the key")
def _keep_the_key_alone(sender: object, instance: SocialAccount, **_: object) -> None:
    """Nothing else of what a provider tells of somebody is kept here."""
    instance.extra_data = {}


@receiver([social_account_added, social_account_updated], dispatch_uid="shown there")
def _shown(sender: object, request: HttpRequest, sociallogin: SocialLogin, **_: object) -> None:
    """Whoever ties an identity, or shows once more that it is theirs, has shown who they are in this session, too."""
    if sociallogin.state.get("process") == "connect" and request.user == sociallogin.user:
        record_authentication(request, sociallogin)


class _Strict(OpenIDConnectOAuth2Adapter):
    """A token is wanted, its signature is checked, and details count only where they are of the same identity (OpenID Connect Core 1.0, 5.3.2)."""

    def complete_login(self, request: HttpRequest, app: SocialApp, token: SocialToken, **kwargs: Any) -> SocialLogin:
        """Who it is. Raises OAuth2Error."""
        self.did_fetch_access_token = False  # else its signature is taken on trust
        claims = self._decode_id_token(app, kwargs["response"].get("id_token") or "")
        if "email" not in claims:
            details = self._fetch_user_info(token.token)
            if details.get("sub") != claims["sub"]:
                raise OAuth2Error("details of somebody else")
            claims = {**details, **claims}
        return self.get_provider().sociallogin_from_response(request, {"id_token": claims})


class ToProvider(RedirectToProviderView):
    """The way there. It is a form's, not a script's."""

    def post(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        """To the provider's page, or back with what is wrong."""
        try:
            return super().post(request, *args, **kwargs)
        except _BROKEN as error:
            return _down(error, request.POST.get("callback_url", ""))


def from_provider(request: HttpRequest, provider_id: str) -> HttpResponse:
    """The way back, with a code."""
    try:
        return OAuth2CallbackView.adapter_view(_Strict(request, provider_id))(request)
    except SocialApp.DoesNotExist:
        return _back("", "unknown")
    except _BROKEN as error:
        return _down(error)


def _down(error: Exception, to: str = "") -> HttpResponse:
    # Its kind alone: an answer that could not be read may have somebody's details in it.
    _log.warning("A provider of sign-in answers nothing that can be used: %s", type(error).__name__)
    return _back(to, "provider_down")


def _back(to: str, trouble: str) -> HttpResponse:
    safe = to if to and account_adapter().is_safe_url(to) else _AFTER_TROUBLE
    return HttpResponseRedirect(add_query_params(safe, {"error": trouble}))

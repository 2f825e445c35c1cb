"""What the sign-in library leaves to us: who may sign up, its mail, and how guessing is slowed down."""

from __future__ import annotations

from functools import partial
from typing import Any

from allauth.account.adapter import DefaultAccountAdapter
from django.conf import settings
from django.http import HttpRequest

from server.accounts.models import User
from server.languages import translated
from server.mail.post import post
from server.mail.wording import Kind

_MAILS = {"password_reset_key": Kind.NEW_PASSWORD, "unknown_account": Kind.NO_ACCOUNT}
"""The library's mails, by the end of their names, and ours in their place."""
_CHANGES = {
    "password_changed": "The password was changed.",
    "password_reset": "The password was set anew, by way of a mail.",
    "password_set": "A password was set.",
    "totp_activated": "An app that makes codes was added as a second factor.",
    "totp_deactivated": "The app that makes codes is a second factor no more.",
    "webauthn_added": "A passkey was added.",
    "webauthn_removed": "A passkey was taken away.",
    "account_connected": "An identity elsewhere was tied to the account: one comes in by way of it.",
    "account_disconnected": "An identity elsewhere was tied to the account, and is not any more.",
    "recovery_codes_generated": "New codes for an emergency were made.",
}
"""What it tells of how somebody signs in. It sends no other mails as it is set here."""


class AccountAdapter(DefaultAccountAdapter):
    """Sign-up is open when the setting says so, and to the very first person of a new installation."""

    def is_open_for_signup(self, request: HttpRequest) -> bool:
        """Asked by django-allauth before a sign-up."""
        return settings.SIGN_UP_OPEN or not User.objects.exists()

    def send_mail(self, template_prefix: str, email: str, context: dict[str, Any]) -> None:
        """By way of our own outgoing mail. Raises KeyError for a mail that has no words."""
        name = template_prefix.rsplit("/", 1)[-1]
        if what := _CHANGES.get(name):
            post(Kind.SIGN_IN_CHANGED, email, what=partial(translated, what), email=email)
            return
        kind = _MAILS[name]
        post(kind, email, link=context.get("password_reset_url", ""), email=email)

    def send_notification_mail(self, template_prefix: str, user: User, context: dict[str, Any] | None = None, email: str | None = None) -> None:
        """To the one address that an account has here."""
        self.send_mail(template_prefix, user.email, context or {})

    def _get_login_attempts_cache_key(self, request: HttpRequest, **credentials: Any) -> str:
        """Failures are counted for an account and the address they come from together: guessing elsewhere locks nobody out here."""
        return f"{super()._get_login_attempts_cache_key(request, **credentials)} {self.get_client_ip(request)}"

"""What the sign-in library leaves to us: who may sign up, its mail, and how guessing is slowed down."""

from __future__ import annotations

from typing import Any

from allauth.account.adapter import DefaultAccountAdapter
from django.conf import settings
from django.http import HttpRequest

from server.accounts.models import User
from server.mail.post import post
from server.mail.wording import Kind

_MAILS = {"password_reset_key": Kind.NEW_PASSWORD, "unknown_account": Kind.NO_ACCOUNT}
"""The library's mails, by the end of their names, and ours in their place. It sends no others as it is set here."""


class AccountAdapter(DefaultAccountAdapter):
    """Sign-up is open when the setting says so, and to the very first person of a new installation."""

    def is_open_for_signup(self, request: HttpRequest) -> bool:
        """Asked by django-allauth before a sign-up."""
        return settings.SIGN_UP_OPEN or not User.objects.exists()

    def send_mail(self, template_prefix: str, email: str, context: dict[str, Any]) -> None:
        """By way of our own outgoing mail. Raises KeyError for a mail that has no words."""
        kind = _MAILS[template_prefix.rsplit("/", 1)[-1]]
        post(kind, email, link=context.get("password_reset_url", ""), email=email)

    def _get_login_attempts_cache_key(self, request: HttpRequest, **credentials: Any) -> str:
        """Failures are counted for an account and the address they come from together: guessing elsewhere locks nobody out here."""
        return f"{super()._get_login_attempts_cache_key(request, **credentials)} {self.get_client_ip(request)}"

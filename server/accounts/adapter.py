"""Whether a stranger may sign up."""

from allauth.account.adapter import DefaultAccountAdapter
from django.conf import settings

from server.accounts.models import User


class AccountAdapter(DefaultAccountAdapter):
    """Sign-up is open when the setting says so, and to the very first person of a new installation."""

    def is_open_for_signup(self, request) -> bool:
        """Asked by django-allauth before a sign-up."""
        return settings.SIGN_UP_OPEN or not User.objects.exists()

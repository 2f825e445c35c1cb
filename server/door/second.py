"""The second factor: kept sealed."""

from __future__ import annotations

from allauth.mfa.adapter import DefaultMFAAdapter

from server.sealing import seal, unseal


class SecondFactorAdapter(DefaultMFAAdapter):
    """What the sign-in library leaves to us of it."""

    def encrypt(self, text: str) -> str:
        """Whoever has the database alone has no factor of anybody's."""
        return seal(text)

    def decrypt(self, encrypted_text: str) -> str:
        """The same back."""
        return unseal(encrypted_text)

    def get_totp_issuer(self) -> str:
        """What the app that makes the codes calls us."""
        return "Aftershower"

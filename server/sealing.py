"""Credentials of other services, sealed while they are kept: whoever has the database alone cannot use them."""

from __future__ import annotations

import base64
import hashlib

from cryptography.fernet import Fernet, InvalidToken
from django.conf import settings


def _fernet() -> Fernet:
    return Fernet(base64.urlsafe_b64encode(hashlib.sha256(f"sealing {settings.SECRET_KEY}".encode()).digest()))


def seal(text: str) -> str:
    """AES-128-CBC with HMAC (the Fernet specification), under this server's own key; nothing stays nothing."""
    return _fernet().encrypt(text.encode()).decode() if text else ""


def unseal(sealed: str) -> str:
    """What was sealed; "" where the server's key has changed since, so that it has to be given anew."""
    try:
        return _fernet().decrypt(sealed.encode()).decode() if sealed else ""
    except InvalidToken:
        return ""

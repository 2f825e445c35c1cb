"""Whether a message is what it says it is: signed as Standard Webhooks 1.0.0 has it, with a secret that only the sender has."""

from __future__ import annotations

import base64
import binascii
import hashlib
import hmac
import secrets
from collections.abc import Mapping

from server.problems import Refused

PREFIX = "whsec_"
TOLERANCE = 300.0
"""Seconds that the sender's clock may differ from ours, and that a message may be under way: what is older may have been listened to."""


def new_secret() -> str:
    """As it is handed to the sender."""
    return PREFIX + base64.b64encode(secrets.token_bytes(24)).decode()


def signature(secret: str, key: str, stamp: str, body: bytes) -> str:
    """Of a message: HMAC with SHA-256 over its key, its time stamp and its body."""
    raw = base64.b64decode(secret.removeprefix(PREFIX))
    return "v1," + base64.b64encode(hmac.new(raw, f"{key}.{stamp}.".encode() + body, hashlib.sha256).digest()).decode()


def is_secret(secret: str) -> bool:
    """Is it one that can be signed with: 24 to 64 bytes in base64, after PREFIX?"""
    try:
        return secret.startswith(PREFIX) and 24 <= len(base64.b64decode(secret.removeprefix(PREFIX), validate=True)) <= 64
    except binascii.Error:
        return False


def headers_of(secret: str, key: str, stamp: str, body: bytes) -> dict[str, str]:
    """By which a message says whose it is."""
    return {"webhook-id": key, "webhook-timestamp": stamp, "webhook-signature": signature(secret, key, stamp, body)}


def check(secret: str, headers: Mapping[str, str], body: bytes, now: float) -> str:
    """The key of a message that is signed rightly and not old. Raises Refused."""
    key, stamp, given = (headers.get(f"webhook-{name}", "") for name in ("id", "timestamp", "signature"))
    if not (key and stamp and given):
        raise Refused(401, "This message is not signed: it wants webhook-id, webhook-timestamp and webhook-signature.")
    try:
        expected = signature(secret, key, stamp, body)
        age = abs(now - int(stamp))
    except (ValueError, binascii.Error) as error:
        raise Refused(401, "The signature of this message cannot be read.") from error
    # Several, where the sender is about to change its secret.
    if not any(hmac.compare_digest(one.encode(), expected.encode()) for one in given.split()):
        raise Refused(401, "The signature of this message is not of its secret. Check that the other side has the one that it was given here.")
    if age > TOLERANCE:
        raise Refused(401, "This message is too old, or the sender's clock is wrong. Sign it anew and send it again.")
    return key[:200]

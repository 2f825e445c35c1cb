"""Signed messages (Standard Webhooks 1.0.0), as other sides write and check them: on their own, so that the server is checked against something else."""

from __future__ import annotations

import base64
import hashlib
import hmac
import json
import secrets
import time
import urllib.error
import urllib.request
from typing import Any


def signature(secret: str, key: str, stamp: str, body: bytes) -> str:
    """Of a message, by a secret that begins with whsec_."""
    raw = base64.b64decode(secret.removeprefix("whsec_"))
    return "v1," + base64.b64encode(hmac.new(raw, f"{key}.{stamp}.".encode() + body, hashlib.sha256).digest()).decode()


def send(url: str, secret: str, said: dict[str, Any], key: str = "") -> tuple[int, str]:
    """Send one; the status that came back and what was said with it, 0 where nobody answers. key: of one that is sent again."""
    body, key, stamp = json.dumps(said).encode(), key or f"msg_{secrets.token_hex(12)}", str(int(time.time()))
    headers = {"Content-Type": "application/json", "webhook-id": key, "webhook-timestamp": stamp, "webhook-signature": signature(secret, key, stamp, body)}
    opener = urllib.request.build_opener(urllib.request.ProxyHandler({}))
    try:
        with opener.open(urllib.request.Request(url, body, headers, method="POST"), timeout=10) as answer:
            return int(answer.status), ""
    except urllib.error.HTTPError as error:
        return error.code, error.read().decode(errors="replace")[:300]
    except OSError as error:
        return 0, str(error)

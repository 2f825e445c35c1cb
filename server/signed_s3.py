"""Requests to a store of objects at an address that people name: signed as botocore signs (S3, signature version 4), on the way of our own requests."""

from __future__ import annotations

from typing import Any

import requests
from botocore.auth import S3SigV4Auth
from botocore.awsrequest import AWSRequest
from botocore.credentials import Credentials


class SignedS3(requests.auth.AuthBase):
    """For requests: what goes is signed with a key and its secret, for a region."""

    def __init__(self, key: str, secret: str, region: str = "us-east-1") -> None:
        self._auth = S3SigV4Auth(Credentials(key, secret), "s3", region)

    def __call__(self, request: requests.PreparedRequest) -> requests.PreparedRequest:
        """As requests asks of it."""
        body: Any = request.body or b""
        conditions = {name: value for name, value in request.headers.items() if name.lower().startswith("if-")}
        signed = AWSRequest(request.method, request.url, headers=conditions, data=body)
        self._auth.add_auth(signed)
        request.headers.update(dict(signed.headers.items()))
        return request

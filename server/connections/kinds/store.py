"""A store of objects by the interface of S3 (signature version 4), at an address that people name: asked by way of `server.outward` alone."""

from __future__ import annotations

from typing import ClassVar
from urllib.parse import quote

import requests
from pydantic import Field

from server.connections.kinds.base import Address, Line, Missing, Secret
from server.connections.kinds.files import Files, FilesSettings
from server.connections.kinds.speaking import Speaker
from server.signed_s3 import SignedS3


class StoreSettings(FilesSettings):
    """Where it is, and who is let in."""

    address: Address = Field(title="Address", description="Of the store, without the bucket.")
    bucket: Line = Field(title="Bucket", min_length=3, pattern=r"^[a-z0-9][a-z0-9.-]{1,61}[a-z0-9]$")
    region: Line = Field("us-east-1", title="Region")
    key: Line = Field(title="Key", min_length=1, description="The public half of the credentials.")
    secret: Secret = Field(title="Secret key")


class Store(Files):
    """Told apart by the digest that the store gives of each object."""

    name: ClassVar[str] = "store"
    title: ClassVar[str] = "A store of objects"
    about: ClassVar[str] = "Minutes and records lie there as objects, named by a rule, and are kept in step (S3)."
    asks = StoreSettings
    settings: StoreSettings

    def check(self) -> str:
        """May the bucket be listed?"""
        self._ask("GET", "?list-type=2&max-keys=1")
        return f"The bucket “{self.settings.bucket}” is there."

    def state(self, path: str) -> str | None:
        """As HEAD tells."""
        try:
            return self._ask("HEAD", f"/{quote(path)}").headers.get("ETag", "")
        except Missing:
            return None

    def put(self, path: str, data: bytes, *, only: str | None) -> str:
        """Conditions on writing are kept by stores that know them; the others were asked just before."""
        headers = {} if only is None else {"If-Match": only} if only else {"If-None-Match": "*"}
        return self._ask("PUT", f"/{quote(path)}", data=data, headers=headers).headers.get("ETag", "")

    def remove(self, path: str, state: str) -> None:
        """The object."""
        self._ask("DELETE", f"/{quote(path)}")

    def _ask(self, method: str, path: str, data: bytes | None = None, headers: dict[str, str] | None = None) -> requests.Response:
        speaker = Speaker(self.settings.address, auth=SignedS3(self.settings.key, self.settings.secret, self.settings.region))
        return speaker.ask(method, f"{speaker.address}{self.settings.bucket}{path}", data=data, headers=headers)

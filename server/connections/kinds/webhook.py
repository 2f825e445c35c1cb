"""Any program that listens at an address: told by messages as Standard Webhooks 1.0.0 has them, signed, each with a key of its own."""

from __future__ import annotations

import json
import time
from typing import ClassVar

from pydantic import Field

from server.connections.events import event_of
from server.connections.kinds.base import Address, Denied, Kind, Missing, Parcel, Receipt, Secret, Settings
from server.connections.kinds.speaking import Speaker
from server.connections.models import Happened, Subject
from server.signed import PREFIX, headers_of, is_secret


class WebhookSettings(Settings):
    """Where it listens, and what messages are signed with."""

    address: Address = Field(title="Address", description="Where the program listens, beginning with https://.")
    secret: Secret = Field(
        title="Signing secret",
        description=f"Begins with {PREFIX}. The program has the same one, and knows by it that a message comes from here.",
        json_schema_extra={"secret": True, "made": "whsec"},
    )


class Webhook(Kind):
    """It takes everything. What is taken back, it is told of: what it does then is its own affair."""

    name: ClassVar[str] = "webhook"
    title: ClassVar[str] = "A program of your own"
    about: ClassVar[str] = "Gets a signed message whenever something is settled or changes, as the API page describes."
    asks = WebhookSettings
    takes = frozenset(Subject) - {Subject.ANSWER}
    keyed = True
    recalls = True
    settings: WebhookSettings

    def check(self) -> str:
        """A message that nothing happened, so that it can be seen whether it is taken."""
        self._tell("check", f"check-{time.time_ns()}", {"type": "check", "data": {}})
        return f"{self._speaker().host} has taken a message."

    def deliver(self, parcel: Parcel) -> Receipt:
        """Tell of it."""
        said = {"type": event_of(parcel.subject, parcel.happened), "timestamp": parcel.at.isoformat(), "data": parcel.contents.model_dump(mode="json")}
        receipt = Receipt(f"{parcel.subject} {parcel.contents_id}")
        parcel.reserve(receipt)  # a program cannot be asked whether it was told
        self._tell("deliver", parcel.key_of_words, said)
        return receipt

    def withdraw(self, key: str, there: Receipt) -> None:
        """Tell that it is not there any more: its key, and nothing else of it."""
        subject, _, gone = there.remote.partition(" ")
        said = {"type": event_of(Subject(subject), Happened.GONE), "data": {"id": gone}}
        self._tell("withdraw", key, said)

    def _speaker(self) -> Speaker:
        return Speaker(self.settings.address)

    def _tell(self, why: str, key: str, said: dict) -> None:
        if not is_secret(self.settings.secret):
            raise Denied(f"The signing secret is none: it begins with {PREFIX} and goes on in base64, of 24 to 64 bytes.")
        body, stamp = json.dumps(said).encode(), str(int(time.time()))
        headers = {"Content-Type": "application/json", **headers_of(self.settings.secret, f"msg_{key}", stamp, body)}
        try:
            self._speaker().ask("POST", data=body, headers=headers)
        except Missing as missing:
            # Nobody listens there any more (Standard Webhooks: 410): that is no removal.
            raise Denied(str(missing)) from missing

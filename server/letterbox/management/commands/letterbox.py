"""Where mail to the clerk is handed in: by SMTP, or LMTP (RFC 2033), from the mail server that has the domain. Any number of them may run."""

from __future__ import annotations

import logging
import signal
import threading
from argparse import ArgumentParser
from typing import Any

from aiosmtpd.controller import Controller
from aiosmtpd.lmtp import LMTP
from aiosmtpd.smtp import SMTP, Envelope, Session
from django.conf import settings
from django.core.management.base import BaseCommand, CommandError

from server.accounts.models import Workspace
from server.letterbox.actions.take_letter import take_letter, take_reply
from server.mail.models import Letter
from server.mail.post import replied_to
from server.pipeline.work import kept
from server.problems import AWAY, Refused

logger = logging.getLogger("server.letterbox")
LARGEST = 40 * 1024 * 1024
"""Bytes of a mail. Recordings are larger than what most mail servers hand on; those come as files."""


class Command(BaseCommand):
    """See above."""

    help = "Take in mail to the clerk."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Where."""
        parser.add_argument("--host", default="127.0.0.1")
        parser.add_argument("--port", type=int, default=8626)
        parser.add_argument("--lmtp", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        """Until told to stop."""
        if not settings.MAIL_DOMAIN:
            raise CommandError("Name the domain whose mail is handed in here: AFTERSHOWER_MAIL_DOMAIN")
        kind = LMTP if options["lmtp"] else SMTP
        door = Door(Letterbox(), kind, hostname=options["host"], port=options["port"], data_size_limit=LARGEST, ident="Aftershower")
        stopped = threading.Event()
        for sign in (signal.SIGTERM, signal.SIGINT):
            signal.signal(sign, lambda *_: stopped.set())
        door.start()
        stopped.wait()
        door.stop()


class Door(Controller):
    """Listens on a thread of its own."""

    def __init__(self, handler: Letterbox, kind: type[SMTP], **options: Any) -> None:
        """kind: of the protocol. The rest is aiosmtpd's."""
        self._kind = kind
        super().__init__(handler, **options)

    def factory(self) -> SMTP:
        """As its base has it, of either kind."""
        return self._kind(self.handler, **self.SMTP_kwargs)


class Letterbox:
    """aiosmtpd's handler. What cannot be taken just now is answered so that the mail server keeps it and comes again: nothing is lost."""

    async def handle_RCPT(self, server: SMTP, session: Session, envelope: Envelope, address: str, options: list[str]) -> str:  # noqa: N802 (aiosmtpd's name)
        """Is there such an address?"""
        try:
            known = await kept(_whose, address)
        except AWAY:
            return "451 4.3.0 Not just now; come again later"
        if known is None:
            return "550 5.1.1 Nobody has this address"
        envelope.rcpt_tos.append(address)
        return "250 OK"

    async def handle_DATA(self, server: SMTP, session: Session, envelope: Envelope) -> str:  # noqa: N802 (aiosmtpd's name)
        """A letter."""
        data = envelope.content if isinstance(envelope.content, bytes) else b""
        try:
            for address in dict.fromkeys(envelope.rcpt_tos):
                await kept(_take, address, data)
        except Refused as refused:
            return f"452 4.7.1 {refused.detail}"
        except AWAY:
            return "451 4.3.0 Not just now; come again later"
        except Exception:
            logger.exception("a letter was not taken")
            return "451 4.3.0 Not just now; come again later"
        return "250 OK"


def _workspace_of(address: str) -> Workspace | None:
    name, _, domain = address.lower().rpartition("@")
    if domain != settings.MAIL_DOMAIN or not name.startswith("clerk-"):
        return None
    return Workspace.objects.filter(clerk_key=name.removeprefix("clerk-")).first()


def _whose(address: str) -> Workspace | Letter | None:
    """A workspace whose clerk is written to, or a letter that is answered."""
    return _workspace_of(address) or replied_to(address)


def _take(address: str, data: bytes) -> None:
    whose = _whose(address)
    if isinstance(whose, Letter):
        take_reply(whose, data)
    elif whose:
        take_letter(whose, data)

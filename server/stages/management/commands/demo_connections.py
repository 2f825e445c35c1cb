"""The demo's outside systems: Maren has connected a tracker, a chat and a file of customers. Only where the demo is loaded."""

from __future__ import annotations

import json
from typing import Any

from django.core.management.base import BaseCommand, CommandParser
from django.utils import timezone

from demo.people import OUTSIDE, USERS, WORKSPACE
from server.accounts.models import Membership
from server.connections.actions.connect import subscribe
from server.connections.models import Connection, FieldQuestion
from server.sealing import seal
from server.signed import new_secret

NAMES = {"tracker": "Glasshouse tasks", "chat": "Garden chat", "customers": "Suppliers and contractors"}
MORE = {"tracker": {"project": "glasshouse"}, "chat": {"room": ""}, "customers": {}}


class Command(BaseCommand):
    """`manage.py demo_connections KIND=ADDRESS …`, called by `./aftershower up` at every start: the addresses may be others each time."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """Where each is."""
        parser.add_argument("addresses", nargs="+")

    def handle(self, *args: Any, addresses: list[str], **options: Any) -> None:
        """Each once: one that was taken away stays away."""
        maren = Membership.objects.filter(workspace__name=WORKSPACE, user__email=USERS[0][0]).select_related("workspace").first()
        if maren is None:
            return
        for kind, _, address in (one.partition("=") for one in addresses):
            settings = {"address": address, **MORE[kind]}
            known = Connection.objects.filter(workspace=maren.workspace, kind=kind, name=NAMES[kind])
            if not known.exists():
                secrets = seal(json.dumps({"token": OUTSIDE[kind]}))
                made = Connection.objects.create(
                    workspace=maren.workspace, made_by=maren, kind=kind, name=NAMES[kind], secrets=secrets, signing=seal(new_secret()), next_at=timezone.now()
                )
                if kind == "customers":
                    FieldQuestion.objects.create(connection=made, field="concerns", title="What worries them", type="text", question="What are they worried about?")
            known.filter(dropped_at=None).update(settings=settings, next_at=timezone.now(), trouble="", fails=0)
            for one in known.filter(dropped_at=None):
                subscribe(one)

"""The demo's calendar: what the stand-in server is to hold, around today, and that Maren has connected it. Only where the demo is loaded."""

from __future__ import annotations

from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

from django.core.management.base import BaseCommand, CommandParser
from django.utils import timezone

from demo.calendar import engagements
from demo.people import CALENDAR, USERS, WORKSPACE
from server.accounts.models import Membership
from server.calendars.models import Calendar, CalendarKind
from server.sealing import seal
from standins.calendar import write_events


class Command(BaseCommand):
    """`manage.py demo_calendar ADDRESS FILE CONFERENCE`, called by `./aftershower up` at every start: the address may be another one each time."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """Where the stand-in will be, the file that it is filled from, and where the conference is that the demo's calls lead to."""
        parser.add_argument("address")
        parser.add_argument("file", type=Path)
        parser.add_argument("conference")

    def handle(self, *args: Any, address: str, file: Path, conference: str, **options: Any) -> None:
        """Write the file, and the row where it is not taken away."""
        maren = Membership.objects.filter(workspace__name=WORKSPACE, user__email=USERS[0][0]).first()
        if maren is None:
            return
        account, password, title = CALENDAR["account"], CALENDAR["password"], CALENDAR["title"]
        write_events(file, {account: password}, {account: {title: engagements(timezone.localdate(), conference)}})
        place = {"address": seal(f"{address}/{account}/{title.lower().replace(' ', '-')}/"), "host": urlsplit(address).hostname or ""}
        rest = {"next_at": timezone.now(), "token": "", "trouble": "", "fails": 0}
        kept = Calendar.objects.filter(membership=maren, kind=CalendarKind.ACCOUNT, username=account, name=title)
        if not kept.update(**place, **rest) and not file.with_suffix(".connected").exists():
            Calendar.objects.create(
                membership=maren, kind=CalendarKind.ACCOUNT, username=account, name=title, secret=seal(password), **place, **rest
            )
        file.with_suffix(".connected").touch()

"""Everything the database needs before serving: tables, the cache's table, and the demo where it is wanted."""

from __future__ import annotations

import time
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import OperationalError, connection
from psycopg.errors import LockNotAvailable

from server.removals.unfinished import is_unfinished

_WAIT = 2
"""Seconds for which a change of a table waits for whoever reads it: others who want to read wait behind it as long."""
_TRIES = 60


class Command(BaseCommand):
    """`manage.py prepare [--demo]`: one process instead of three. restoring: by a restore, which is not finished before."""

    help = __doc__
    stealth_options = ("restoring",)

    def add_arguments(self, parser: CommandParser) -> None:
        """Whether to load the demo into an empty database."""
        parser.add_argument("--demo", action="store_true")

    def handle(self, *args: Any, demo: bool, restoring: bool = False, **options: Any) -> None:
        """Do it; what is done already is passed over."""
        if not restoring and is_unfinished():
            raise CommandError("A restore was cut off here. Run it once more, with the same folder: ./aftershower restore FOLDER")
        self._migrate()
        call_command("createcachetable", verbosity=0)
        if demo:
            call_command("load_demo")

    def _migrate(self) -> None:
        """A migration stops nobody from reading: it waits a moment for its tables, steps back, and tries again."""
        for attempt in range(_TRIES):
            try:
                with connection.cursor() as cursor:
                    cursor.execute(f"set lock_timeout = '{_WAIT}s'")
                call_command("migrate", interactive=False, verbosity=0)
                return
            except OperationalError as error:
                if not isinstance(error.__cause__, LockNotAvailable) or attempt == _TRIES - 1:
                    raise
                self.stderr.write(f"a table is in use; trying again ({attempt + 1} of {_TRIES})")
                time.sleep(_WAIT / 2)
            finally:
                with connection.cursor() as cursor:
                    cursor.execute("reset lock_timeout")

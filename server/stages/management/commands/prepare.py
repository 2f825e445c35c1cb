"""Everything the database needs before serving: tables, the cache's table, and the demo where it is wanted."""

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser


class Command(BaseCommand):
    """`manage.py prepare [--demo]`: one process instead of three."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """Whether to load the demo into an empty database."""
        parser.add_argument("--demo", action="store_true")

    def handle(self, *args: Any, demo: bool, **options: Any) -> None:
        """Do it; what is done already is passed over."""
        call_command("migrate", interactive=False, verbosity=0)
        call_command("createcachetable")
        if demo:
            call_command("load_demo")

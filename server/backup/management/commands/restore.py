"""Put a backup back into an empty installation."""

import os
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from server.backup.archive import Folder
from server.backup.put_back import put_back
from server.backup.told import told


class Command(BaseCommand):
    """`manage.py restore FOLDER [--of NAME] [--removals FILE]`; a passphrase by AFTERSHOWER_BACKUP_PASSPHRASE."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """Where from, and which."""
        parser.add_argument("folder", type=Path)
        parser.add_argument("--of", default="", metavar="NAME")
        parser.add_argument("--removals", type=Path, metavar="FILE")

    def handle(self, *args: Any, folder: Path, of: str, removals: Path | None, **options: Any) -> None:
        """Do it."""
        with told("put back", folder):
            opened = Folder.open(folder, os.environ.get("AFTERSHOWER_BACKUP_PASSPHRASE", ""))
            put_back(opened, of, self.stderr.write, removals)

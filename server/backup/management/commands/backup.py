"""Make a backup, or thin those there are."""

import os
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from server.backup.archive import Folder
from server.backup.make import make_backup
from server.backup.make import thin as let_go_of_older
from server.backup.told import told


class Command(BaseCommand):
    """`manage.py backup FOLDER [--thin]`; a passphrase by AFTERSHOWER_BACKUP_PASSPHRASE."""

    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        """Where to, and whether older ones go."""
        parser.add_argument("folder", type=Path)
        parser.add_argument("--thin", action="store_true")

    def handle(self, *args: Any, folder: Path, thin: bool, **options: Any) -> None:
        """Do it."""
        with told("made", folder):
            opened = Folder.open_or_begin(folder, os.environ.get("AFTERSHOWER_BACKUP_PASSPHRASE", ""))
            make_backup(opened, self.stderr.write)
            if thin:
                let_go_of_older(opened, self.stderr.write)

"""Save the whole shop to one archive."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from workshop.opening.archive import ArchiveError, save


class Command(BaseCommand):
    """Database and files, as of one moment."""

    help = "Saves the database and every file into one archive, and reads it again."

    def add_arguments(self, parser: CommandParser) -> None:
        """Where to."""
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        """Save and say what is in it."""
        try:
            found = save(options["file"])
        except (ArchiveError, OSError) as error:
            raise CommandError(str(error)) from error
        self.stdout.write(
            f"Saved {found.lines} lines and {found.files} files to {options['file']}, and read them again."
        )

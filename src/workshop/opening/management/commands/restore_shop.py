"""Put a whole shop back from an archive."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connection
from psycopg import sql

from launch.state import Role
from workshop.opening.archive import ArchiveError, prove, restore
from workshop.opening.grants import give_rights


class Command(BaseCommand):
    """A used shop is replaced only when somebody says so."""

    help = "Puts the database and every file back from an archive."

    def add_arguments(self, parser: CommandParser) -> None:
        """Where from."""
        parser.add_argument("file", type=Path)
        parser.add_argument("--yes", action="store_true", help="replace what the shop holds without asking")

    def handle(self, *args: Any, **options: Any) -> None:
        """Prove the archive, ask, put it back."""
        try:
            found = prove(options["file"])
            holds = _lines_here()
            if holds and not options["yes"] and not self._may_replace(holds, found.lines):
                raise CommandError("Nothing was changed.")
            restore(options["file"])
        except (ArchiveError, OSError) as error:
            raise CommandError(str(error)) from error
        # An archive of an older version is brought up to date.
        _be_the_owner()
        call_command("migrate", verbosity=0)
        give_rights()
        self.stdout.write(
            f"{found.lines} lines and {found.files} files are back. What was before is kept in the database "
            f"{connection.settings_dict['NAME']}_before."
        )

    def _may_replace(self, holds: int, brings: int) -> bool:
        if not sys.stdin.isatty():
            raise CommandError(f"The shop holds {holds} lines. To replace them, say --yes.")
        self.stdout.write(
            f"The shop holds {holds} lines; the archive brings {brings}. Replace them? Type yes: "
        )
        return input().strip().casefold() == "yes"


def _be_the_owner() -> None:
    """What is made from here on belongs to the owner's role, as everything else does."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1 FROM pg_roles WHERE rolname = %s", [Role.OWNER.value])
        if cursor.fetchone() is not None:
            cursor.execute(sql.SQL("SET ROLE {}").format(sql.Identifier(Role.OWNER.value)))


def _lines_here() -> int:
    """Lines in the shop as it is; a shop that was never opened has no tables yet."""
    if "orders_orderline" not in connection.introspection.table_names():
        return 0
    with connection.cursor() as cursor:
        cursor.execute("SELECT count(*) FROM orders_orderline")
        return int(cursor.fetchone()[0])

"""Keeping an edition of a process or a material."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User
from django.db import connection, transaction

from kizami.errors import CatalogueError
from kizami.standards import shipped_standards, table_of_material, table_of_process
from workshop.standards.models import LONGEST_WHY, SHORTEST_WHY, Standard, standard_from

__all__ = ["MOST_OF_A_KIND", "edition_of", "keep_edition", "table_now"]

#: Processes, or materials, of one shop.
MOST_OF_A_KIND = 100


def table_now(kind: str, code: str) -> tuple[dict[str, Any], int] | None:
    """The table of a process or a material and its edition's number, 0 as it ships; None for neither."""
    row = Standard.objects.current().filter(kind=kind, code=code).first()
    if row is not None:
        return row.table, row.number
    shipped = shipped_standards()
    if kind == Standard.Kind.PROCESS and code in shipped.processes:
        return table_of_process(shipped.processes[code]), 0
    if kind == Standard.Kind.MATERIAL and code in shipped.materials:
        return table_of_material(shipped.materials[code]), 0
    return None


def edition_of(kind: str, code: str) -> int:
    """The number of the edition that stands now, 0 as it ships."""
    now = table_now(kind, code)
    return now[1] if now is not None else 0


def keep_edition(
    kind: str, code: str, table: dict[str, Any], *, why: str, user: User | None, retired: bool = False
) -> Standard | None:
    """Keep a process or a material as its next edition; None where it is as it was.

    Raises
    ------
    kizami.errors.CatalogueError : it can't be, there is no reason, or there are too many; nothing is kept
    """
    why = " ".join(why.split())
    standard_from(kind, code, table)
    with transaction.atomic():
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_xact_lock(hashtext(%s))", [f"{kind} {code}"])
        before = Standard.objects.current().filter(kind=kind, code=code).first()
        now = table_now(kind, code)
        if now is not None and now[0] == table and retired == (before is not None and before.retired):
            return None
        if not SHORTEST_WHY <= len(why) <= LONGEST_WHY:
            raise CatalogueError(f"Say in {SHORTEST_WHY} to {LONGEST_WHY} characters why it is changed.")
        if now is None and Standard.objects.current().filter(kind=kind).count() >= MOST_OF_A_KIND:
            raise CatalogueError(f"There may be {MOST_OF_A_KIND} of a kind. Change one of those that are.")
        Standard.objects.filter(kind=kind, code=code, is_current=True).update(is_current=False)
        return Standard.objects.create(
            kind=kind, code=code, number=before.number + 1 if before is not None else 1, table=table,
            retired=retired, why=why, who=user,
        )  # fmt: skip

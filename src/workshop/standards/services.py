"""Keeping an edition of a process or a material."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import User
from django.db import connection, transaction

from kizami.errors import CatalogueError
from kizami.standards import Standards, shipped_standards, table_of_material, table_of_process
from workshop.standards.models import LONGEST_WHY, SHORTEST_WHY, Standard, standard_from

__all__ = ["MOST_OF_A_KIND", "held_still", "keep_edition", "table_now"]

#: Processes, or materials, of one shop.
MOST_OF_A_KIND = 100


#: One lock for all of them: they change once a month.
_LOCK = "standards"


def held_still() -> Standards:
    """What the shop holds to, which stays so until the transaction ends."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock_shared(hashtext(%s))", [_LOCK])
    return Standard.objects.now()


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


def keep_edition(
    kind: str,
    code: str,
    table: dict[str, Any],
    *,
    why: str,
    user: User | None,
    retired: bool = False,
    edition: int | None = None,
) -> Standard | None:
    """Keep a process or a material as its next edition; None where it is as it was.

    Parameters
    ----------
    edition : the number of the one that was looked at, 0 as it ships; None for whatever stands

    Raises
    ------
    kizami.errors.CatalogueError : it can't be, there is no reason, there are too many, or somebody kept
        another edition meanwhile; nothing is kept
    """
    why = " ".join(why.split())
    standard_from(kind, code, table)
    with transaction.atomic():
        # Products that are kept meanwhile wait, see `held_still`.
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_xact_lock(hashtext(%s))", [_LOCK])
        before = Standard.objects.current().filter(kind=kind, code=code).first()
        if edition is not None and edition != (before.number if before is not None else 0):
            raise CatalogueError("Somebody else changed it meanwhile. It is shown as it stands now.")
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

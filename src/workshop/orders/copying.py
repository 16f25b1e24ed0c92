"""Storing many lines at once: by COPY, in a third of the time that statements with values take."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

from django.db import connection, models
from psycopg import sql
from psycopg.types.json import Jsonb

if TYPE_CHECKING:
    from workshop.orders.models import OrderLine

__all__ = ["copy_lines", "pieces_of_new"]


def copy_lines(lines: Sequence[OrderLine]) -> None:
    """Store new lines and give them their keys.

    Raises
    ------
    django.db.IntegrityError : one of them is there already, or is not as the database wants it
    """
    if not lines:
        return
    meta = lines[0]._meta
    # Of what the database makes itself only the key is told.
    stored = [field for field in meta.concrete_fields if not field.generated]
    names = [field.attname for field in stored]
    as_json = frozenset(place for place, field in enumerate(stored) if isinstance(field, models.JSONField))
    table = sql.Identifier(meta.db_table)
    into = sql.SQL("COPY {} ({}) FROM STDIN").format(
        table, sql.SQL(", ").join(sql.Identifier(field.column) for field in stored)
    )
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT nextval(pg_get_serial_sequence(%s, 'id')) FROM generate_series(1, %s)",
            [meta.db_table, len(lines)],
        )
        for line, (key,) in zip(lines, cursor.fetchall(), strict=True):
            line.pk = key
        with connection.wrap_database_errors, cursor.copy(into) as copy:
            for line in lines:
                values = [getattr(line, name) for name in names]
                for place in as_json:
                    values[place] = Jsonb(values[place])
                copy.write_row(values)
    for line in lines:
        line._state.adding = False
        line._state.db = connection.alias


def pieces_of_new(lines: Iterable[OrderLine]) -> None:
    """Add to each of these new lines as many pieces as it was ordered."""
    ordered = [(line.pk, line.quantity) for line in lines]
    with connection.cursor() as cursor:
        cursor.execute(
            "INSERT INTO orders_piece (line_id, number, stage) "
            "SELECT line.id, number, 'new' FROM unnest(%s::bigint[], %s::int[]) AS line (id, quantity), "
            "generate_series(1, quantity) AS number",
            [[key for key, _ in ordered], [quantity for _, quantity in ordered]],
        )

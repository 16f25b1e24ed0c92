"""Storing many lines at once: by COPY, in a third of the time that statements with values take."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from typing import Any

from django.db import connection
from psycopg import sql

from workshop.orders.models import OrderLine

__all__ = ["store_lines"]


def _json(value: Any) -> str:
    """As JSON; nearly all of these fields are empty."""
    if not value:
        return "{}" if isinstance(value, dict) else "[]"
    return json.dumps(value)


def store_lines(rows: Sequence[Mapping[str, Any]]) -> list[int]:
    """Store new lines, each with as many pieces as it was ordered; call inside a transaction.

    Parameters
    ----------
    rows : values by field, all rows with the same ones; other fields get their defaults

    Returns
    -------
    keys of the lines, in the rows' order

    Raises
    ------
    django.db.IntegrityError : one of them is there already, or is not as the database wants it
    """
    if not rows:
        return []
    meta = OrderLine._meta
    stored = {field.attname: field for field in meta.concrete_fields if not field.generated}
    names = list(rows[0])
    defaults = {name: field.get_default() for name, field in stored.items() if name not in rows[0]}
    key = meta.pk.attname
    del defaults[key]
    into = sql.SQL("COPY {} ({}) FROM STDIN").format(
        sql.Identifier(meta.db_table),
        sql.SQL(", ").join(sql.Identifier(stored[name].column) for name in (key, *names, *defaults)),
    )
    # Told the types once, the values need not be looked at one by one.
    types = [stored[name].db_type(connection).partition("(")[0] for name in (key, *names, *defaults)]
    as_json = frozenset(place for place, kind in enumerate(types) if kind == "jsonb")
    types = ["text" if place in as_json else kind for place, kind in enumerate(types)]
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT nextval(pg_get_serial_sequence(%s, 'id')) FROM generate_series(1, %s)",
            [meta.db_table, len(rows)],
        )
        keys = [found for (found,) in cursor.fetchall()]
        rest = list(defaults.values())
        with connection.wrap_database_errors, cursor.copy(into) as copy:
            copy.set_types(types)
            for pk, row in zip(keys, rows, strict=True):
                values = [pk, *[row[name] for name in names], *rest]
                for place in as_json:
                    values[place] = _json(values[place])
                copy.write_row(values)
        cursor.execute(
            "INSERT INTO orders_piece (line_id, number, stage) "
            "SELECT line.id, number, 'new' FROM unnest(%s::bigint[], %s::int[]) AS line (id, quantity), "
            "generate_series(1, quantity) AS number",
            [keys, [row.get("quantity", defaults.get("quantity")) for row in rows]],
        )
    return keys

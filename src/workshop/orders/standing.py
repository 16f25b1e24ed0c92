"""A stamp of all lines: the same for as long as no line was added, changed or taken away.

With every statement that changes lines the database writes down a row, in the same transaction: what a
reader sees of these rows tells exactly what it sees of the lines. Nobody waits for anybody over it, as each
writes rows of its own. Counts over a hundred thousand lines are kept under the stamp that they were made at.
"""

from __future__ import annotations

from django.db import connection

__all__ = ["FORWARD_SQL", "REVERSE_SQL", "forget_old_changes", "lines_stamp"]

FORWARD_SQL = """
CREATE FUNCTION orders_line_changed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    INSERT INTO orders_linechanged DEFAULT VALUES;
    RETURN NULL;
END $$;
CREATE TRIGGER lines_changed AFTER INSERT OR UPDATE OR DELETE ON orders_orderline
    FOR EACH STATEMENT EXECUTE FUNCTION orders_line_changed();
"""
REVERSE_SQL = """
DROP TRIGGER lines_changed ON orders_orderline;
DROP FUNCTION orders_line_changed();
"""
#: Enough that two states are never told by the same rows.
_KEPT = 100


def lines_stamp() -> str:
    """The stamp of the lines as they are seen now. Ask for it before what is to be kept under it."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT md5(string_agg(id::text, ',' ORDER BY id)) FROM orders_linechanged")
        return str(cursor.fetchone()[0])


def forget_old_changes() -> None:
    """Keep the newest rows alone; the stamp is another then, as after any change."""
    with connection.cursor() as cursor:
        cursor.execute(
            "DELETE FROM orders_linechanged WHERE id < ("
            "SELECT id FROM orders_linechanged ORDER BY id DESC OFFSET %s LIMIT 1)",
            [_KEPT],
        )

"""What must be so when a shop has come to rest after a fire; whatever is not is told in a sentence."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from contextlib import closing

import psycopg

from launch.cluster import Cluster
from launch.state import Role, open_state
from tests.faults.under_fire import Shop, Told, bundles_of, is_whole

__all__ = ["wrong_afterwards"]

#: Each finds what may not be, whatever was killed when.
_NEVER = {
    "a line stands otherwise than its pieces": """
        SELECT line.id FROM orders_orderline line JOIN orders_piece piece ON piece.line_id = line.id
        GROUP BY line.id, line.stage, line.quantity
        HAVING count(*) <> line.quantity OR count(*) FILTER (WHERE piece.stage = line.stage) = 0""",
    "a line has no pieces": """
        SELECT id FROM orders_orderline WHERE id NOT IN (SELECT line_id FROM orders_piece)""",
    "something is still to be made": "SELECT id FROM orders_piece WHERE stage = 'new'",
    "a piece stands on a revision of another line, or on none": """
        SELECT piece.id FROM orders_piece piece LEFT JOIN making_revision made ON made.id = piece.revision_id
        WHERE made.line_id IS DISTINCT FROM piece.line_id""",
    "revisions of a line are not numbered through": """
        SELECT line_id FROM making_revision GROUP BY line_id
        HAVING max(number) <> count(*) OR min(number) <> 1""",
    "a line was made from the list twice": """
        SELECT line_id FROM making_revision WHERE why = 'made from the list' GROUP BY line_id
        HAVING count(*) > 1""",
    "a list was taken in twice": "SELECT name FROM orders_orderlist GROUP BY name, source_id HAVING count(*) > 1",
    "a list is in the book and on trial": """
        SELECT list.name FROM orders_orderlist list JOIN intake_intake trial USING (name, source_id)""",
    "a bundle is still being packed": "SELECT id FROM book_bundle WHERE state IN ('waiting', 'packing')",
    "a job is left that nobody does": """
        SELECT id FROM procrastinate_jobs WHERE status = 'doing' AND task_name IN ('make_list', 'pack_bundle')""",
}  # fmt: skip


def wrong_afterwards(shop: Shop, told: Told) -> list[str]:
    """Everything that is not as it must be, in sentences; nothing when all is well."""
    cluster = Cluster.of(open_state(shop.folder / "state"))
    with psycopg.connect(
        host="127.0.0.1", port=cluster.port, user=Role.OWNER.value,
        password=cluster.passwords[Role.OWNER.value], dbname="kizami",
    ) as database:  # fmt: skip
        found = [
            f"{said}: {rows[:5]}"
            for said, query in _NEVER.items()
            if (rows := [row[0] for row in database.execute(query)])
        ]
        found += _lists(database, told)
        found += _words(database, told)
        found += _files(database, shop)
    with closing(shop.sign_in()) as client:
        found += ["a bundle is not whole" for data in bundles_of(client) if not is_whole(data)]
    return found


def _lists(database: psycopg.Connection, told: Told) -> Iterator[str]:
    counts = dict(
        database.execute(
            "SELECT list.name, count(*) FROM orders_orderlist list "
            "JOIN orders_orderline line ON line.order_list_id = list.id GROUP BY 1"
        )
    )
    for name in sorted(told.tried):
        lines = counts.get(name, 0)
        if lines not in (0, told.lines_each):
            yield f"of the list {name} there are {lines} lines of {told.lines_each}"
        if name in told.taken and not lines:
            yield f"the list {name}, which was taken in, is gone"


def _words(database: psycopg.Connection, told: Told) -> Iterator[str]:
    for line, words in told.kept.items():
        now = database.execute("SELECT wording FROM orders_orderline WHERE id = %s", [line]).fetchone()
        made = {
            row[0]
            for row in database.execute("SELECT wording FROM making_revision WHERE line_id = %s", [line])
        }
        later = told.trying[line][told.trying[line].index(words) :]
        if words not in made:
            yield f"of line {line} the words “{words}”, which were kept, were never made"
        if now is None or now[0] not in later:
            yield f"line {line} says “{now and now[0]}” where “{words}” was kept"


def _files(database: psycopg.Connection, shop: Shop) -> Iterator[str]:
    for digest, size in database.execute("SELECT sha256, size FROM files_storedfile"):
        path = shop.folder / "state" / "files" / digest[:2] / digest
        if not path.exists():
            yield f"the file {digest[:12]} is missing"
        elif path.stat().st_size != size or hashlib.sha256(path.read_bytes()).hexdigest() != digest:
            yield f"the file {digest[:12]} is not what it was"

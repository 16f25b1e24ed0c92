"""Lines that stand as if they had been made, without making them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

__all__ = ["copies_of", "stand_as_made"]


def stand_as_made(lines: Sequence[Any]) -> None:
    """Give lines a revision and their pieces its stage: one in nine is held, with a badness of its own."""
    from workshop.making.models import Revision
    from workshop.orders.models import OrderLine, Piece
    from workshop.orders.stages import Stage

    revisions = []
    for line in lines:
        revision = Revision(
            line=line, number=1, fingerprint="0" * 64, stage=Stage.READY if line.pk % 9 else Stage.HELD,
            height_mm=4.0, strip='<path class="k-letters" d="M0 0L1 1Z"/>' * 40, strip_view_box="0 0 60 8",
            strip_width_mm=60, strip_height_mm=8, facts={}, why="bench",
        )  # fmt: skip
        line.state.put_on(revision)
        revisions.append(revision)
    Revision.objects.bulk_create(revisions, batch_size=1000)
    for line, revision in zip(lines, revisions, strict=True):
        line.revision, line.badness = revision, (line.pk % 97) / 97
    OrderLine.objects.bulk_update(lines, ["revision", "badness"], batch_size=1000)
    made = {line.pk: line.revision for line in lines}
    pieces = list(Piece.objects.filter(line__in=list(made)))
    for piece in pieces:
        piece.revision, piece.stage = made[piece.line_id], made[piece.line_id].stage
    Piece.objects.bulk_update(pieces, ["revision", "stage"], batch_size=1000)


def copies_of(order_list: Any, *, number: int) -> None:
    """The lines of a list again, under another sender, with revisions and pieces, by the database alone."""
    from django.db import connection

    from workshop.making.models import Revision
    from workshop.orders.models import OrderLine, OrderList
    from workshop.sources.models import Source

    source = Source.objects.create(name=f"copy {number}")
    copy = OrderList.objects.create(source=source, name=f"copy {number}", received_by=order_list.received_by)
    left_out = ("id", "folded")
    names = [f.column for f in OrderLine._meta.concrete_fields if f.column not in left_out]
    values = {
        "source_id": str(source.pk), "order_list_id": str(copy.pk), "revision_id": "NULL", "stage": "'new'",
        "under_way": "0", "order": f"'{number}x' || l.\"order\"",
    }  # fmt: skip
    with connection.cursor() as cursor:
        columns = ", ".join(f'"{name}"' for name in names)
        taken = ", ".join(values.get(name, f'l."{name}"') for name in names)
        cursor.execute(
            f"INSERT INTO orders_orderline ({columns}) SELECT {taken} FROM orders_orderline l "
            f"WHERE l.order_list_id = {order_list.pk}"
        )
        of_revision = [f.column for f in Revision._meta.concrete_fields if f.column not in ("id", "line_id")]
        cursor.execute(
            f"INSERT INTO making_revision (line_id, {', '.join(of_revision)}) SELECT l.id, "
            f"{', '.join(f'r.{n}' for n in of_revision)} FROM orders_orderline l "
            f"JOIN orders_orderline o ON o.order_list_id = {order_list.pk} AND l.row = o.row "
            f"JOIN making_revision r ON r.id = o.revision_id WHERE l.order_list_id = {copy.pk}"
        )
        cursor.execute(
            "INSERT INTO orders_piece (line_id, number, stage, revision_id) SELECT l.id, n, r.stage, r.id "
            "FROM orders_orderline l JOIN making_revision r ON r.line_id = l.id, "
            f"generate_series(1, l.quantity) AS n WHERE l.order_list_id = {copy.pk}"
        )
        cursor.execute(
            "UPDATE orders_orderline l SET revision_id = r.id FROM making_revision r "
            f"WHERE r.line_id = l.id AND l.order_list_id = {copy.pk}"
        )

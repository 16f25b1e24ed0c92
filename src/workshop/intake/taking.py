"""Taking lists in: first on trial, then in one step; again and again without harm."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import count

from django.contrib.auth.models import User
from django.db import transaction

from kizami.errors import OrderListError, RowError
from kizami.pieces.batch import resolve_rows
from kizami.pieces.comparing import (
    PLAIN_FIELDS,
    Comparison,
    LineChange,
    Received,
    compare,
    says_the_same,
    unspoken,
)
from kizami.pieces.lines import Line
from kizami.products.product import Word
from kizami.wording.columns import ColumnMap
from kizami.wording.field_rules import FieldRule, guess_rule
from kizami.wording.order_list import OrderList as ReadList
from kizami.wording.order_list import SetAside, read_rows
from kizami.wording.settling import settle
from kizami.wording.tables import Table
from workshop.cage.readers import table_in
from workshop.catalogue.models import Product
from workshop.files.models import Kind, StoredFile
from workshop.intake.earlier import with_earlier_words
from workshop.intake.logos import Missing, missing_logos
from workshop.intake.models import Intake, Question, SetAsideRow
from workshop.intake.reading import column_names, columns_of, rule_of, rule_table, table_of
from workshop.jobs.queue import defer_making
from workshop.orders.copying import store_lines
from workshop.orders.models import Event, OrderLine, OrderList, Piece
from workshop.orders.stages import ON_PAPER
from workshop.orders.state import MOST_CANDIDATES
from workshop.sources.models import Source

__all__ = [
    "Asked",
    "Trial",
    "add_lines",
    "change_lines",
    "known_lines",
    "open_intake",
    "set_reading",
    "take",
    "take_list",
    "trial_of",
]

DEFAULT_SOURCE = "our own lists"


@dataclass(frozen=True, kw_only=True, slots=True)
class Asked:
    """A change that a person must decide on, with the reason."""

    change: LineChange
    why: str


@dataclass(frozen=True, kw_only=True, slots=True)
class Trial:
    """What taking a list would do.

    Attributes
    ----------
    table, columns : the file as read; `columns.missing` names what must be chosen first
    rule, proposed_rule : how free text is taken apart, and how it seems to want to be
    comparison : new, changed and unchanged lines; None while needed columns are missing
    simple, asked : the changed lines: those that are changed at once, those that are asked about
    set_aside : rows that can't be read
    unchanged : number of rows that say what is known already
    missing_logos : logos that the list names and that are not to be had
    notes : what was assumed of its rows
    """

    table: Table
    columns: ColumnMap
    rule: FieldRule | None
    proposed_rule: FieldRule | None
    comparison: Comparison | None
    simple: tuple[LineChange, ...]
    asked: tuple[Asked, ...]
    set_aside: tuple[SetAside, ...]
    unchanged: int = 0
    missing_logos: tuple[Missing, ...] = ()
    notes: tuple[str, ...] = ()

    @property
    def new_by_surprise(self) -> tuple[tuple[str, list[Line]], ...]:
        """New lines by what happens to them, the surprising ones first; groups without lines are left out."""
        groups: dict[str, list[Line]] = {title: [] for title in _BY_SURPRISE}
        for line in self.comparison.new if self.comparison is not None else ():
            if line.settled.open_question or not line.wording.text:
                groups[_BY_SURPRISE[0]].append(line)
            else:
                groups[_BY_SURPRISE[1 if line.wording.changes else 2]].append(line)
        return tuple(group for group in groups.items() if group[1])


_BY_SURPRISE = ("Held for a question", "Read otherwise than written", "As written")


def open_intake(data: bytes, *, name: str, source: str, user: User) -> Intake:
    """Put a list on trial. Nothing of it enters the order book.

    Raises
    ------
    kizami.errors.OrderListError : the file can't be read at all; nothing is stored then
    """
    table_in(data)
    with transaction.atomic():
        sender, _ = Source.objects.get_or_create(name=(source.strip() or DEFAULT_SOURCE)[:80])
        return Intake.objects.create(
            source=sender,
            name=name[:200],
            file=StoredFile.objects.keep(data, Kind.LIST),
            columns=sender.columns,
            rule=sender.rule,
            received_by=user,
        )


def trial_of(intake: Intake) -> Trial:
    """Read a list as it is set now and compare it with the lines of its source.

    Raises
    ------
    kizami.errors.OrderListError : it can't be read in the chosen encoding, or has no rows
    """
    table = table_of(intake.file.read(), intake.encoding)
    columns = columns_of(table, intake.columns)
    rule = rule_of(intake.rule)
    place = columns.places.get("wording")
    texts = [row.cells[place] for row in table.rows if place is not None and place < len(row.cells)]
    proposed = guess_rule(texts) if rule is None else None
    if columns.missing:
        return Trial(
            table=table,
            columns=columns,
            rule=rule,
            proposed_rule=proposed,
            comparison=None,
            simple=(),
            asked=(),
            set_aside=(),
        )
    read = read_rows(table, columns, rule=rule)
    found = _compare(read, intake.source, apart=rule is not None)
    return Trial(
        table=table, columns=columns, rule=rule, proposed_rule=proposed, comparison=found.comparison,
        simple=found.simple, asked=found.asked, set_aside=found.set_aside, unchanged=found.unchanged,
        missing_logos=missing_logos(intake.source, (r.logo for r in read.rows)), notes=read.notes,
    )  # fmt: skip


def set_reading(intake: Intake, *, encoding: str, columns: dict[str, str], use_rule: bool) -> None:
    """Set how a list on trial is read: its encoding, its columns, whether free text is taken apart."""
    intake.encoding = encoding
    intake.columns = {**intake.columns, **columns}
    if not use_rule:
        intake.rule = None
    elif intake.rule is None:
        intake.rule = rule_table(trial_of(intake).proposed_rule)
    intake.save(update_fields=["encoding", "columns", "rule"])


def take(intake: Intake, *, user: User) -> OrderList:
    """Take a list on trial into the order book, in one transaction, and ask for its making.

    Lines that are new are added; changed ones on paper are changed and made again; for others a
    question is left; unchanged ones are not touched. The way of reading is kept for the source.

    Raises
    ------
    kizami.errors.OrderListError : the list can't be used; nothing is stored then
    """
    with transaction.atomic():
        # Two people taking lists of one source wait for each other here.
        source = Source.objects.select_for_update(no_key=True).get(pk=intake.source_id)
        # Whoever came second finds it gone: it is in the book already.
        waiting = Intake.objects.select_for_update(no_key=True).filter(pk=intake.pk).first()
        if waiting is None:
            raise OrderListError("This list was taken in or dropped already. Nothing was taken in twice.")
        intake = waiting
        table = table_of(intake.file.read(), intake.encoding)
        columns = columns_of(table, intake.columns)
        columns.require(table.header)
        read = read_rows(table, columns, rule=rule_of(intake.rule))
        read.confirm()
        found = _compare(read, source, apart=intake.rule is not None, lock=True)
        aside, again = _not_yet_aside(source, found.set_aside)
        source.columns, source.rule = column_names(table, columns), intake.rule
        source.save(update_fields=["columns", "rule"])
        order_list = OrderList.objects.create(
            source=source,
            name=intake.name,
            file=intake.file,
            encoding=intake.encoding,
            header=list(table.header),
            columns=source.columns,
            rule=intake.rule,
            received_by=user,
        )
        add_lines(order_list, found.comparison.new)
        change_lines(order_list, found.simple, user)
        _ask(order_list, found.asked)
        SetAsideRow.objects.bulk_create([_aside_of(order_list, row) for row in aside], batch_size=500)
        Event.objects.create(
            who=user,
            what=f"Took in {intake.name[:80]}: {_counted(found, aside, again)}",
            order_list=order_list,
        )
        intake.delete()
        if found.comparison.new or found.simple:
            defer_making(order_list.pk)
    return order_list


def _counted(found: _Found, aside: Sequence[SetAside], again: int) -> str:
    counts = {
        "new": len(found.comparison.new), "changed": len(found.simple), "unchanged": found.unchanged,
        "to decide": len(found.asked), "set aside": len(aside), "set aside before": again,
    }  # fmt: skip
    return ", ".join(f"{count} {name}" for name, count in counts.items() if count)


def take_list(data: bytes, *, name: str, user: User, source: str = DEFAULT_SOURCE) -> OrderList:
    """Take a list in without a look at the trial, as feeds and the demo do.

    Raises
    ------
    kizami.errors.OrderListError : the list as a whole can't be used; nothing is stored then
    """
    with transaction.atomic():
        return take(open_intake(data, name=name, source=source, user=user), user=user)


def _not_yet_aside(source: Source, aside: tuple[SetAside, ...]) -> tuple[tuple[SetAside, ...], int]:
    """Rows that no list of the source has set aside yet, and how many are left out."""
    if not aside:
        return aside, 0
    same = SetAsideRow.objects.filter(order_list__source=source, cells__in=[list(row.cells) for row in aside])
    known = {tuple(cells) for cells in same.values_list("cells", flat=True)}
    fresh = tuple(row for row in aside if row.cells not in known)
    return fresh, len(aside) - len(fresh)


@dataclass(frozen=True, kw_only=True, slots=True)
class _Found:
    """What a list holds against what is known: see `Trial`, whose fields these are."""

    comparison: Comparison
    simple: tuple[LineChange, ...]
    asked: tuple[Asked, ...]
    set_aside: tuple[SetAside, ...]
    unchanged: int


def _compare(read: ReadList, source: Source, *, apart: bool, lock: bool = False) -> _Found:
    catalogue, _ = Product.objects.catalogue()
    before = _received_before(source, {row.order for row in read.rows}, lock=lock)
    silent = unspoken(read.columns.places.keys(), taken_apart=apart)
    same = frozenset(
        row.row
        for row in read.rows
        if (known := before.get((row.order, row.line))) is not None
        and says_the_same(row, known, catalogue=catalogue, silent=silent)
    )
    lines, aside = resolve_rows(read, catalogue, logos=None, leave=same)
    lines = with_earlier_words(lines, source)
    comparison = compare(before, lines, silent=silent)
    # They are locked already where they need to be.
    rows = known_lines(source, _named(comparison.changed))
    simple: list[LineChange] = []
    asked: list[Asked] = []
    for change in comparison.changed:
        why = _why_ask(rows[(change.line.row.order, change.line.row.line)], change)
        if why:
            asked.append(Asked(change=change, why=why))
        else:
            simple.append(change)
    return _Found(
        comparison=comparison, simple=tuple(simple), asked=tuple(asked), set_aside=tuple(aside),
        unchanged=len(same) + len(comparison.unchanged),
    )  # fmt: skip


def _received_before(source: Source, orders: set[str], *, lock: bool) -> dict[tuple[str, str], Received]:
    """What lists have said of the lines of orders so far; locked in the order of `known_lines`."""
    codes = dict(Product.objects.values_list("pk", "code"))
    rows = OrderLine.objects.filter(source=source, order__in=orders).order_by("pk")
    if lock:
        rows = rows.select_for_update(no_key=True)
    found = rows.values_list("order", "line", "product", "wording_received", *PLAIN_FIELDS)
    return {
        (order, line): Received(
            product=codes[product], wording=wording, **dict(zip(PLAIN_FIELDS, plain, strict=True))
        )
        for order, line, product, wording, *plain in found
    }


def known_lines(
    source: Source, names: Iterable[tuple[str, str]], *, lock: bool = False
) -> dict[tuple[str, str], OrderLine]:
    """Lines of a source by their orders and numbers, as many as there are.

    Locked, it is in the one order in which lines are locked everywhere, by their keys.
    """
    rows = OrderLine.objects.named(source, names).select_related("product").order_by("pk")
    if lock:
        rows = rows.select_for_update(of=("self",), no_key=True)
    return {(row.order, row.line): row for row in rows}


def _named(changes: Iterable[LineChange]) -> list[tuple[str, str]]:
    return [(change.line.row.order, change.line.row.line) for change in changes]


def _why_ask(row: OrderLine, change: LineChange) -> str:
    """Why a changed line is not simply changed, or "" when it may be."""
    if not row.on_paper:
        return _under_way(row)
    product = row.product.to_spec()
    settled = settle(
        row.wording_received,
        product.wording,
        day_first=change.line.row.day_first,
        language=change.line.row.language,
        most_lines=product.most_lines,
    ).wording.text
    if row.wording != settled and change.line.row.wording != row.wording_received:
        return f"its wording was changed here to “{row.wording}”"
    return ""


def _under_way(row: OrderLine) -> str:
    which = "the piece is" if row.quantity == 1 else f"{row.under_way} of its {row.quantity} pieces are"
    return f"{which} in a run, made or sent already"


def _values(line: Line) -> dict[str, object]:
    row = line.row
    return {
        **{name: getattr(row, name) for name in PLAIN_FIELDS},
        "row": row.row,
        "choices": {word.value: code for word, code in line.choices.items()},
        "wording_received": row.wording,
        "wording": line.wording.text,
        "changes": [change.said for change in line.wording.changes],
        "proposal": line.proposal,
        "open_question": line.settled.open_question,
        "candidates": list(line.settled.candidates[:MOST_CANDIDATES]),
    }


def add_lines(
    order_list: OrderList, lines: Iterable[Line], *, products: dict[str, Product] | None = None
) -> list[int]:
    """Add lines with their pieces.

    Parameters
    ----------
    products : rows of the current products by folded code, where they are known already

    Returns
    -------
    keys of the lines, in their order
    """
    if products is None:
        _, products = Product.objects.catalogue()
    return store_lines(
        [
            {
                "source_id": order_list.source_id,
                "order_list_id": order_list.pk,
                "order": line.row.order,
                "line": line.row.line,
                "product_id": products[line.product.code.casefold()].pk,
                **_values(line),
            }
            for line in lines
        ]
    )


def change_lines(order_list: OrderList, changes: Iterable[LineChange], user: User) -> None:
    """Change lines. A bench's own wording stays unless the list changed the wording itself.

    Pieces that are on their way stay as they are.

    Raises
    ------
    kizami.errors.RowError : the change would be one of pieces that are all on their way
    """
    changes = list(changes)
    known = known_lines(order_list.source, _named(changes), lock=True)
    _, products = Product.objects.catalogue()
    silent = unspoken(order_list.columns.keys(), taken_apart=order_list.rule is not None)
    remade: list[int] = []
    events: list[Event] = []
    for change in changes:
        row = known[(change.line.row.order, change.line.row.line)]
        if change.line.row.quantity < row.under_way or (change.remade and _nothing_to_make(row, change)):
            raise RowError(
                f"Line {row} can't become that: {_under_way(row)}. Leave it, and order what is to be "
                "different as a new line."
            )
        values = {name: value for name, value in _values(change.line).items() if name not in silent}
        if row.wording_received == change.line.row.wording:
            for name in ("wording", "changes", "proposal", "open_question", "candidates"):
                del values[name]
        # What the bench has set stays, unless the list itself asks for another typeface, say.
        asked = {word.value for word in Word}
        same = all(getattr(row, name) == values.get(name, getattr(row, name)) for name in asked - {"product"})
        kept = row.choices if same else {k: v for k, v in row.choices.items() if k not in asked}
        values["choices"] = kept if same else {**kept, **values.get("choices", {})}
        pieces_before = row.quantity
        for name, value in values.items():
            setattr(row, name, value)
        row.order_list = order_list
        row.product = products[change.line.product.code.casefold()]
        row.edition += 1
        kept = [*values, "order_list", "product", "edition"]
        if change.remade:
            row.attempts, row.badness = 0, 0.0
            kept += ["attempts", "badness"]
            remade.append(row.pk)
        row.save(update_fields=kept)
        if row.quantity != pieces_before:
            _fit_pieces(row)
        events.append(Event(who=user, what="; ".join(change.said)[:300], line=row, order_list=order_list))
    Piece.objects.filter(line__in=remade).to_be_made()
    Event.objects.bulk_create(events, batch_size=500)


def _nothing_to_make(row: OrderLine, change: LineChange) -> bool:
    """Whether every piece that the line is to have is on its way."""
    return row.under_way >= change.line.row.quantity


def _fit_pieces(row: OrderLine) -> None:
    """As many pieces as ordered; of too many those go that are still on paper, the last first."""
    numbers = dict(row.pieces.values_list("number", "stage"))
    spare = [n for n in sorted(numbers, reverse=True) if numbers[n] in ON_PAPER]
    row.pieces.filter(number__in=spare[: max(0, len(numbers) - row.quantity)]).delete()
    free = (n for n in count(1) if n not in numbers)
    missing = [next(free) for _ in range(row.quantity - len(numbers))]
    Piece.objects.bulk_create([Piece(line=row, number=number) for number in missing])


def _ask(order_list: OrderList, asked: Iterable[Asked]) -> None:
    asked = list(asked)
    known = known_lines(order_list.source, _named(a.change for a in asked))
    rows = [known[(a.change.line.row.order, a.change.line.row.line)] for a in asked]
    # A newer list's question replaces an older one that nobody answered.
    Question.objects.filter(line__in=rows, decided_at=None).delete()
    Question.objects.bulk_create(
        [
            Question(
                line=row,
                order_list=order_list,
                row=a.change.line.row.row,
                cells=list(a.change.line.row.cells),
                said=list(a.change.said),
                why=a.why[:200],
            )
            for a, row in zip(asked, rows, strict=True)
        ]
    )


def _aside_of(order_list: OrderList, row: SetAside) -> SetAsideRow:
    return SetAsideRow(
        order_list=order_list, row=row.row, reason=row.reason, cells=list(row.cells),
        columns=list(row.columns),
    )  # fmt: skip

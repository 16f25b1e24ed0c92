"""What a list received again would change: compared with what was received before, in words."""

from __future__ import annotations

import datetime as dt
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, fields, replace
from typing import Any

from kizami.pieces.lines import Line
from kizami.products.product import Catalogue
from kizami.wording.order_list import OrderRow

__all__ = [
    "PLAIN_FIELDS",
    "Comparison",
    "LineChange",
    "Received",
    "compare",
    "received",
    "received_of",
    "says_the_same",
    "unspoken",
]


@dataclass(frozen=True, kw_only=True, slots=True)
class Received:
    """What a list said of a line, as far as it matters whether it says the same again."""

    product: str
    size: str
    wording: str
    second: str
    quantity: int
    due: dt.date | None
    customer: str
    rush: bool
    note: str
    set_name: str
    typeface: str
    material: str
    finish: str
    logo: str


#: Fields that are kept as they were received, under the same name everywhere.
PLAIN_FIELDS = tuple(f.name for f in fields(Received) if f.name not in ("product", "wording"))


@dataclass(frozen=True, kw_only=True, slots=True)
class LineChange:
    """A line that the list changes.

    Attributes
    ----------
    line : as the list has it now
    said : each difference in words
    remade : the difference shapes the piece, so it is made again
    """

    line: Line
    said: tuple[str, ...]
    remade: bool


@dataclass(frozen=True, kw_only=True, slots=True)
class Comparison:
    """A list against the lines of its source that are known."""

    new: tuple[Line, ...]
    changed: tuple[LineChange, ...]
    unchanged: tuple[Line, ...]


_TITLES = {
    "product": "product",
    "size": "size",
    "wording": "wording",
    "second": "second wording",
    "quantity": "quantity",
    "due": "due date",
    "customer": "customer",
    "rush": "rush",
    "note": "note",
    "set_name": "set",
    "typeface": "typeface",
    "material": "material",
    "finish": "finish",
    "logo": "logo",
}
#: Differences in these change the piece itself or how many there are.
_SHAPING = {"product", "size", "wording", "second", "quantity", "typeface", "material", "set_name", "logo"}


def received(line: Line) -> Received:
    """What the list says of a line."""
    return received_of(line.row, product=line.product.code, wording=line.row.wording)


def received_of(source: Any, *, product: str, wording: str) -> Received:
    """What was received, from anything that keeps the plain fields under their names."""
    return Received(
        product=product, wording=wording, **{name: getattr(source, name) for name in PLAIN_FIELDS}
    )


#: Column code -> field of `Received`, for columns that a list may do without.
_FIELD_OF_COLUMN = {
    "size": "size",
    "second": "second",
    "quantity": "quantity",
    "due": "due",
    "customer": "customer",
    "priority": "rush",
    "note": "note",
    "set": "set_name",
    "typeface": "typeface",
    "material": "material",
    "finish": "finish",
    "logo": "logo",
}


def unspoken(columns: Collection[str], *, taken_apart: bool) -> frozenset[str]:
    """Fields that a list says nothing of, as it has no column for them: they are not emptied.

    Parameters
    ----------
    columns : codes of the columns that the list has
    taken_apart : free text is taken apart, so any field may come from there
    """
    if taken_apart:
        return frozenset()
    return frozenset(name for code, name in _FIELD_OF_COLUMN.items() if code not in columns)


def says_the_same(
    row: OrderRow, before: Received, *, catalogue: Catalogue, silent: frozenset[str] = frozenset()
) -> bool:
    """Whether a row says again what was received before: then nothing of it needs to be resolved."""
    product = catalogue.find(row.product)
    return product is not None and before == _now(
        received_of(row, product=product.code, wording=row.wording), before, silent
    )


def _now(now: Received, before: Received, silent: frozenset[str]) -> Received:
    """What a list says, and what was known where it is silent."""
    return replace(now, **{name: getattr(before, name) for name in silent}) if silent else now


def compare(
    known: Mapping[tuple[str, str], Received], lines: Sequence[Line], *, silent: frozenset[str] = frozenset()
) -> Comparison:
    """Sort the lines of a list into new, changed and unchanged.

    Parameters
    ----------
    known : order and line number -> what was received before
    silent : fields that the list does not speak of; they stay as they were
    """
    new: list[Line] = []
    changed: list[LineChange] = []
    unchanged: list[Line] = []
    for line in lines:
        before = known.get((line.row.order, line.row.line))
        now = received(line)
        if before is not None:
            now = _now(now, before, silent)
        if before is None:
            new.append(line)
        elif before == now:
            unchanged.append(line)
        else:
            names = [f.name for f in fields(Received) if getattr(before, f.name) != getattr(now, f.name)]
            said = tuple(
                f"{_TITLES[name]}: {_shown(getattr(before, name))} → {_shown(getattr(now, name))}"
                for name in names
            )
            changed.append(LineChange(line=line, said=said, remade=bool(_SHAPING & set(names))))
    return Comparison(new=tuple(new), changed=tuple(changed), unchanged=tuple(unchanged))


def _shown(value: object) -> str:
    if value is None or value == "":
        return "nothing"
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"“{value}”" if isinstance(value, str) else str(value)

"""Which column means what: matched by name, corrected by hand, remembered for a source."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from rapidfuzz import fuzz, process

from kizami.errors import OrderListError

__all__ = ["FIELDS", "REQUIRED", "ColumnMap", "Field", "guess_columns"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Field:
    """A field of a line.

    Attributes
    ----------
    code : its name in the core
    title : its name on screens
    headings : headings that it often has; the first is the one that we write
    """

    code: str
    title: str
    headings: tuple[str, ...]


FIELDS: tuple[Field, ...] = (
    Field(
        code="order",
        title="Order",
        headings=("order", "order no", "order number", "order id", "order nr", "auftrag", "bestellnummer", "注文番号"),
    ),
    Field(code="line", title="Line", headings=("line", "line no", "line item", "item", "position", "pos", "row")),
    Field(
        code="product",
        title="Product",
        headings=("product", "product code", "sku", "code", "article", "item code", "artikel", "商品"),
    ),
    Field(code="size", title="Size", headings=("size", "ring size", "groesse", "größe", "taille", "サイズ")),
    Field(
        code="wording",
        title="Wording",
        headings=(
            "wording", "name", "text", "engraving", "words", "personalisation", "personalization",
            "inscription", "custom text", "gravur", "名前", "刻印",
        ),
    ),
    Field(
        code="second",
        title="Second wording",
        headings=(
            "second wording", "second", "second line", "line 2", "date", "text 2", "inside", "inside wording",
            "inside text", "back", "back wording", "back text", "innengravur", "裏面",
        ),
    ),
    Field(code="quantity", title="Quantity", headings=("quantity", "qty", "count", "number", "menge", "anzahl", "数量")),
    Field(code="due", title="Due", headings=("due", "due date", "wanted by", "ship by", "deadline", "needed by", "納期")),
    Field(code="customer", title="Customer", headings=("customer", "buyer", "for", "client", "ordered by", "kunde")),
    Field(code="priority", title="Priority", headings=("priority", "rush", "urgent", "express")),
    Field(code="note", title="Gift note", headings=("gift note", "note", "gift message", "message", "remark", "comment")),
    Field(code="typeface", title="Typeface", headings=("typeface", "font", "face", "lettering", "schrift", "police", "書体")),
    Field(code="material", title="Material", headings=("material", "metal", "alloy", "metall", "matière", "素材")),
    Field(code="finish", title="Finish", headings=("finish", "surface", "plating", "oberfläche", "finition")),
    Field(code="logo", title="Logo", headings=("logo", "logo file", "artwork", "image", "picture", "design", "motif")),
    Field(code="set", title="Set", headings=("set", "group", "crew", "family", "party", "team", "together with")),
)  # fmt: skip
REQUIRED = ("order", "product", "wording")
_CODES = tuple(field.code for field in FIELDS)

#: Likeness, of 100, above which two headings are taken for the same word misspelt.
_LIKE = 84


@dataclass(frozen=True, kw_only=True, slots=True)
class ColumnMap:
    """Places of the fields in a header: field code -> column index. Fields without a column are absent."""

    places: Mapping[str, int]

    @property
    def missing(self) -> tuple[str, ...]:
        """Needed fields that have no column."""
        return tuple(code for code in REQUIRED if code not in self.places)

    def cell(self, cells: Sequence[str], code: str) -> str:
        """The text of a field in a row, "" when there is none."""
        place = self.places.get(code)
        return cells[place] if place is not None and place < len(cells) else ""

    def require(self, header: Sequence[str]) -> None:
        """Refuse a header without the needed fields.

        Raises
        ------
        OrderListError : names what is missing and what was found
        """
        if self.missing:
            found = ", ".join(f"“{cell[:30]}”" for cell in header[:8]) or "nothing"
            raise OrderListError(
                f"The first row must name the columns; missing: {', '.join(self.missing)}. Found: {found}. "
                f"Known columns: {', '.join(_CODES)}."
            )


def guess_columns(header: Sequence[str], *, remembered: Mapping[str, str] | None = None) -> ColumnMap:
    """Match headings to fields: as remembered, then by name, then by likeness.

    Parameters
    ----------
    header : distinct column names
    remembered : field code -> column name, as the desk last set it for this source; a remembered
        "" means that the field has no column

    >>> dict(guess_columns(["SKU", "Order No.", "Engraving"]).places) == {"product": 0, "order": 1, "wording": 2}
    True
    >>> guess_columns([]).missing
    ('order', 'product', 'wording')
    """
    names = [_fold(name) for name in header]
    places, settled = _recall(names, remembered or {})
    by_name = {heading: field.code for field in FIELDS for heading in field.headings}
    for rank in range(max(len(field.headings) for field in FIELDS)):
        # First headings first: “item” may be a line only when no column is called “line”.
        for field in FIELDS:
            heading = field.headings[rank] if rank < len(field.headings) else None
            if field.code in settled or heading not in names or names.index(heading) in places.values():
                continue
            places[field.code] = names.index(heading)
            settled.add(field.code)
    for place, name in enumerate(names):
        if place in places.values() or len(name) <= 3:
            continue
        match = process.extractOne(name, by_name.keys(), scorer=fuzz.ratio, score_cutoff=_LIKE)
        if match is not None and len(match[0]) > 3 and by_name[match[0]] not in settled:
            places[by_name[match[0]]] = place
            settled.add(by_name[match[0]])
    return ColumnMap(places=places)


def _recall(names: Sequence[str], remembered: Mapping[str, str]) -> tuple[dict[str, int], set[str]]:
    """Places of remembered columns, and the fields that are settled by them."""
    places: dict[str, int] = {}
    settled: set[str] = set()
    for code, name in remembered.items():
        if code not in _CODES:
            continue
        if not name:
            settled.add(code)
        elif _fold(name) in names:
            places[code] = names.index(_fold(name))
            settled.add(code)
    return places, settled


def _fold(name: str) -> str:
    return re.sub(r"[\s_.:#*-]+", " ", name).strip().casefold()

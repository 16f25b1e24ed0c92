"""What a version of a product changes against the one before, in the words of its page."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from django.db.models import Count, F, Q

from workshop.catalogue.field import ProductField
from workshop.catalogue.models import Product, standards_from
from workshop.catalogue.product_fields import Known, fields_of, typeface_names
from workshop.standards.models import Standard
from workshop.standards.telling import material_told, process_told

__all__ = ["VersionTold", "held_between", "lines_behind", "told_between", "told_since", "versions_of"]

#: So many are told on a product's page, the newest first.
_MOST_TOLD = 12
_LONGEST = 40


@dataclass(frozen=True, kw_only=True, slots=True)
class VersionTold:
    """One version.

    Attributes
    ----------
    said : what it changed, each in a few words; of the first one nothing
    """

    number: int
    made_at: datetime
    said: tuple[str, ...]


def versions_of(product: Product) -> list[VersionTold]:
    """The newest versions of a product, each against the one before."""
    rows = list(Product.objects.filter(code=product.code).order_by("-version")[: _MOST_TOLD + 1])
    told, known = [], _known()
    for row, before in zip(rows, [*rows[1:], None], strict=True):
        said = (
            ()
            if before is None
            else (*told_between(before.table, row.table, known), *held_between(before, row))
        )
        told.append(VersionTold(number=row.version, made_at=row.made_at, said=said))
    return told[:_MOST_TOLD]


def lines_behind(product: Product) -> int:
    """How many lines in the book have an older version of a product and could still be made otherwise."""
    older = Product.objects.filter(code=product.code).exclude(pk=product.pk)
    behind = Count("lines", filter=Q(lines__under_way__lt=F("lines__quantity")))
    return int(older.aggregate(lines=behind)["lines"])


def _known() -> Known:
    """With every typeface that there is: an older version may name one that is out of use."""
    return Known(typefaces=typeface_names(), standards=Standard.objects.now())


def told_since(before: Product, after: Product) -> list[str]:
    """What differs between two versions of a product."""
    return [*told_between(before.table, after.table, _known()), *held_between(before, after)]


def told_between(before: Mapping[str, Any], after: Mapping[str, Any], known: Known) -> Iterator[str]:
    """What differs between two tables of a product.

    What the page has fields for is told by their names; of the rest the keys of the products file.

    Parameters
    ----------
    known : what the shop has, retired typefaces among it
    """
    if before.get("name") != after.get("name"):
        yield f"called {after.get('name')}"
    old = {field.name: field for field in fields_of(before, known)}
    new = {field.name: field for field in fields_of(after, known)}
    for name, field in new.items():
        if name == "name":
            continue
        was = old.get(name)
        if was is None or was.value != field.value:
            now = _told(field, field.value)
            from_ = "" if was is None else f"{_told(field, was.value)} → "
            yield f"{field.part.lower()}: {field.label} {from_}{now} {field.unit}".rstrip()
    flat = _flat(before), _flat(after)
    known = {*old, *new, "name", "code"}
    for key in sorted({*flat[0], *flat[1]} - known):
        # What a field says as a whole is told by it.
        if key.rpartition(".")[0] in known:
            continue
        if flat[0].get(key) != flat[1].get(key) and not key.endswith(".kind"):
            yield f"{key.replace('.', ', ').replace('_', ' ')}: {_short(flat[1].get(key, 'as usual'))}"


def held_between(before: Product, after: Product) -> Iterator[str]:
    """What the shop changed of the process and the materials of a product between two of its versions."""
    old, new = standards_from(before.standards), standards_from(after.standards)
    if before.table["process"] == after.table["process"]:
        code = after.table["process"]
        yield from process_told(old.process(code), new.process(code))
    for code in dict.fromkeys((after.table["material"], *after.table.get("materials", ()))):
        if code in old.materials and code in new.materials:
            yield from material_told(old.materials[code], new.materials[code])


def _told(field: ProductField, value: Any) -> str:
    names = dict(field.choices)
    if isinstance(value, list):
        return _short([names.get(one, one) for one in value] or "none")
    return _short(names.get(value, value))


def _flat(table: Mapping[str, Any], prefix: str = "") -> dict[str, Any]:
    """Values by their whole keys."""
    found: dict[str, Any] = {}
    for key, value in table.items():
        if isinstance(value, Mapping):
            found |= _flat(value, f"{prefix}{key}.")
        elif isinstance(value, list) and value and isinstance(value[0], Mapping):
            for number, row in enumerate(value):
                found |= _flat(row, f"{prefix}{key}.{number}.")
        else:
            found[f"{prefix}{key}"] = value
    return found


def _short(value: Any) -> str:
    if isinstance(value, float):
        return f"{value:g}"
    text = ", ".join(str(one) for one in value) if isinstance(value, list) else str(value)
    return text if len(text) <= _LONGEST else f"{text[: _LONGEST - 1]}…"

"""A product's table changed by the fields of its page."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from copy import deepcopy
from typing import Any

from kizami.errors import AdjustmentError, CatalogueError
from kizami.products.lettering_tables import KINDS, TREATMENT_TABLES
from kizami.products.product import Carries
from kizami.setting.typed import typed_number, unit_of
from workshop.catalogue.field import YES_NO, ProductField
from workshop.catalogue.fields_apart import IN_TWO, put_apart, put_in_two
from workshop.catalogue.kinds_of_tables import FIRST, KIND_TABLES, NEEDED, ORNAMENT_TABLES, ORNAMENTS
from workshop.catalogue.product_fields import Known, fields_of

__all__ = ["changed_table", "given_of", "without_gone"]

#: Values by the names of fields; several for those that take several.
Given = Mapping[str, str | Sequence[str]]


def given_of(values: Any) -> dict[str, list[str]]:
    """What a request says, from its QueryDict."""
    return {name: list(several) for name, several in values.lists()}


def changed_table(
    table: Mapping[str, Any], given: Given, *, with_gone: bool = False, known: Known | None = None
) -> dict[str, Any]:
    """A product's table with other values; what is not given stays.

    Kinds are changed first, as the other fields are those of the kind: a shape that becomes an arc begins
    with a usual one, and what is given for it is read then.

    Parameters
    ----------
    with_gone : further areas and ornaments that are taken off stay, marked as gone, so that fields keep their
        places; such a table is for fields only
    known : see `fields_of`

    Raises
    ------
    CatalogueError : a value is no number
    """
    changed: dict[str, Any] = deepcopy(dict(table))
    _add(changed, given)
    put_in_two(changed, _one(given, IN_TWO))
    for prefix, row in _rows(changed):
        _change_kinds(row, prefix, given)
    for field in fields_of(changed, known):
        several = _several(given, field.name)
        if not several or field.name.endswith(".new") or field.name == IN_TWO:
            continue
        value = _value(field, several)
        # What stands as it stood stays untouched, however it is written: the same table is no new version.
        if value is None or value == _kept(field):
            continue
        _put(changed, field.name.split("."), value)
    for _, row in _rows(changed):
        _fill_in(row)
    return changed if with_gone else without_gone(changed)


def _several(given: Given, name: str) -> Sequence[str]:
    found = given.get(name, ())
    return (found,) if isinstance(found, str) else found


def _one(given: Given, name: str) -> str:
    return next(reversed(_several(given, name)), "").strip()


def _put(table: dict[str, Any], path: Sequence[str], value: Any) -> None:
    target: Any = table
    for step in path[:-1]:
        target = target[int(step)] if isinstance(target, list) else target.setdefault(step, {})
    if not put_apart(target, path[-1], value):
        target[path[-1]] = value


def _add(table: dict[str, Any], given: Given) -> None:
    """Further areas and ornaments that come; each after those that there are."""
    for area in _news(given, "also.new"):
        if area not in [row["area"] for row in table.get("also", [])]:
            # It begins as the wording's own area is, where that goes; there is one second wording.
            own = table["treatment"] if table["treatment"]["kind"] != "cut-out" else _FIRST_TREATMENT
            row = {"area": area, **_carried(table), "treatment": deepcopy(own), "fit": _fit_of(table)}
            table["also"] = [*table.get("also", []), row]
    for prefix, row in _rows(table):
        for kind in _news(given, f"{prefix}ornaments.new"):
            if kind in ORNAMENTS:
                row["ornaments"] = [*row.get("ornaments", []), {"kind": kind, **FIRST[kind]}]


#: So many are added at once at most.
_MOST_NEW = 12


def _news(given: Given, name: str) -> list[str]:
    """What a field for one more was given, each time that it was."""
    return [word.strip() for word in _several(given, name) if word.strip()][:_MOST_NEW]


def _carried(table: Mapping[str, Any]) -> dict[str, str]:
    """What another area begins with: the second wording, or a text of its own where that has its place."""
    second = Carries.SECOND.value
    taken = any(row["carries"] == second for row in table.get("also", []))
    if taken or table.get("wording", {}).get("second_after"):
        return {"carries": Carries.FIXED.value, "text": _FIRST_TEXT}
    return {"carries": second}


_FIRST_TEXT = "Text"


def _rows(table: dict[str, Any]) -> list[tuple[str, dict[str, Any]]]:
    """The product and its further areas, each with what its fields' names begin with."""
    return [("", table), *((f"also.{n}.", row) for n, row in enumerate(table.get("also", [])))]


def without_gone(table: dict[str, Any]) -> dict[str, Any]:
    """A table that was changed with what is gone, without that; the table itself."""
    for _, row in _rows(table):
        if "ornaments" in row:
            row["ornaments"] = [one for one in row["ornaments"] if one["kind"] != "gone"]
    if "also" in table:
        table["also"] = [row for row in table["also"] if row["carries"] != "gone"]
        if not table["also"]:
            del table["also"]
    return table


_FIRST_TREATMENT = {"kind": "engraved", **FIRST["engraved"]}


def _fit_of(table: Mapping[str, Any]) -> dict[str, Any]:
    """Heights for another area: those of the product, without what it does by itself."""
    fit = table["fit"]
    return {key: fit[key] for key in ("greatest_height_mm", "lowest_height_mm", "clearance_mm")}


def _change_kinds(row: dict[str, Any], prefix: str, given: Given) -> None:
    kind, old = _one(given, f"{prefix}treatment.kind"), row["treatment"]
    if kind in TREATMENT_TABLES and kind != old["kind"]:
        first = FIRST.get(kind, {})
        row["treatment"] = {"kind": kind, **{key: old.get(key, value) for key, value in first.items()}}
    for key in KIND_TABLES:
        now = row.get("arrangement", {}).get(key, {}).get("kind", KINDS[key][0])
        kind = _one(given, f"{prefix}arrangement.{key}.kind")
        if kind in KINDS[key] and kind != now:
            row.setdefault("arrangement", {})[key] = {"kind": kind, **FIRST.get(kind, {})}
    carries = _one(given, f"{prefix}carries")
    if carries and carries != row.get("carries"):
        row["carries"] = carries
        if carries == Carries.FIXED.value:
            row["text"] = _FIRST_TEXT
        else:
            row.pop("text", None)
    for number, ornament in enumerate(row.get("ornaments", [])):
        kind = _one(given, f"{prefix}ornaments.{number}.kind")
        if (kind in ORNAMENT_TABLES or kind == "gone") and kind != ornament["kind"]:
            row["ornaments"][number] = {"kind": kind, **FIRST.get(kind, {})}


def _fill_in(row: dict[str, Any]) -> None:
    """Measures that a word asks for, where they are still 0: a hole to hang it by is a hole of some width."""
    for table, key, words, first in NEEDED:
        values = row.get(table, {})
        now = values.get(key)
        if now in words or (not words and isinstance(now, float) and now > 0):
            values.update({name: usual for name, usual in first.items() if not values.get(name)})


def _kept(field: ProductField) -> Any:
    """The value of a field as a table has it."""
    if field.choices == YES_NO:
        return field.value == "yes"
    return [float(c) for c in field.value.split()] if field.is_vector else field.value


def _value(field: ProductField, several: Sequence[str]) -> Any:
    """What is given, as a table has it; None where nothing is."""
    if field.is_several or field.is_ordered:
        # Nothing ticked comes as one empty value; a word chosen twice is meant once.
        return list(dict.fromkeys(word for word in several if word))
    if field.is_list:
        words = (word.strip() for word in several[-1].replace("\n", ",").split(","))
        return list(dict.fromkeys(word for word in words if word))
    if field.is_colour:
        return several[-1].strip().lower()
    if field.is_text:
        # Spaces are meant: those of “ · ” between repeats, say.
        return several[-1].replace("\r\n", "\n")
    text = several[-1].strip()
    if field.choices:
        if not text and "" not in dict(field.choices):
            return None
        # A word that is none of them is refused where the whole is read.
        return text == "yes" if field.choices == YES_NO else text
    if not text:
        return None
    if field.is_vector:
        return _vector(field, text)
    *tables, key = field.name.split(".")
    if tables[:1] == ["limits"]:
        # Not every limit is a length, and none is a share of something.
        unit = "mm" if field.unit == "mm" else "°" if field.unit == "°" else ""
        return _number(text, unit, field, label=field.label)
    table = next((step for step in reversed(tables) if not step.isdigit()), "")
    return _number(text, unit_of(key), field, label=key, table=table)


def _number(text: str, unit: str, field: ProductField, *, label: str, table: str = "") -> float | None:
    try:
        return typed_number(text, unit, low=field.low, high=field.high, label=label)
    except AdjustmentError as error:
        raise CatalogueError(f"{table}: {error}" if table else str(error)) from error


def _vector(field: ProductField, text: str) -> list[float]:
    try:
        found = [float(number.replace(",", ".")) for number in text.replace(";", " ").split()]
    except ValueError:
        raise CatalogueError(f"“{text[:20]}” is not a number for {field.label}.") from None
    return found

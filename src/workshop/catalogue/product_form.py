"""The fields of a product's table that the Catalogue lets people change, and a table changed by them.

What a form can't show, such as fit steps and arrangements, is changed in the product's file.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from copy import deepcopy
from dataclasses import dataclass
from typing import Any

from kizami.errors import CatalogueError
from kizami.lettering.shipped import shipped_typefaces
from kizami.processes import shipped_materials, shipped_processes
from kizami.products.blank_tables import BLANK_TABLES
from kizami.products.keys import KeyKind, keys_of
from kizami.products.lettering_tables import TREATMENT_TABLES
from kizami.products.values import Table
from workshop.catalogue.models import ShopTypeface

__all__ = ["ProductField", "changed_table", "fields_of", "typeface_names"]

_UNITS = {"mm": "mm", "deg": "°"}
#: What the trade calls a value, where the key of the products file does not say it by itself; and its unit,
#: where it is none of the usual.
_CALLED: dict[str, tuple[str, str]] = {
    "outer": ("outer side", ""),
    "inner": ("inner side", ""),
    "seam_mm": ("kept clear at the seam", "mm"),
    "rise_mm": ("rise of the middle", "mm"),
    "rim_mm": ("rim, width", "mm"),
    "ease_mm": ("inner edges eased by", "mm"),
    "fillet_mm": ("rounded inner corner, radius", "mm"),
    "corner_mm": ("rounded corner, radius", "mm"),
    "hole_mm": ("hole, across", "mm"),
    "web_mm": ("left round the hole", "mm"),
    "tray_mm": ("tray, depth", "mm"),
    "edge_mm": ("rims of the piece taken off by", "mm"),
    "edge": ("letters’ edges", ""),
    "round_mm": ("rounded rim, radius", "mm"),
    "low_mm": ("across at the lower end", "mm"),
    "high_mm": ("across at the upper end", "mm"),
    "bore_mm": ("bore, across", "mm"),
    "sectors": ("sides to letter", ""),
    "dome_mm": ("dome, rise", "mm"),
    "frame_mm": ("frame, width", "mm"),
    "curve_mm": ("bent to a radius of", "mm"),
    "radius_mm": ("lettered as far as", "mm"),
    "point": ("lettered about, x y z", "mm"),
    "up": ("reading upwards, x y z", ""),
    "follow_edges": ("lettering over bends", ""),
    "floor": ("floor of the letters", ""),
    "draft_deg": ("slope of the walls", "°"),
    "root_mm": ("sunk into the piece", "mm"),
    "margin_mm": ("recess beyond the letters", "mm"),
    "greatest_height_mm": ("letters at most", "mm high"),
    "lowest_height_mm": ("letters at least", "mm high"),
    "clearance_mm": ("kept clear all round", "mm"),
    "tracking": ("spacing between letters", "× height"),
    "tightest": ("spacing at the tightest", "× height"),
    "narrowest": ("letters narrowed to", "× width"),
    "most_lines": ("lines at most", ""),
    "leading": ("distance between lines", "× height"),
    "bolder_lowest_height_mm": ("bolder cut, at least", "mm high"),
    "most_departure": ("remedies by itself depart at most", ""),
    "exact_width_mm": ("exactly", "mm wide"),
    "exact_height_mm": ("exactly", "mm high"),
    "kind": ("lettering is", ""),
}
#: What a number is when a product gets a treatment that it had not before.
_USUAL = {"depth_mm": 0.5, "height_mm": 0.5, "root_mm": 0.4, "margin_mm": 1.0, "thickness_mm": 2.0}
_YES_NO = (("no", "no"), ("yes", "yes"))


@dataclass(frozen=True, kw_only=True, slots=True)
class ProductField:
    """One value.

    Attributes
    ----------
    name : of the form field: part and key, or the key alone
    part, label, unit : for people
    value : as it stands
    choices : (value, label) for words; empty for numbers
    is_vector : three numbers in one field
    is_text : words as they are
    """

    name: str
    part: str
    label: str
    unit: str
    value: Any
    choices: tuple[tuple[str, str], ...] = ()
    is_vector: bool = False
    is_text: bool = False


def typeface_names() -> dict[str, str]:
    """Every typeface by its code, the shop's own after those that ship."""
    named = {code: t.name for code, t in shipped_typefaces().items()}
    return named | dict(ShopTypeface.objects.values_list("code", "name"))


def fields_of(table: Mapping[str, Any], typefaces: Mapping[str, str] | None = None) -> list[ProductField]:
    """What may be changed, in the order in which a piece is thought of.

    Parameters
    ----------
    typefaces : as `typeface_names` gives them, for whoever asks for many tables
    """
    named = typeface_names() if typefaces is None else typefaces
    return [*_blank(table), *_treatment(table), *_lettering(table, named), *_further(table), *_making(table)]


def _field(key: str, value: Any, *, part: str, prefix: str, **more: Any) -> ProductField:
    words = key.split("_")
    unit = _UNITS.get(words[-1], "")
    label = " ".join(words[:-1] if unit else words)
    # A height of letters and one of the blank are two things.
    if key == "height_mm":
        label = "stand proud" if prefix.endswith("treatment.") else "height of the face"
    label, unit = _CALLED.get(key, (label, unit))
    return ProductField(name=f"{prefix}{key}", part=part, label=label, unit=unit, value=value, **more)


def _words(valid: tuple[str, ...]) -> tuple[tuple[str, str], ...]:
    return tuple((word, word) for word in valid)


def _blank(table: Mapping[str, Any]) -> Iterator[ProductField]:
    blank = table.get("blank", {})
    kind = BLANK_TABLES[blank["kind"]]
    where = {"part": "Blank", "prefix": "blank."}
    yield from _keys(kind, blank, **where)
    if len(kind.areas) > 1:
        area = table.get("area", kind.areas[0])
        yield _field("area", area, part="Blank", prefix="", choices=_words(kind.areas))


def _treatment(
    table: Mapping[str, Any], *, part: str = "Treatment", prefix: str = ""
) -> Iterator[ProductField]:
    treatment = table.get("treatment", {})
    where = {"part": part, "prefix": f"{prefix}treatment."}
    # A name piece is cut out and nothing else is.
    kinds = tuple(kind for kind in TREATMENT_TABLES if kind != "cut-out")
    if treatment["kind"] in kinds:
        yield _field("kind", treatment["kind"], choices=_words(kinds), **where)
    yield from _keys(TREATMENT_TABLES[treatment["kind"]], treatment, **where)


def _keys(kind: type[Table], table: Mapping[str, Any], **where: str) -> Iterator[ProductField]:
    """What of a table a form can show; points and files are changed otherwise."""
    for key in keys_of(kind):
        value = table.get(key.name, key.usual)
        match key.kind:
            case KeyKind.NUMBER:
                yield _field(key.name, value, **where)
            case KeyKind.WORD:
                yield _field(key.name, value, choices=_words(key.words), **where)
            case KeyKind.FLAG:
                yield _field(key.name, "yes" if value else "no", choices=_YES_NO, **where)
            case KeyKind.VECTOR:
                yield _field(key.name, " ".join(f"{c:g}" for c in value), is_vector=True, **where)


def _lettering(table: Mapping[str, Any], named: Mapping[str, str]) -> Iterator[ProductField]:
    yield from _fit(table, part="Lettering")
    yield _field(
        "typeface", table.get("typeface", ""), part="Lettering", prefix="", choices=tuple(named.items())
    )


def _fit(table: Mapping[str, Any], *, part: str, prefix: str = "") -> Iterator[ProductField]:
    for key, value in table.get("fit", {}).items():
        if isinstance(value, int | float) and not isinstance(value, bool):
            yield _field(key, value, part=part, prefix=f"{prefix}fit.")


def _further(table: Mapping[str, Any]) -> Iterator[ProductField]:
    """Treatment and heights of further areas, each a part of the form."""
    for number, row in enumerate(table.get("also", [])):
        where = {"part": f"Also on the {row['area']}", "prefix": f"also.{number}."}
        if "text" in row:
            yield _field("text", row["text"], is_text=True, **where)
        yield from _treatment(row, **where)
        yield from _fit(row, **where)


def _making(table: Mapping[str, Any]) -> Iterator[ProductField]:
    processes = tuple((code, p.name) for code, p in shipped_processes().items())
    materials = tuple((code, m.name) for code, m in shipped_materials().items())
    yield _field("process", table.get("process", ""), part="Making", prefix="", choices=processes)
    yield _field("material", table.get("material", ""), part="Making", prefix="", choices=materials)


def changed_table(table: Mapping[str, Any], given: Mapping[str, str]) -> dict[str, Any]:
    """A product's table with other values; what is not given stays, and what is usual is not written.

    Raises
    ------
    CatalogueError : a value is no number
    """
    changed: dict[str, Any] = deepcopy(dict(table))
    rows = [("", changed), *((f"also.{n}.", row) for n, row in enumerate(changed.get("also", [])))]
    for prefix, row in rows:
        kind, old = given.get(f"{prefix}treatment.kind", "").strip(), row["treatment"]
        if kind in TREATMENT_TABLES and kind != old["kind"]:
            needed = [key.name for key in keys_of(TREATMENT_TABLES[kind]) if key.is_needed]
            row["treatment"] = {"kind": kind, **{key: old.get(key, _USUAL[key]) for key in needed}}
    for field in fields_of(changed):
        text = given.get(field.name, "").strip()
        if not text or text == str(field.value):
            continue
        value = _value(field, text)
        # What stands as it stood stays untouched, however it is written: the same table is no new version.
        if value == field.value:
            continue
        *parts, key = field.name.split(".")
        target: Any = changed
        for part in parts:
            target = target[int(part)] if isinstance(target, list) else target[part]
        target[key] = value
    return changed


def _value(field: ProductField, text: str) -> Any:
    if field.choices == _YES_NO:
        return text == "yes"
    if field.choices:
        return text
    if field.is_text:
        return text.replace("\r\n", "\n")
    numbers = text.replace(";", " ").split() if field.is_vector else [text]
    try:
        found = [float(number.replace(",", ".")) for number in numbers]
    except ValueError:
        raise CatalogueError(f"“{text[:20]}” is not a number for {field.label}.") from None
    return found if field.is_vector else found[0]

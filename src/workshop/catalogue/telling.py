"""What is said of a product's values in the words of its page: refusals, and changes that are proposed."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from kizami.errors import KizamiError
from kizami.pieces.raising import Change
from kizami.standards import shipped_standards
from workshop.catalogue.field import YES_NO, ProductField
from workshop.catalogue.field_words import CALLED
from workshop.catalogue.product_fields import Known, fields_of

__all__ = ["UNNAMED", "change_told", "refusal_words", "refused_at"]

_KEY = re.compile(r"\b[a-z]+(?:_[a-z]+)+\b")
#: “Product TAG: ” or “Product TAG: blank: ”, of which only the words after it are for the page.
_WHERE = re.compile(r"^(?:Product [^:]{1,40}|A product without a code): ")
_TABLES = re.compile(r"^(?:blank|treatment|fit|wording|arrangement|soundness|shape|turn): ")


def refusal_words(error: KizamiError) -> str:
    """Why a product can't be, with what the page calls its values instead of the keys of the file.

    >>> from kizami.errors import CatalogueError
    >>> refusal_words(CatalogueError("Product TAG: blank: corner_mm is more than half of the shorter side."))
    'Rounded corner is more than half of the shorter side.'
    >>> refusal_words(CatalogueError("Product TAG: fit: lowest_height_mm 40 is above greatest_height_mm 11."))
    'Letters at least 40 is above letters at most 11.'
    """
    text = _WHERE.sub("", str(error))
    tables = []
    while found := _TABLES.match(text):
        tables.append(found[0].rstrip(": "))
        text = text[found.end() :]
    if "an outline that is free" in text:
        return "A free outline comes from a drawing: send it at the foot of this page's ticket."
    text = _KEY.sub(lambda key: _called(key[0], tables), text)
    return text[:1].upper() + text[1:]


def _called(key: str, tables: list[str]) -> str:
    for table in reversed(tables):
        if f"{table}.{key}" in CALLED:
            return CALLED[f"{table}.{key}"][0]
    if key in CALLED:
        return CALLED[key][0]
    words = key.split("_")
    return " ".join(words[:-1] if words[-1] in ("mm", "deg") else words)


def refused_at(error: KizamiError, table: Mapping[str, Any]) -> str:
    """Name of the field that a refusal speaks of, or ""."""
    text = str(error)
    names = [field.name for field in fields_of(table, UNNAMED)]
    tables = [word for word in ("blank", "treatment", "fit", "soundness") if f"{word}: " in text]
    for key in _KEY.findall(text):
        of_key = [name for name in names if name.rpartition(".")[2] == key]
        inside = [name for name in of_key if any(name.startswith(f"{one}.") for one in tables)]
        if found := (inside or of_key):
            return found[0]
    return ""


#: Names of fields are the same whatever the shop has.
UNNAMED = Known(typefaces={}, standards=shipped_standards())


def change_told(change: Change, table: Mapping[str, Any], typefaces: Mapping[str, str]) -> str:
    """A proposed change: “letters at least 3.4 instead of 3.6 mm high”."""
    known = Known(typefaces=typefaces, standards=shipped_standards())
    fields = {field.name: field for field in fields_of(table, known)}
    field = fields.get(change.name)
    if field is None:
        return change.name
    if field.is_ordered:
        new = next(step for step in change.new if step not in change.old)
        label = dict(field.choices)[new]
        with_it = ", ".join(_value_told(fields[name], value) for name, value in change.with_it)
        return f"{label} as well ({with_it})" if with_it else f"{label} as well"
    return _value_told(field, change.new, change.old)


def _value_told(field: ProductField, new: Any, old: Any = None) -> str:
    named = dict(field.choices)

    def words(value: Any) -> str:
        if field.choices == YES_NO:
            return "yes" if value else "no"
        return named.get(value, str(value)) if named else f"{value:g}"

    instead = "" if old is None else f" instead of {words(old)}"
    return f"{field.label} {words(new)}{instead} {field.unit}".rstrip()

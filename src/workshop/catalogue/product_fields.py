"""The fields of a product's table as its page shows them: by parts, in the words of the trade.

They are read off the tables of the core, so that a key which is new there is a field here; those that hold
no word, number or place stand in `fields_apart`. Lines drawn point by point come from drawings, see
`drawn_views`.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cache
from typing import Any

from kizami.checks.limits_told import limit_told, value_told
from kizami.lettering.shipped import shipped_typefaces
from kizami.processes import LIMITS_KNOWN
from kizami.products.blank_tables import BLANK_TABLES
from kizami.products.keys import Key, KeyKind, keys_of
from kizami.products.lettering_tables import (
    KINDS,
    TREATMENT_TABLES,
    ArrangementTable,
    FitTable,
    SoundnessTable,
    WordingTable,
)  # fmt: skip
from kizami.products.product import Carries
from kizami.products.values import Table
from kizami.sizes import SizeSystem
from kizami.standards import MOST_LIMIT, Standards, flat_limits
from kizami.wording.dates import DATE_FORMS
from kizami.wording.plan import WordingKind
from workshop.catalogue.field import YES_NO, ProductField, choices_of, field_of
from workshop.catalogue.field_words import CALLED_OF_KIND
from workshop.catalogue.fields_apart import (
    colour_fields,
    date_fields,
    feature_field,
    finish_fields,
    name_field,
)
from workshop.catalogue.kinds_of_tables import KIND_TABLES, ORNAMENT_TABLES, ORNAMENTS
from workshop.catalogue.models import ShopTypeface, codes_held_to, retired_typefaces
from workshop.standards.models import Standard

__all__ = ["Known", "fields_of", "known_for", "typeface_names"]


def typeface_names() -> dict[str, str]:
    """Every typeface by its code, the shop's own after those that ship."""
    named = {code: t.name for code, t in shipped_typefaces().items()}
    return named | dict(ShopTypeface.objects.values_list("code", "name"))


def _offered_names(table: Mapping[str, Any]) -> dict[str, str]:
    """Typefaces that a product may take: those in use, and those that it has already."""
    own = {table.get("typeface", ""), *table.get("typefaces", [])}
    own |= {further.get("typeface", "") for further in table.get("also", [])}
    gone = retired_typefaces() - own
    return {code: name for code, name in typeface_names().items() if code not in gone}


def standards_now() -> tuple[Standards, frozenset[str]]:
    """What the shop holds to, and which processes and materials come to no other product."""
    return Standard.objects.now_and_out_of_use()


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Known:
    """What of the shop's own a product may name: asked for once, for whoever asks for fields again and again.

    Attributes
    ----------
    typefaces : names by code
    out_of_use : processes and materials that no other product may have
    """

    typefaces: Mapping[str, str]
    standards: Standards
    out_of_use: frozenset[str] = frozenset()


def known_for(table: Mapping[str, Any]) -> Known:
    """What a product may name: all that is in use, and what it has already."""
    standards, gone = standards_now()
    return Known(typefaces=_offered_names(table), standards=standards, out_of_use=gone - codes_held_to(table))


def fields_of(table: Mapping[str, Any], known: Known | None = None) -> list[ProductField]:
    """What may be changed, in the order in which a piece is thought of.

    Parameters
    ----------
    known : for whoever asks for several tables
    """
    known = known or known_for(table)
    named, now = known.typefaces, known.standards
    return [
        *_blank(table),
        *_treatment(table),
        *_lettering(table, named),
        *_tables(table, named, part="", prefix=""),
        *_further(table, named),
        *_making(table, known),
        *finish_fields(table),
        *colour_fields(table),
        name_field(table),
        *_limits(table, now),
    ]


def _keys(kind: type[Table], table: Mapping[str, Any], *, part: str, prefix: str) -> Iterator[ProductField]:
    """What of a table a form can show."""
    for key in keys_of(kind):
        shown = _of_key(key, table.get(key.name, key.usual))
        if shown is not None:
            value, more = shown
            yield field_of(key.name, value, part=part, prefix=prefix, **more)


def _of_key(key: Key, value: Any) -> tuple[Any, dict[str, Any]] | None:
    if key.name in _ELSEWHERE:
        return None
    match key.kind:
        case KeyKind.NUMBER:
            return value, {"is_number": True, "low": key.low, "high": key.high}
        case KeyKind.WORD:
            return value, {"choices": _choices_of_key(key)}
        case KeyKind.FLAG:
            return "yes" if value else "no", {"choices": YES_NO}
        case KeyKind.VECTOR:
            return " ".join(f"{c:g}" for c in value), {"is_vector": True}
        case KeyKind.SEVERAL:
            ordered = key.name == "steps"
            more = {"choices": _choices_of_key(key), "is_several": not ordered, "is_ordered": ordered}
            return list(value), more
        case KeyKind.TEXT:
            known = {"date_form": tuple((form, form) for form in DATE_FORMS)}.get(key.name)
            return value, {"choices": known} if known else {"is_text": True}


@cache
def _choices_of_key(key: Key) -> tuple[tuple[str, str], ...]:
    return choices_of(key.words)


#: Shown in a way of their own, or not at all.
_ELSEWHERE = ("file", "unit", "area", "text", "carries", "typeface")


def _blank(table: Mapping[str, Any]) -> Iterator[ProductField]:
    blank = table.get("blank", {})
    kind = BLANK_TABLES[blank["kind"]]
    for field in _keys(kind, blank, part="Blank", prefix="blank."):
        key = field.name.removeprefix("blank.")
        own = CALLED_OF_KIND.get((blank.get("outer", ""), key), CALLED_OF_KIND.get((blank["kind"], key)))
        yield field if own is None else replace(field, label=own)
    if len(kind.areas) > 1:
        area = table.get("area", kind.areas[0])
        yield field_of("area", area, part="Blank", prefix="", choices=choices_of(kind.areas))
    if "size_system" in table:
        systems = choices_of([system.value for system in SizeSystem])
        yield field_of("size_system", table["size_system"], part="Blank", prefix="", choices=systems)


def _treatment(
    table: Mapping[str, Any], *, part: str = "Treatment", prefix: str = ""
) -> Iterator[ProductField]:
    treatment = table.get("treatment", {})
    where = {"part": part, "prefix": f"{prefix}treatment."}
    # A name piece is cut out and nothing else is.
    kinds = tuple(kind for kind in TREATMENT_TABLES if kind != "cut-out")
    if treatment["kind"] in kinds:
        yield field_of("kind", treatment["kind"], choices=choices_of(kinds), **where)
    yield from _keys(TREATMENT_TABLES[treatment["kind"]], treatment, **where)


def _lettering(table: Mapping[str, Any], named: Mapping[str, str]) -> Iterator[ProductField]:
    own = tuple(named.items())
    yield field_of("typeface", table.get("typeface", ""), part="Lettering", prefix="", choices=own)
    yield from _fit(table, part="Lettering", prefix="")


#: Numbers of the fit that stand with the letters themselves.
_HEIGHTS = ("greatest_height_mm", "lowest_height_mm", "clearance_mm", "tracking")


def _fit(table: Mapping[str, Any], *, part: str, prefix: str) -> Iterator[ProductField]:
    fields = list(_keys(FitTable, table.get("fit", {}), part=part, prefix=f"{prefix}fit."))
    yield from (field for field in fields if field.name.rpartition(".")[2] in _HEIGHTS)


def _tables(
    table: Mapping[str, Any], named: Mapping[str, str], *, part: str, prefix: str, typeface: str = ""
) -> Iterator[ProductField]:
    """Fit steps, wording, arrangement and soundness of an area; parts of their own for the product's."""

    def where(own: str, key: str) -> dict[str, str]:
        return {"part": part or own, "prefix": f"{prefix}{key}."}

    for field in _keys(FitTable, table.get("fit", {}), **where("When it does not fit", "fit")):
        if field.name.rpartition(".")[2] not in _HEIGHTS:
            yield field
    wording = table.get("wording", {})
    kind = wording.get("kind", WordingKind.AS_WRITTEN.value)
    kinds = choices_of([one.value for one in WordingKind])
    yield field_of("kind", kind, choices=kinds, **where("What may stand on it", "wording"))
    yield from _keys(WordingTable, wording, **where("What may stand on it", "wording"))
    yield from date_fields(wording, kind, **where("What may stand on it", "wording"))
    arrangement = table.get("arrangement", {})
    yield from _keys(ArrangementTable, arrangement, **where("How it stands", "arrangement"))
    for key in ("shape", "turn"):
        yield from _of_kinds(key, arrangement.get(key, {}), **where("How it stands", f"arrangement.{key}"))
    typeface = table.get("typeface") or typeface
    if typeface in named:
        yield feature_field(arrangement, typeface, **where("How it stands", "arrangement"))
    soundness = table.get("soundness", {})
    yield from _keys(SoundnessTable, soundness, **where("Strokes and loose parts", "soundness"))
    pull = "yes" if table.get("along_pull") else "no"
    yield field_of("along_pull", pull, part=part or "How it stands", prefix=prefix, choices=YES_NO)
    yield from _ornaments(table, part=part or "Ornaments", prefix=prefix)


def _of_kinds(key: str, table: Mapping[str, Any], *, part: str, prefix: str) -> Iterator[ProductField]:
    """A table of several kinds: which one, and what that one has."""
    kind = table.get("kind", KINDS[key][0])
    # What needs a drawn line is drawn in the file.
    kinds = [one for one in KINDS[key] if one != "path" or kind == one]
    yield field_of("kind", kind, part=part, prefix=prefix, choices=choices_of(kinds))
    yield from _keys(KIND_TABLES[key][kind], table, part=part, prefix=prefix)


def _ornaments(table: Mapping[str, Any], *, part: str, prefix: str) -> Iterator[ProductField]:
    rows = table.get("ornaments", [])
    for number, row in enumerate(rows):
        where = {"part": part, "prefix": f"{prefix}ornaments.{number}."}
        kinds = choices_of([*ORNAMENTS, "gone"])
        yield field_of("kind", row["kind"], choices=kinds, **where)
        if row["kind"] != "gone":
            yield from _keys(ORNAMENT_TABLES[row["kind"]], row, **where)
    yield field_of(
        "ornaments.new", "", part=part, prefix=prefix, choices=(("", "none"), *choices_of(ORNAMENTS))
    )


def _further(table: Mapping[str, Any], named: Mapping[str, str]) -> Iterator[ProductField]:
    """Further areas, each a part of the form, and one more where there is an area for it."""
    rows = table.get("also", [])
    for number, row in enumerate(rows):
        where = {"part": f"Also on the {row['area']}", "prefix": f"also.{number}."}
        carried = choices_of([*(one.value for one in Carries), "gone"])
        yield field_of("carries", row["carries"], choices=carried, **where)
        if row["carries"] == "gone":
            continue
        if row["carries"] == Carries.FIXED.value:
            yield field_of("text", row.get("text", ""), is_text=True, **where)
        yield from _treatment(row, **where)
        yield from _fit(row, **where)
        yield from _tables(row, named, typeface=table.get("typeface", ""), **where)
    areas = BLANK_TABLES[table["blank"]["kind"]].areas
    lettered = {table.get("area", areas[0]), *(row["area"] for row in rows)}
    free = [area for area in areas if area not in lettered]
    # What is cut out has nothing beside its letters that could be lettered.
    if free and table["treatment"]["kind"] != "cut-out":
        choices = (("", "none"), *choices_of(free))
        yield field_of("also.new", "", part="Another area", prefix="", choices=choices)


def _making(table: Mapping[str, Any], known: Known) -> Iterator[ProductField]:
    where: dict[str, Any] = {"part": "Making", "prefix": ""}
    processes = tuple(
        (code, p.name) for code, p in known.standards.processes.items() if code not in known.out_of_use
    )
    materials = tuple(
        (code, m.name) for code, m in known.standards.materials.items() if code not in known.out_of_use
    )
    yield field_of("process", table.get("process", ""), choices=processes, **where)
    yield field_of("material", table.get("material", ""), choices=materials, **where)
    allowance = table.get("allowance_percent", 0.0)
    yield field_of("allowance_percent", allowance, is_number=True, low=0.0, high=5.0, **where)
    codes = (("", "nowhere"), ("tab", "on a tab"), ("hidden face", "in a hidden side"))
    yield field_of("code_on", table.get("code_on", ""), choices=codes, **where)
    asked: dict[str, Any] = {"part": "A line may ask for", "prefix": "", "is_several": True}
    yield field_of("materials", list(table.get("materials", [])), choices=materials, **asked)
    yield field_of(
        "typefaces", list(table.get("typefaces", [])), choices=tuple(known.typefaces.items()), **asked
    )
    logo = "yes" if table.get("takes_logo") else "no"
    yield field_of("takes_logo", logo, part="A line may ask for", prefix="", choices=YES_NO)


def _limits(table: Mapping[str, Any], standards: Standards) -> Iterator[ProductField]:
    """What the product is held to: its process's limits, and those that it asks for itself."""
    process = standards.processes.get(table.get("process", ""))
    own = dict(flat_limits(table.get("limits", {})))
    for code in LIMITS_KNOWN:
        usual = process.limits.get_of(code) if process is not None else None
        if process is not None and usual is None:
            # A process that is not asked for it: no product of it can be.
            continue
        told = limit_told(code)
        side = ", at most" if told.word == "at most" else ""
        yield ProductField(
            name=f"limits.{code}", part="Held to", label=f"{told.title.lower()}{side}",
            unit=told.unit, value=own.get(code, usual if usual is not None else 0.0), is_number=True,
            low=0.0, high=MOST_LIMIT,
            means="" if process is None else f"{process.name} holds {value_told(code, usual or 0.0)}",
        )  # fmt: skip
    reason = table.get("looser_because", "")
    yield field_of("looser_because", reason, part="Held to", prefix="", is_text=True)

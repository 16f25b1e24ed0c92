"""Reading products from TOML: every key known, every number in bounds, refused with the key at fault."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Collection, Iterable, Mapping
from dataclasses import fields
from typing import Any

import tomli_w

from kizami.arrangement_tables import arrangement_from_table
from kizami.as_made.treatment import CutOut, Engraved, InRecess, Pierced, Raised, Scored, Treatment
from kizami.blank_tables import Bodies, blank_from_table, no_bodies
from kizami.blanks.band_ring import BandRingSpec
from kizami.blanks.name_piece import NamePiece
from kizami.blanks.ring_frame import RingFrame
from kizami.blanks.signet import SignetSpec
from kizami.errors import CatalogueError, SizeError
from kizami.lettering.arrangement import Arrangement
from kizami.lettering.fit_plan import SMALLEST_TRIED_MM, FitPlan, Step, check_fit_plan
from kizami.lettering.round_about import Spread
from kizami.lettering.shipped import shipped_typeface_codes
from kizami.ornament_tables import ornaments_from_tables, wrong_ornaments
from kizami.outlines.soundness import Soundness, check_soundness
from kizami.processes import shipped_materials, shipped_processes
from kizami.products import Carries, Catalogue, FixedBlank, FurtherArea, Product, SizedBlank
from kizami.sizes import SizeSystem
from kizami.table_values import enum_of, numbers_of
from kizami.wording.names import FamilyPlace
from kizami.wording.plan import WordingKind, WordingPlan, check_plan

__all__ = [
    "TREATMENT_KEYS",
    "product_from_table",
    "product_tables",
    "read_catalogue",
    "write_products",
]


def read_catalogue(text: str, *, bodies: Bodies = no_bodies) -> Catalogue:
    """Read a products file.

    Parameters
    ----------
    bodies : finds the bodies that supplied shapes name

    Raises
    ------
    CatalogueError : not TOML, or a product that can't be; names the product and the key
    """
    products: dict[str, Product] = {}
    for table in product_tables(text):
        product = product_from_table(table, bodies=bodies)
        key = product.code.casefold()
        if key in products:
            raise CatalogueError(f"Product {product.code} stands twice in the products file.")
        products[key] = product
    return Catalogue(products=products)


def product_tables(text: str) -> list[dict[str, Any]]:
    """The tables of a products file, not yet looked at.

    Raises
    ------
    CatalogueError : it is not TOML, or has no [[product]] tables
    """
    try:
        data = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise CatalogueError(f"The products file is not valid TOML: {error}.") from error
    tables = data.get("product")
    if not isinstance(tables, list) or not tables or not all(isinstance(t, dict) for t in tables):
        raise CatalogueError("The products file has no [[product]] tables.")
    return tables


def write_products(tables: Iterable[Mapping[str, Any]]) -> str:
    """Tables of products as a products file; read again they are the same tables.

    >>> text = write_products([{"code": "TAG", "blank": {"kind": "bead", "diameter_mm": 12.0}}])
    >>> product_tables(text)
    [{'code': 'TAG', 'blank': {'kind': 'bead', 'diameter_mm': 12.0}}]
    """
    return tomli_w.dumps({"product": list(tables)})


_CODE = re.compile(r"^[A-Za-z0-9][A-Za-z0-9._-]{0,39}$")
_KEYS = {
    "code",
    "name",
    "blank",
    "size_system",
    "treatment",
    "process",
    "material",
    "materials",
    "finish",
    "finishes",
    "typeface",
    "typefaces",
    "fit",
    "wording",
    "arrangement",
    "takes_logo",
    "along_pull",
    "area",
    "also",
    "soundness",
    "colours",
    "ornaments",
}


def product_from_table(
    table: Mapping[str, Any], *, typefaces: Collection[str] = (), bodies: Bodies = no_bodies
) -> Product:
    """One product from its TOML table.

    Parameters
    ----------
    typefaces : codes of typefaces that the shop added to those that ship
    bodies : finds the bodies that supplied shapes name

    Raises
    ------
    CatalogueError : a key is missing, unknown or out of bounds
    """
    code = str(table.get("code", ""))
    if not _CODE.match(code):
        raise CatalogueError(f"Product code “{code[:40]}” must be 1 to 40 letters, digits, dots or dashes.")
    unknown = set(table) - _KEYS
    if unknown:
        raise CatalogueError(f"Product {code}: unknown {', '.join(sorted(unknown))}.")
    blank, kind = blank_from_table(
        _subtable(code, table, "blank"), where=f"Product {code}: blank", bodies=bodies
    )
    is_ring = isinstance(blank, SizedBlank)
    system = None
    if is_ring:
        try:
            system = SizeSystem.named(str(table.get("size_system", "")))
        except SizeError as error:
            raise CatalogueError(f"Product {code}: size_system: {error}") from error
    elif "size_system" in table:
        raise CatalogueError(f"Product {code}: size_system is for rings only.")
    known_typefaces = (*shipped_typeface_codes(), *typefaces)
    known_materials = tuple(shipped_materials())
    treatment = _treatment(code, _subtable(code, table, "treatment"))
    if isinstance(treatment, CutOut) != isinstance(blank, NamePiece | RingFrame):
        raise CatalogueError(
            f"Product {code}: “cut-out” belongs to a name piece or a ring frame, and these are cut out."
        )
    area = _area(code, table, blank, kind.areas)
    arrangement = _arrangement(code, table, blank, area)
    body_colour, lettering_colour = _colours(code, table.get("colours"))
    made = Product(
        code=code,
        name=str(table.get("name", code)),
        blank=blank,
        size_system=system,
        treatment=treatment,
        process=shipped_processes()[_choice(code, table, "process", tuple(shipped_processes()))],
        material=_choice(code, table, "material", known_materials),
        materials=_choices(code, table, "materials", known_materials),
        typeface=_choice(code, table, "typeface", known_typefaces),
        typefaces=_choices(code, table, "typefaces", known_typefaces),
        finish=str(table.get("finish", ""))[:40],
        finishes=_choices(code, table, "finishes", None),
        plan=_plan(code, _subtable(code, table, "fit")),
        wording=_wording(code, table.get("wording", {})),
        arrangement=arrangement,
        takes_logo=_flag(code, table, "takes_logo"),
        area=area,
        also=tuple(
            _further(f"{code}: also {number}", row, blank, kind.areas)
            for number, row in enumerate(_rows(code, table, "also"), start=1)
        ),
        along_pull=_flag(code, table, "along_pull"),
        soundness=_soundness(code, table.get("soundness", {})),
        ornaments=ornaments_from_tables(table.get("ornaments", []), where=f"Product {code}: ornaments"),
        body_colour=body_colour,
        lettering_colour=lettering_colour,
    )
    wrong = next(filter(None, map(wrong_ornaments, (made, *map(made.on, made.also)))), "")
    if wrong:
        raise CatalogueError(f"Product {code}: ornaments: {wrong}.")
    _check_areas(made)
    return made


_FURTHER_KEYS = {
    "area", "carries", "text", "wording", "typeface", "treatment", "fit", "arrangement", "soundness",
    "along_pull", "ornaments",
}  # fmt: skip
#: As long as a line's own words may be.
_LONGEST_TEXT = 200


def _further(
    code: str, table: Mapping[str, Any], blank: SizedBlank | FixedBlank, names: tuple[str, ...]
) -> FurtherArea:
    """A further area with wording of its own."""
    unknown = set(table) - _FURTHER_KEYS
    if unknown:
        raise CatalogueError(f"Product {code}: unknown {', '.join(sorted(unknown))}.")
    carries = enum_of(Carries, table.get("carries", ""), where=f"Product {code}: carries")
    text = table.get("text", "")
    if (
        not isinstance(text, str)
        or len(text) > _LONGEST_TEXT
        or bool(text.strip()) != (carries is Carries.FIXED)
    ):
        raise CatalogueError(
            f"Product {code}: text belongs to “fixed”, and there it says in at most {_LONGEST_TEXT} "
            "characters what every piece carries."
        )
    treatment = _treatment(code, _subtable(code, table, "treatment"))
    if isinstance(treatment, CutOut):
        raise CatalogueError(f"Product {code}: treatment: a further area can't be cut out of its own piece.")
    if "area" not in table:
        raise CatalogueError(f"Product {code}: area is missing.")
    area = _area(code, table, blank, names)
    return FurtherArea(
        area=area,
        carries=carries,
        text=text.strip(),
        wording=_wording(code, table.get("wording", {})),
        typeface=_choice(code, table, "typeface", shipped_typeface_codes()) if "typeface" in table else "",
        treatment=treatment,
        plan=_plan(code, _subtable(code, table, "fit")),
        arrangement=_arrangement(code, table, blank, area),
        soundness=_soundness(code, table.get("soundness", {})),
        along_pull=_flag(code, table, "along_pull"),
        ornaments=ornaments_from_tables(table.get("ornaments", []), where=f"Product {code}: ornaments"),
    )


def _rows(code: str, table: Mapping[str, Any], key: str) -> list[dict[str, Any]]:
    rows = table.get(key, [])
    if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
        raise CatalogueError(f"Product {code}: {key} must be a list of tables.")
    return rows


def _check_areas(product: Product) -> None:
    """One wording for each area, and one place for a second wording."""
    names = [product.area, *(f.area for f in product.also)]
    twice = next((name for name in names if names.count(name) > 1), None)
    if twice is not None:
        raise CatalogueError(f"Product {product.code}: area “{twice}” is lettered twice.")
    seconds = [f.area for f in product.also if f.carries is Carries.SECOND]
    if len(seconds) + bool(product.wording.second_after) > 1:
        raise CatalogueError(
            f"Product {product.code}: a second wording can only go to one place: to an area of its own, "
            "or after the first wording with second_after."
        )


_COLOUR = re.compile(r"^#[0-9a-f]{6}$")


def _colours(code: str, table: object) -> tuple[str, str]:
    """Colours of body and lettering, or "" for both."""
    if table is None:
        return "", ""
    if not isinstance(table, dict) or set(table) != {"body", "lettering"}:
        raise CatalogueError(f"Product {code}: colours must name a colour for body and one for lettering.")
    for key, value in table.items():
        if not isinstance(value, str) or not _COLOUR.match(value):
            raise CatalogueError(f"Product {code}: colours: {key} must be a colour such as #1d5c4a.")
    return table["body"], table["lettering"]


def _area(code: str, table: Mapping[str, Any], blank: SizedBlank | FixedBlank, names: tuple[str, ...]) -> str:
    if "area" not in table:
        return names[0]
    if not isinstance(blank, SizedBlank):
        names = tuple(area.name for area in blank.areas)
    return _choice(code, table, "area", names)


def _arrangement(
    code: str, table: Mapping[str, Any], blank: SizedBlank | FixedBlank, area: str
) -> Arrangement:
    arrangement = arrangement_from_table(table.get("arrangement", {}), where=f"Product {code}: arrangement")
    if isinstance(arrangement.turn, Spread) and not _closes(blank, area):
        raise CatalogueError(
            f"Product {code}: arrangement: turn “spread” needs an area that closes on itself without a seam; "
            "choose “repeated” or “sector”."
        )
    return arrangement


def _closes(blank: SizedBlank | FixedBlank, area: str) -> bool:
    if isinstance(blank, SignetSpec):
        return area == "inside"
    if isinstance(blank, BandRingSpec):
        return area != "outside" or blank.outer != "tapered" or not blank.seam_mm
    return any(one.is_closed for one in blank.areas if one.name == area)


def _flag(code: str, table: Mapping[str, Any], key: str) -> bool:
    value = table.get(key, False)
    if not isinstance(value, bool):
        raise CatalogueError(f"Product {code}: {key} must be true or false.")
    return value


def _choices(code: str, table: Mapping[str, Any], key: str, known: tuple[str, ...] | None) -> tuple[str, ...]:
    values = table.get(key, [])
    if not isinstance(values, list) or not all(isinstance(v, str) and v for v in values):
        raise CatalogueError(f"Product {code}: {key} must be a list of words.")
    wrong = [v for v in values if known is not None and v not in known]
    if wrong and known is not None:
        raise CatalogueError(f"Product {code}: {key}: “{wrong[0][:40]}” is none of {', '.join(known)}.")
    return tuple(v[:40] for v in values)


def _subtable(code: str, table: Mapping[str, Any], key: str) -> dict[str, Any]:
    value = table.get(key)
    if not isinstance(value, dict):
        raise CatalogueError(f"Product {code}: {key} is missing.")
    return dict(value)


def _choice(code: str, table: Mapping[str, Any], key: str, known: tuple[str, ...]) -> str:
    value = str(table.get(key, ""))
    if value not in known:
        raise CatalogueError(f"Product {code}: {key} “{value[:40]}” is none of {', '.join(known)}.")
    return value


_TREATMENTS: dict[str, tuple[type, dict[str, tuple[float, float]], dict[str, Any]]] = {
    # Its class, the numbers that it needs, and what may be added: numbers with bounds, words with choices.
    "engraved": (
        Engraved,
        {"depth_mm": (0.01, 50)},
        {"floor": ("flat", "pointed", "rounded"), "draft_deg": (0, 45)},
    ),
    "raised": (
        Raised,
        {"height_mm": (0.01, 50), "root_mm": (0.05, 50)},
        {"edge": ("sharp", "chamfer", "rounded"), "edge_mm": (0, 5), "draft_deg": (0, 45)},
    ),
    "in recess": (
        InRecess,
        {"depth_mm": (0.05, 20), "height_mm": (0.05, 20), "margin_mm": (0.1, 20)},
        {"root_mm": (0.05, 10)},
    ),
    "pierced": (Pierced, {}, {}),
    "scored": (Scored, {}, {}),
    "cut-out": (CutOut, {"thickness_mm": (0.3, 30)}, {}),
}


#: What a treatment needs and what may be added, for pages that let people choose.
TREATMENT_KEYS: Mapping[str, tuple[dict[str, tuple[float, float]], dict[str, Any]]] = {
    kind: (needed, optional) for kind, (_, needed, optional) in _TREATMENTS.items()
}


def _treatment(code: str, table: dict[str, Any]) -> Treatment:
    kind = table.pop("kind", None)
    if kind not in _TREATMENTS:
        known = ", ".join(f"“{name}”" for name in _TREATMENTS)
        raise CatalogueError(f"Product {code}: treatment: kind must be one of {known}, not {kind!r}.")
    make, needed, optional = _TREATMENTS[kind]
    values: dict[str, Any] = {}
    bounds = dict(needed)
    for key, valid in optional.items():
        if key not in table:
            continue
        if isinstance(valid[0], str):
            values[key] = _choice(code, table, key, valid)
            del table[key]
        else:
            bounds[key] = valid
    values |= numbers_of(table, bounds, where=f"Product {code}: treatment")
    treatment: Treatment = make(**values)
    if isinstance(treatment, Raised) and treatment.edge != "sharp" and not treatment.edge_mm:
        raise CatalogueError(f"Product {code}: treatment: edge_mm must say how much is taken off the edges.")
    return treatment


_WORDING_KEYS: dict[str, type] = {
    "kind": str,
    "most": int,
    "family": str,
    "family_in_middle": bool,
    "date_form": str,
    "day_first": bool,
    "title_case": bool,
    "second_after": str,
    "longest": int,
    "decimals": int,
}


def _wording(code: str, table: object) -> WordingPlan:
    if not isinstance(table, dict):
        raise CatalogueError(f"Product {code}: wording must be a table.")
    for key, value in table.items():
        kind = _WORDING_KEYS.get(key)
        if kind is None or not isinstance(value, kind) or (kind is int and isinstance(value, bool)):
            raise CatalogueError(f"Product {code}: wording: {key} is unknown or of the wrong kind.")
    values = dict(table)
    try:
        if "kind" in values:
            values["kind"] = WordingKind(values["kind"])
        if "family" in values:
            values["family"] = FamilyPlace(values["family"])
    except ValueError as error:
        valid = ", ".join([k.value for k in WordingKind] + [f.value for f in FamilyPlace])
        raise CatalogueError(f"Product {code}: wording: {error}; valid are {valid}.") from error
    plan = WordingPlan(**values)
    wrong = check_plan(plan)
    if wrong:
        raise CatalogueError(f"Product {code}: wording: {wrong}.")
    return plan


_FIT_BOUNDS: dict[str, tuple[float, float]] = {
    "greatest_height_mm": (SMALLEST_TRIED_MM, 100),
    "lowest_height_mm": (SMALLEST_TRIED_MM, 100),
    "clearance_mm": (0, 50),
    "tracking": (0, 1),
    "tightest": (-0.2, 1),
    "narrowest": (0.5, 1),
    "most_lines": (1, 6),
    "leading": (0.8, 4),
    "bolder_lowest_height_mm": (0, 100),
    "exact_width_mm": (0, 500),
    "exact_height_mm": (0, 500),
}
_FIT_NEEDED = ("greatest_height_mm", "lowest_height_mm", "clearance_mm")


def _plan(code: str, table: dict[str, Any]) -> FitPlan:
    words = table.pop("steps", None)
    for key in _FIT_NEEDED:
        if key not in table:
            raise CatalogueError(f"Product {code}: fit: missing or unknown {key}.")
    bounds = {key: _FIT_BOUNDS[key] for key in table if key in _FIT_BOUNDS}
    numbers: dict[str, Any] = dict(numbers_of(table, bounds, where=f"Product {code}: fit"))
    if "most_lines" in numbers:
        numbers["most_lines"] = int(numbers["most_lines"])
    if words is not None:
        if not isinstance(words, list):
            raise CatalogueError(f"Product {code}: fit: steps must be a list of words.")
        numbers["steps"] = tuple(enum_of(Step, word, where=f"Product {code}: fit: steps") for word in words)
    plan = FitPlan(**numbers)
    wrong = check_fit_plan(plan)
    if wrong:
        raise CatalogueError(f"Product {code}: fit: {wrong}.")
    return plan


def _soundness(code: str, table: object) -> Soundness:
    if not isinstance(table, dict):
        raise CatalogueError(f"Product {code}: soundness must be a table.")
    known = {f.name: f.type for f in fields(Soundness)}
    for key, value in table.items():
        if key not in known:
            raise CatalogueError(f"Product {code}: soundness: unknown {key}.")
        number = isinstance(value, int | float) and not isinstance(value, bool)
        if key.endswith("_mm") != number:
            raise CatalogueError(f"Product {code}: soundness: {key} is of the wrong kind.")
    soundness = Soundness(**table)
    wrong = check_soundness(soundness)
    if wrong:
        raise CatalogueError(f"Product {code}: soundness: {wrong}.")
    return soundness

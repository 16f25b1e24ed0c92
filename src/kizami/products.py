"""Products: a blank, its lettering and how it is made. Read from TOML, refused with the key at fault."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from typing import Any

from kizami.blanks.band_ring import BandRing
from kizami.blanks.plate_tag import PlateTag
from kizami.errors import CatalogueError, SizeError
from kizami.lettering.fitting import SMALLEST_TRIED_MM, FitPlan
from kizami.lettering.shipped import shipped_typeface_codes
from kizami.processes import Process, shipped_materials, shipped_processes
from kizami.sizes import RingSize, SizeSystem, parse_ring_size
from kizami.solids.treatment import Engraved, Raised, Treatment
from kizami.wording.names import FamilyPlace
from kizami.wording.plan import WordingKind, WordingPlan, check_plan

__all__ = [
    "BandRingSpec",
    "Blank",
    "Catalogue",
    "PlateTag",
    "Product",
    "fold_code",
    "product_from_table",
    "read_catalogue",
]

Blank = BandRing | PlateTag


@dataclass(frozen=True, kw_only=True, slots=True)
class BandRingSpec:
    """A band ring whose bore comes from each line's size."""

    width_mm: float
    wall_mm: float
    seam_mm: float

    def blank(self, size: RingSize) -> BandRing:
        """The ring in a size."""
        return BandRing(
            bore_mm=size.bore_mm, width_mm=self.width_mm, wall_mm=self.wall_mm, seam_mm=self.seam_mm
        )


@dataclass(frozen=True, kw_only=True, slots=True)
class Product:
    """What the shop sells.

    Attributes
    ----------
    code : as written on order lists
    name : for people
    blank : the body; a ring still lacks its size
    size_system : taken when a line does not name one; None for products without sizes
    treatment, process, typeface, material : see there; the last two by code
    plan : how wording is fitted
    wording : what wording may stand on it
    """

    code: str
    name: str
    blank: BandRingSpec | PlateTag
    size_system: SizeSystem | None
    treatment: Treatment
    process: Process
    material: str
    typeface: str
    plan: FitPlan
    wording: WordingPlan = field(default_factory=WordingPlan)

    def read_size(self, text: str) -> RingSize | None:
        """A line's size in this product's terms.

        Raises
        ------
        SizeError : a ring without a size, a size that is none, or a size on a product without
        """
        if self.size_system is not None:
            return parse_ring_size(text, default=self.size_system)
        if text.strip():
            raise SizeError(
                f"{self.name} has no sizes, but the row says “{text[:20]}”. Clear the size or choose a ring.",
                column="size",
            )
        return None

    def blank_for(self, size: RingSize | None) -> Blank:
        """The blank in a line's size."""
        if isinstance(self.blank, PlateTag):
            return self.blank
        if size is None:
            raise SizeError(f"{self.name} needs a ring size.", column="size")
        return self.blank.blank(size)

    def to_table(self) -> dict[str, Any]:
        """The product as plain data with everything that shapes its pieces, for fingerprints."""
        table = asdict(self)
        table["size_system"] = self.size_system.value if self.size_system else None
        table["wording"]["kind"] = self.wording.kind.value
        table["wording"]["family"] = self.wording.family.value
        return table


@dataclass(frozen=True, kw_only=True, slots=True)
class Catalogue:
    """The products of a shop, by folded code, and other words that stand for a code."""

    products: Mapping[str, Product]
    aliases: Mapping[str, str] = field(default_factory=dict)

    def find(self, code: str) -> Product | None:
        """The product with this code or alias, whatever the letter case and spaces."""
        key = fold_code(code)
        return self.products.get(key) or self.products.get(fold_code(self.aliases.get(key, "")))


def fold_code(code: str) -> str:
    """A code as it is compared: letter case and spaces do not matter."""
    return " ".join(code.split()).casefold()


def read_catalogue(text: str) -> Catalogue:
    """Read a products file.

    Raises
    ------
    CatalogueError : not TOML, or a product that can't be; names the product and the key
    """
    try:
        data = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise CatalogueError(f"The products file is not valid TOML: {error}.") from error
    tables = data.get("product")
    if not isinstance(tables, list) or not tables:
        raise CatalogueError("The products file has no [[product]] tables.")
    products: dict[str, Product] = {}
    for table in tables:
        product = product_from_table(table)
        key = product.code.casefold()
        if key in products:
            raise CatalogueError(f"Product {product.code} stands twice in the products file.")
        products[key] = product
    return Catalogue(products=products)


_CODE = re.compile(r"^[A-Za-z0-9][A-Za-z0-9._-]{0,39}$")
_KEYS = {
    "code",
    "name",
    "blank",
    "size_system",
    "treatment",
    "process",
    "material",
    "typeface",
    "fit",
    "wording",
}


def product_from_table(table: Mapping[str, Any]) -> Product:
    """One product from its TOML table.

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
    blank = _blank(code, _subtable(code, table, "blank"))
    is_ring = isinstance(blank, BandRingSpec)
    system = None
    if is_ring:
        try:
            system = SizeSystem.named(str(table.get("size_system", "")))
        except SizeError as error:
            raise CatalogueError(f"Product {code}: size_system: {error}") from error
    elif "size_system" in table:
        raise CatalogueError(f"Product {code}: size_system is for rings only.")
    typeface = _choice(code, table, "typeface", shipped_typeface_codes())
    return Product(
        code=code,
        name=str(table.get("name", code)),
        blank=blank,
        size_system=system,
        treatment=_treatment(code, _subtable(code, table, "treatment")),
        process=shipped_processes()[_choice(code, table, "process", tuple(shipped_processes()))],
        material=_choice(code, table, "material", tuple(shipped_materials())),
        typeface=typeface,
        plan=_plan(code, _subtable(code, table, "fit")),
        wording=_wording(code, table.get("wording", {})),
    )


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


def _numbers(
    code: str, where: str, table: Mapping[str, Any], bounds: Mapping[str, tuple[float, float]]
) -> dict[str, float]:
    wrong = set(bounds).symmetric_difference(table)
    if wrong:
        raise CatalogueError(f"Product {code}: {where}: missing or unknown {', '.join(sorted(wrong))}.")
    for key, (low, high) in bounds.items():
        value = table[key]
        if isinstance(value, bool) or not isinstance(value, int | float) or not low <= value <= high:
            raise CatalogueError(
                f"Product {code}: {where}: {key} must be a number from {low:g} to {high:g}, not {value!r}."
            )
    return {key: float(table[key]) for key in bounds}


def _blank(code: str, table: dict[str, Any]) -> BandRingSpec | PlateTag:
    kind = table.pop("kind", None)
    if kind == "band ring":
        return BandRingSpec(
            **_numbers(code, "blank", table, {"width_mm": (1, 30), "wall_mm": (0.5, 8), "seam_mm": (0.5, 30)})
        )
    if kind == "plate tag":
        tag = PlateTag(
            **_numbers(
                code,
                "blank",
                table,
                {
                    "length_mm": (5, 300),
                    "height_mm": (3, 200),
                    "thickness_mm": (0.5, 30),
                    "corner_mm": (0, 100),
                    "hole_mm": (0.5, 50),
                    "hole_web_mm": (0.5, 50),
                },
            )
        )
        if tag.corner_mm > min(tag.length_mm, tag.height_mm) / 2:
            raise CatalogueError(f"Product {code}: blank: corner_mm is more than half of the shorter side.")
        if tag.hole_mm + 2 * tag.hole_web_mm > min(tag.length_mm, tag.height_mm):
            raise CatalogueError(f"Product {code}: blank: the hole with its web does not go into the plate.")
        return tag
    raise CatalogueError(f"Product {code}: blank: kind must be “band ring” or “plate tag”, not {kind!r}.")


def _treatment(code: str, table: dict[str, Any]) -> Treatment:
    kind = table.pop("kind", None)
    if kind == "engraved":
        return Engraved(**_numbers(code, "treatment", table, {"depth_mm": (0.01, 50)}))
    if kind == "raised":
        return Raised(**_numbers(code, "treatment", table, {"height_mm": (0.01, 50), "root_mm": (0.05, 50)}))
    raise CatalogueError(f"Product {code}: treatment: kind must be “engraved” or “raised”, not {kind!r}.")


_WORDING_KEYS: dict[str, type] = {
    "kind": str,
    "most": int,
    "family": str,
    "family_in_middle": bool,
    "date_form": str,
    "day_first": bool,
    "title_case": bool,
    "second_after": str,
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


def _plan(code: str, table: dict[str, Any]) -> FitPlan:
    table.setdefault("tracking", 0.0)
    numbers = _numbers(
        code,
        "fit",
        table,
        {
            "greatest_height_mm": (SMALLEST_TRIED_MM, 100),
            "lowest_height_mm": (SMALLEST_TRIED_MM, 100),
            "clearance_mm": (0, 50),
            "tracking": (0, 1),
        },
    )
    if numbers["lowest_height_mm"] > numbers["greatest_height_mm"]:
        raise CatalogueError(f"Product {code}: fit: lowest_height_mm is above greatest_height_mm.")
    return FitPlan(**numbers)

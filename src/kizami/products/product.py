"""Products: a blank, its lettering and how it is made; and the catalogue that lists look them up in."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, replace
from enum import Enum
from typing import Any

from kizami.as_made.treatment import Treatment
from kizami.blanks.area import Area
from kizami.blanks.band_ring import BandRing, BandRingSpec
from kizami.blanks.name_piece import NamePiece
from kizami.blanks.ornaments import Ornament
from kizami.blanks.plate import Plate
from kizami.blanks.ring_frame import RingFrame
from kizami.blanks.round_things import BallBead, Coin, DomedDisc, Sleeve
from kizami.blanks.signet import Signet, SignetSpec
from kizami.blanks.supplied import SuppliedShape
from kizami.blanks.supplied_body import SuppliedBody
from kizami.errors import SizeError
from kizami.lettering.arrangement import Arrangement
from kizami.lettering.fit_plan import FitPlan, Step
from kizami.outlines.soundness import Soundness
from kizami.processes import Material, Process, is_looser
from kizami.sizes import RingSize, SizeSystem, parse_ring_size
from kizami.standards import shipped_standards
from kizami.wording.plan import WordingPlan

__all__ = [
    "Blank",
    "Carries",
    "Catalogue",
    "FixedBlank",
    "FurtherArea",
    "OwnLimit",
    "Product",
    "SizedBlank",
    "Word",
    "fold_code",
]

#: Blanks that have no sizes.
FixedBlank = Plate | BallBead | DomedDisc | Coin | Sleeve | NamePiece | RingFrame | SuppliedShape
#: Rings that still lack their size.
SizedBlank = BandRingSpec | SignetSpec
#: Every blank, in its size.
Blank = BandRing | Signet | FixedBlank


class Carries(Enum):
    """What stands on a further area."""

    SECOND = "second wording"
    SAME = "wording"
    FIXED = "fixed"


@dataclass(frozen=True, kw_only=True, slots=True)
class OwnLimit:
    """A limit of a product's own, beside its process's."""

    code: str
    value: float
    usual: float

    @property
    def is_looser(self) -> bool:
        """It lets pass what the process would hold."""
        return is_looser(self.code, self.value, than=self.usual)


@dataclass(frozen=True, kw_only=True, slots=True)
class FurtherArea:
    """Another area of a product's blank, with wording, fit plan and treatment of its own.

    Attributes
    ----------
    area : its name
    carries : the line's second wording, the same wording again, or a text that every piece has
    text : that text
    wording : what the second wording may be
    typeface : by code; "" is what the wording itself is set in
    treatment, plan, arrangement, soundness, along_pull, ornaments : see Product
    """

    area: str
    carries: Carries
    treatment: Treatment
    plan: FitPlan
    text: str = ""
    wording: WordingPlan = field(default_factory=WordingPlan)
    typeface: str = ""
    arrangement: Arrangement = field(default_factory=Arrangement)
    soundness: Soundness = field(default_factory=Soundness)
    along_pull: bool = False
    ornaments: tuple[Ornament, ...] = ()


@dataclass(frozen=True, kw_only=True, slots=True)
class Product:
    """What the shop sells.

    Attributes
    ----------
    code : as written on order lists
    name : for people
    blank : the body; a ring still lacks its size
    size_system : taken when a line does not name one; None for products without sizes
    treatment, process : see there
    material, typeface, finish : by code, what a line gets that does not ask for another
    materials, typefaces, finishes : what a line may ask for besides
    plan : how wording is fitted
    wording : what wording may stand on it
    arrangement : how the wording's parts stand to each other, and what they are bent to
    takes_logo : a line may name a logo
    allowance_percent : by how much its files are larger than the piece, as patterns for casting must be
    code_on : where a piece carries its ticket code while it is made: "tab", "hidden face" or "" for nowhere
    area : name of the area that is lettered, or "" for the blank's first
    also : further areas with wording of their own
    soundness : what is done to strokes and loose parts
    along_pull : lettering is laid on straight along one direction, as moulds and sand need, instead of
        along the normal
    ornaments : closed shapes beside the letters
    body_colour, lettering_colour : as #rrggbb for two-colour prints and enamel; both or none
    typeface_asked : a line asks for this typeface, it is not the product's own
    stock : the materials that it names, as its shop has them
    own_limits : where it asks for other limits than its process; `process` has them already
    looser_because : why some of them let more pass; printed on everything that leaves
    """

    code: str
    name: str
    blank: SizedBlank | FixedBlank
    size_system: SizeSystem | None
    treatment: Treatment
    process: Process
    material: str
    typeface: str
    plan: FitPlan
    finish: str = ""
    materials: tuple[str, ...] = ()
    typefaces: tuple[str, ...] = ()
    finishes: tuple[str, ...] = ()
    wording: WordingPlan = field(default_factory=WordingPlan)
    arrangement: Arrangement = field(default_factory=Arrangement)
    takes_logo: bool = False
    allowance_percent: float = 0.0
    code_on: str = ""
    area: str = ""
    also: tuple[FurtherArea, ...] = ()
    soundness: Soundness = field(default_factory=Soundness)
    along_pull: bool = False
    ornaments: tuple[Ornament, ...] = ()
    body_colour: str = ""
    lettering_colour: str = ""
    typeface_asked: bool = False
    stock: tuple[Material, ...] = ()
    own_limits: tuple[OwnLimit, ...] = ()
    looser_because: str = ""

    @property
    def made_of(self) -> Material:
        """What its pieces are made of."""
        own = next((material for material in self.stock if material.code == self.material), None)
        return own or shipped_standards().material(self.material)

    def read_size(self, text: str) -> RingSize | None:
        """A line's size in this product's terms; None for a product that has no sizes.

        Raises
        ------
        SizeError : a ring without a size, or a size that is none
        """
        return None if self.size_system is None else parse_ring_size(text, default=self.size_system)

    @property
    def most_lines(self) -> int:
        """Lines of lettering that it has room for."""
        return self.plan.most_lines if Step.BREAK in self.plan.steps else 1

    def blank_for(self, size: RingSize | None) -> Blank:
        """The blank in a line's size."""
        if not isinstance(self.blank, SizedBlank):
            return self.blank
        if size is None:
            raise SizeError(f"{self.name} needs a ring size.", column="size")
        return self.blank.blank(size)

    def area_of(self, blank: Blank) -> Area:
        """The area of a blank that this product letters."""
        return next((area for area in blank.areas if area.name == self.area), blank.areas[0])

    def on(self, further: FurtherArea) -> Product:
        """The product as if a further area were its only one."""
        return replace(
            self,
            area=further.area,
            treatment=further.treatment,
            plan=further.plan,
            wording=further.wording,
            typeface=further.typeface or self.typeface,
            arrangement=further.arrangement,
            soundness=further.soundness,
            along_pull=further.along_pull,
            ornaments=further.ornaments,
            takes_logo=False,
            also=(),
        )

    @property
    def second_plan(self) -> WordingPlan | None:
        """What a line's second wording may be, or None where nothing is done with one."""
        own = next((f.wording for f in self.also if f.carries is Carries.SECOND), None)
        return own or (WordingPlan() if self.wording.second_after else None)

    def choices(self, word: Word) -> tuple[str, ...]:
        """Codes that a line of this product may ask for, its own first."""
        own, others = {
            Word.TYPEFACE: (self.typeface, self.typefaces),
            Word.MATERIAL: (self.material, self.materials),
            Word.FINISH: (self.finish, self.finishes),
        }[word]
        return tuple(dict.fromkeys(code for code in (own, *others) if code))

    def chosen(self, choices: Mapping[Word, str]) -> Product:
        """The product as a line asks for it."""
        if not choices:
            return self
        typeface = choices.get(Word.TYPEFACE, self.typeface)
        return replace(
            self,
            typeface=typeface,
            typeface_asked=self.typeface_asked or typeface != self.typeface,
            material=choices.get(Word.MATERIAL, self.material),
            finish=choices.get(Word.FINISH, self.finish),
        )

    def to_table(self) -> dict[str, Any]:
        """The product as plain data with everything that shapes its pieces, for fingerprints."""
        return _plain(asdict(self))  # type: ignore[no-any-return]


def _plain(value: Any) -> Any:
    if isinstance(value, Enum):
        return value.value
    if isinstance(value, SuppliedBody):
        return value.digest
    if isinstance(value, dict):
        return {key: _plain(item) for key, item in value.items()}
    if isinstance(value, list | tuple):
        return [_plain(item) for item in value]
    return value


class Word(Enum):
    """What a word on an order list may stand for."""

    PRODUCT = "product"
    TYPEFACE = "typeface"
    MATERIAL = "material"
    FINISH = "finish"


@dataclass(frozen=True, kw_only=True, slots=True)
class Catalogue:
    """The products of a shop, by folded code, and its own words for codes.

    Attributes
    ----------
    products : by folded code
    aliases : (what it stands for, folded word) -> code
    typeface_names : code -> name of every typeface that there is
    placeholders : folded words that mean “nothing was written”, or None for the usual ones
    """

    products: Mapping[str, Product]
    aliases: Mapping[tuple[Word, str], str] = field(default_factory=dict)
    typeface_names: Mapping[str, str] = field(default_factory=dict)
    placeholders: frozenset[str] | None = None

    def find(self, code: str) -> Product | None:
        """The product with this code or alias, whatever the letter case and spaces."""
        key = fold_code(code)
        other = fold_code(self.aliases.get((Word.PRODUCT, key), ""))
        return self.products.get(key) or self.products.get(other)

    @property
    def product_words(self) -> frozenset[str]:
        """Every folded code and alias that stands for a product."""
        others = (
            word
            for (stands_for, word), code in self.aliases.items()
            if stands_for is Word.PRODUCT and fold_code(code) in self.products
        )
        return frozenset((*self.products, *others))

    def knows(self, code: str) -> bool:
        """Whether there is such a product."""
        return self.find(code) is not None


def fold_code(code: str) -> str:
    """A code as it is compared: letter case and spaces do not matter."""
    return " ".join(code.split()).casefold()

"""All that a piece depends on, and the fingerprint that names what comes of it."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass, replace

import kizami
from kizami.artwork.artwork import Artwork
from kizami.errors import AdjustmentError
from kizami.lettering.shipped import shipped_typeface, shipped_typeface_codes
from kizami.lettering.typeface import Typeface
from kizami.products.product import Product
from kizami.remembering import remembered
from kizami.setting.setting import AS_THE_PRODUCT, Setting
from kizami.sizes import RingSize
from kizami.standards import shipped_standards, table_of_material
from kizami.tolerance import SAGITTA_MM

__all__ = ["Inputs", "fingerprint"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Inputs:
    """All that a piece depends on.

    Attributes
    ----------
    product : what is made
    wording : cleaned text
    size : ring size, or None
    second : an optional second wording, left out when there is no room
    typeface : one that the shop added, or None for the product's own, which ships
    artwork : a logo or a code, or None
    height_cap_mm : height that a set shares, or None
    open_question : why the wording is not settled yet, or ""; holds the piece
    setting : how it is set otherwise than its product
    """

    product: Product
    wording: str
    size: RingSize | None
    second: str = ""
    typeface: Typeface | None = None
    artwork: Artwork | None = None
    height_cap_mm: float | None = None
    open_question: str = ""
    setting: Setting = AS_THE_PRODUCT

    @property
    def as_set(self) -> Inputs:
        """With its setting laid over product, size and words: what is made, and nothing set otherwise.

        Where there can be no such blank or size, as after a change of the product, the product's own stands
        in their place, and an open question says so and holds the piece.
        """
        setting = self.setting
        if setting.breaks and not setting.is_broken(self.wording):
            # Set of other words, which had other parts.
            setting = replace(setting, breaks="")
        if setting == AS_THE_PRODUCT:
            return self
        question = self.open_question
        try:
            product = _laid_over(setting, self.product)
            size = setting.size_of(product, self.size)
        except AdjustmentError as error:
            question = question or str(error)
            product = _laid_over(replace(setting, body_mm=None, band_mm=None), self.product)
            size = self.size
        language = product.arrangement.language
        shipped = setting.typeface and setting.typeface in shipped_typeface_codes()
        return replace(
            self,
            product=product,
            size=size,
            wording=setting.words_of(setting.lines_of(self.wording), language),
            second=setting.words_of(setting.second_of(self.second), language),
            typeface=None if shipped else self.typeface,
            open_question=question,
            setting=AS_THE_PRODUCT,
        )

    @property
    def face(self) -> Typeface:
        """The typeface that it is set in."""
        return self.typeface or shipped_typeface(self.product.typeface)


def fingerprint(inputs: Inputs) -> str:
    """SHA-256 over everything that shapes the piece, as 64 hexadecimal digits.

    The way a size was written does not matter, only its bore; the product's name neither. What is set as the
    product has it anyway shapes nothing.
    """
    inputs = inputs.as_set
    facts = {
        "recipe": kizami.RECIPE,
        "sagitta_mm": SAGITTA_MM,
        "product": _product_facts(inputs.product),
        "typeface": inputs.face.fingerprint,
        "further typefaces": [
            shipped_typeface(f.typeface).fingerprint for f in inputs.product.also if f.typeface
        ],
        "artwork": inputs.artwork.fingerprint if inputs.artwork else None,
        "bore_mm": inputs.size.bore_mm if inputs.size else None,
        "wording": inputs.wording,
        "second": inputs.second,
        "height_cap_mm": inputs.height_cap_mm,
        "open_question": inputs.open_question,
    }
    text = json.dumps(facts, sort_keys=True, separators=(",", ":"), ensure_ascii=True)
    return hashlib.sha256(text.encode()).hexdigest()


@remembered
def _laid_over(setting: Setting, product: Product) -> Product:
    """One value for each setting, so that what is worked out of a product is worked out once."""
    return setting.on(product)


@remembered
def _product_facts(product: Product) -> str:
    """What of a product shapes its pieces, as text; written once for all of them."""
    table = product.to_table()
    # What is only said or offered shapes nothing; of the wording plan only what joins its two parts does.
    for label in _SHAPES_NOTHING:
        del table[label]
    table["joint"] = product.wording.second_after
    # A material as it ships says nothing that its code does not; another shop's may weigh and look otherwise.
    del table["stock"]
    if product.made_of != shipped_standards().materials.get(product.material):
        table["made of"] = table_of_material(product.made_of)
    for label in ("own_limits", "looser_because"):
        if not table[label]:
            del table[label]
    return json.dumps(table, sort_keys=True, separators=(",", ":"), ensure_ascii=True)


_SHAPES_NOTHING = (
    "name", "code", "size_system", "wording", "finish", "finishes", "materials", "typefaces", "takes_logo",
)  # fmt: skip

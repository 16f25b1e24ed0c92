"""All that a piece depends on, and the fingerprint that names what comes of it."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass

import kizami
from kizami.artwork.artwork import Artwork
from kizami.lettering.shipped import shipped_typeface
from kizami.lettering.typeface import Typeface
from kizami.products.product import Product
from kizami.remembering import remembered
from kizami.sizes import RingSize

__all__ = ["SAGITTA_MM", "Inputs", "fingerprint"]

#: Largest distance between a chord and the curve or surface that it stands for.
SAGITTA_MM = 0.005


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
    """

    product: Product
    wording: str
    size: RingSize | None
    second: str = ""
    typeface: Typeface | None = None
    artwork: Artwork | None = None
    height_cap_mm: float | None = None
    open_question: str = ""

    @property
    def face(self) -> Typeface:
        """The typeface that it is set in."""
        return self.typeface or shipped_typeface(self.product.typeface)


def fingerprint(inputs: Inputs) -> str:
    """SHA-256 over everything that shapes the piece, as 64 hexadecimal digits.

    The way a size was written does not matter, only its bore; the product's name neither.
    """
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
def _product_facts(product: Product) -> str:
    """What of a product shapes its pieces, as text; written once for all of them."""
    table = product.to_table()
    # What is only said or offered shapes nothing; of the wording plan only what joins its two parts does.
    for label in _SHAPES_NOTHING:
        del table[label]
    table["joint"] = product.wording.second_after
    return json.dumps(table, sort_keys=True, separators=(",", ":"), ensure_ascii=True)


_SHAPES_NOTHING = (
    "name", "code", "size_system", "wording", "finish", "finishes", "materials", "typefaces", "takes_logo",
)  # fmt: skip

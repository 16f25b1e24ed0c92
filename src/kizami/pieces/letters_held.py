"""Letters that a product can never hold: told before it is sold, as no wording with one of them comes out."""

from __future__ import annotations

import string
from dataclasses import dataclass, replace

from kizami.lettering.shapes import Filled
from kizami.lettering.typeface import Typeface
from kizami.pieces.laying_out import lay_out
from kizami.pieces.lines import inputs_of
from kizami.products.product import Product
from kizami.wording.plan import WordingKind, WordingPlan
from kizami.wording.settling import settle

__all__ = ["NeverHeld", "common_letters", "letter_held", "never_held"]

#: What is wrong with a letter itself, whatever stands beside it.
_OF_A_LETTER = (
    "missing-character", "stroke-width", "gap-width", "web-width", "middle-width", "lettering-depth",
    "edge-made", "draft-made",
)  # fmt: skip
_NAMES = string.ascii_uppercase + string.ascii_lowercase
_LETTERS = {
    WordingKind.INITIALS: string.ascii_uppercase,
    WordingKind.MONOGRAM: string.ascii_uppercase,
    WordingKind.COORDINATES: string.digits + "NESW",
    WordingKind.DATE: string.digits,
    WordingKind.YEAR: string.digits,
    WordingKind.QR_CODE: "",
    WordingKind.DATA_MATRIX: "",
}


@dataclass(frozen=True, kw_only=True, slots=True)
class NeverHeld:
    """A letter that fails by itself at the greatest height that there is for it.

    Attributes
    ----------
    letter : as tried
    code, message : of the finding
    height_mm : the height that it came to
    """

    letter: str
    code: str
    message: str
    height_mm: float


def common_letters(product: Product) -> str:
    """Letters that nearly every list has, of the kind that the product takes."""
    if isinstance(product.arrangement.shape, Filled):
        # What fills an outline has no height of its own.
        return ""
    return _LETTERS.get(product.wording.kind, _NAMES)


def never_held(
    product: Product, *, size: str = "", typeface: Typeface | None = None
) -> tuple[NeverHeld, ...]:
    """Try every common letter alone, as high as the product lets it be.

    Raises
    ------
    SizeError : the size is none
    """
    each = (letter_held(product, letter, size=size, typeface=typeface) for letter in common_letters(product))
    return tuple(lost for lost in each if lost is not None)


def letter_held(
    product: Product, letter: str, *, size: str = "", typeface: Typeface | None = None
) -> NeverHeld | None:
    """A letter alone, as high as the product lets it be: why it can never be held, or None where it can.

    Raises
    ------
    SizeError : the size is none
    """
    plain = inputs_of(
        product, settle("A", WordingPlan()), second="", logo="", logos=None, size=product.read_size(size),
        typeface=typeface,
    )  # fmt: skip
    laid_out = lay_out(replace(plain, wording=letter, artwork=None, open_question=""))
    # What lies between a loop and a bar is none of the letter's.
    wrong = next(
        (f for f in laid_out.failing if f.code in _OF_A_LETTER and all(c.text for c in f.cause)), None
    )
    if wrong is None:
        return None
    return NeverHeld(
        letter=letter, code=wrong.code, message=wrong.message, height_mm=laid_out.layout.height_mm
    )

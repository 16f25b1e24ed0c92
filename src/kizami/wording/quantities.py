"""How many: every clear way in which lists write a number of pieces."""

from __future__ import annotations

import re
import unicodedata

from kizami.errors import RowError

__all__ = ["LARGEST_QUANTITY", "read_quantity"]

LARGEST_QUANTITY = 200

_UNIT = (
    r"x|×|\*|pcs?|pces?|pieces?|items?|units?|ea|each|st|stk|stück|stueck|mal|pz|pezz[io]|pièces?|uds?|unidad(?:es)?|"
    r"unidades?|un|stuks?|szt|sztuk[ai]?|ks|kus[yů]?|styck|adet|tane|個|コ|本|点|枚|つ|セット"
)
_QUANTITY = re.compile(rf"^(?:(?:{_UNIT})\s*)?(\d{{1,3}})(?:[.,]0{{1,2}})?(?:\s*(?:{_UNIT})\.?)?$")


def read_quantity(text: str) -> int:
    """Read a quantity such as ``2``, ``2x``, ``x 2``, ``2 pcs``, ``2 Stück``, ``2個``, ``3,0``; "" is one.

    Raises
    ------
    RowError : none, too many, not whole, or of two readings, as 1.000 is

    >>> [read_quantity(text) for text in ("", "2x", "２個", "3,0", "2 Stück")]
    [1, 2, 2, 3, 2]
    """
    folded = " ".join(unicodedata.normalize("NFKC", text).casefold().split())
    if not folded:
        return 1
    match = _QUANTITY.match(folded)
    value = int(match[1]) if match is not None else 0
    if 1 <= value <= LARGEST_QUANTITY:
        return value
    if re.fullmatch(r"\d{1,3}[.,' ]\d{3}", folded):
        few, many = re.split(r"[.,' ]", folded)[0], re.sub(r"\D", "", folded)
        raise RowError(
            f"The quantity “{text[:20]}” may be {few} or {many}; write the one.", column="quantity"
        )
    raise RowError(
        f"The quantity “{text[:20]}” must be a whole number from 1 to {LARGEST_QUANTITY}.", column="quantity"
    )

"""What stands in a column, whatever it is called: shares of its cells that look like one thing or another."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass

__all__ = ["Contents", "contents_of"]

_EMAIL = re.compile(r"\S+@\S+\.\S+")
_FILE = re.compile(r".+\.(?:svg|png|jpe?g|gif|webp|bmp|tiff?|pdf|ai|eps|dxf)$", re.I)
_DATE = re.compile(r"\d{1,4}\s*[-/.年]\s*\d{1,2}\s*[-/.月]\s*\d{1,4}日?(?:[ T]\d{1,2}:\d{2}(?::\d{2})?.*)?")
_COUNT = re.compile(
    r"(?:x\s*)?\d{1,3}(?:[.,]0+)?\s*(?:x|×|pcs?\.?|pieces?|st(?:ück|k|\.)?|個|本|点|szt\.?|ks|adet)?", re.I
)
_SIZE = re.compile(
    r"(?:(?:us|usa|uk|eu|iso|jp|jis|fr|it|ch|de|es|t|size|gr\.?|größe|ø)\s*)?"
    r"(?:\d{1,2}(?:[.,]\d{1,2})?(?:\s*(?:[¼½¾]|\d/\d))?|[a-z](?:\s*(?:½|1/2))?)\s*(?:mm|号|us|uk|eu|jp)?",
    re.I,
)
_ORDER = re.compile(r"[#\w][\w./_#-]*\d[\w./_-]*")
_LETTER = re.compile(r"[^\W\d_]")


@dataclass(frozen=True, kw_only=True, slots=True)
class Contents:
    """Shares of the filled cells of a column, 0 to 1.

    Attributes
    ----------
    filled : share of all cells that hold anything
    distinct : different cells, of those filled
    product : that are codes or other names of products
    """

    filled: float = 0.0
    distinct: float = 0.0
    product: float = 0.0
    email: float = 0.0
    file: float = 0.0
    date: float = 0.0
    count: float = 0.0
    size: float = 0.0
    order: float = 0.0
    letters: float = 0.0


def contents_of(cells: Iterable[str], is_product: Callable[[str], bool]) -> Contents:
    """Look at the cells of a column.

    >>> contents_of(["2", "1 pcs", ""], lambda cell: False).count
    1.0
    >>> contents_of([], lambda cell: False).filled
    0.0
    """
    every = [cell.strip() for cell in cells]
    filled = [cell for cell in every if cell]
    if not filled:
        return Contents()

    def share(test: Callable[[str], object]) -> float:
        return sum(bool(test(cell)) for cell in filled) / len(filled)

    return Contents(
        filled=len(filled) / len(every),
        distinct=len({cell.casefold() for cell in filled}) / len(filled),
        product=share(is_product),
        email=share(_EMAIL.fullmatch),
        file=share(_FILE.fullmatch),
        date=share(_DATE.fullmatch),
        count=share(_COUNT.fullmatch),
        size=share(_SIZE.fullmatch),
        order=share(_ORDER.fullmatch),
        letters=share(_LETTER.search),
    )

"""From readable rows to lines that can be made: product, size and wording resolved."""

from __future__ import annotations

import hashlib
import re
from dataclasses import dataclass

from rapidfuzz import fuzz, process

from kizami.errors import RowError
from kizami.make import Inputs
from kizami.products import Catalogue
from kizami.wording.cleaning import Wording
from kizami.wording.order_list import OrderRow
from kizami.wording.plan import WordingPlan, settle

__all__ = ["Line", "nearest_codes", "piece_name", "resolve_row"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Line:
    """One line of an order, ready to be made `row.quantity` times.

    Attributes
    ----------
    row : as read
    wording : its words as the product wants them, with every change
    proposal : a better form of the words that only a person may take, or ""
    inputs : what the piece is made from
    """

    row: OrderRow
    wording: Wording
    proposal: str
    inputs: Inputs


def resolve_row(row: OrderRow, catalogue: Catalogue) -> Line:
    """Find the product and the size of a row, and clean its wording.

    Raises
    ------
    RowError : no such product, or a size that is not one; names the nearest product
    """
    product = catalogue.find(row.product)
    if product is None:
        near = nearest_codes(row.product, catalogue)
        hint = f"Did you mean {' or '.join(near)}?" if near else "Add it to the catalogue."
        raise RowError(f"There is no product “{row.product[:40]}”. {hint}", column="product")
    size = product.read_size(row.size)
    settled = settle(row.wording, product.wording)
    second = settle(row.second, WordingPlan()).wording.text if product.wording.second_after else ""
    inputs = Inputs(
        product=product,
        wording=settled.wording.text,
        size=size,
        second=second,
        open_question=settled.open_question,
    )
    return Line(row=row, wording=settled.wording, proposal=settled.proposal, inputs=inputs)


def nearest_codes(word: str, catalogue: Catalogue, *, most: int = 2) -> list[str]:
    """Product codes that a word may have meant: like the code or like the product's name."""
    choices: dict[str, str] = {}
    for product in catalogue.products.values():
        choices[product.code.casefold()] = product.code
        choices[product.name.casefold()] = product.code
    found = process.extract(
        word.casefold(), choices.keys(), scorer=fuzz.WRatio, score_cutoff=60, limit=2 * most
    )
    return list(dict.fromkeys(choices[match[0]] for match in found))[:most]


_UNSAFE = re.compile(r"[^A-Za-z0-9._]+")


def piece_name(order: str, line: str, number: int) -> str:
    """The file name of a piece, `<order>-<line>-<n>`, safe on every system.

    Where characters had to be replaced a short mark of the original is added, so that two orders
    never share a name.

    >>> piece_name("A104", "2", 1)
    'A104-2-1'
    >>> piece_name("../x", "1", 1) != piece_name("./x", "1", 1)
    True
    """
    return f"{_safe(order)}-{_safe(line)}-{number}"


def _safe(text: str) -> str:
    cleaned = _UNSAFE.sub("_", text).strip("._") or "_"
    cleaned = cleaned[:60]
    if cleaned == text:
        return cleaned
    return f"{cleaned}~{hashlib.sha256(text.encode()).hexdigest()[:6]}"

"""Where a product lets more pass than its process holds, in the words that go with everything that leaves."""

from __future__ import annotations

from kizami.checks.limits_told import limit_told, value_told
from kizami.products.product import Product

__all__ = ["looser_said"]


def looser_said(product: Product) -> str:
    """Which limits are looser, by how much and why; "" where none is."""
    rows = [row for row in product.own_limits if row.is_looser]
    if not rows:
        return ""
    told = (
        f"{limit_told(row.code).title.lower()} {limit_told(row.code).word} {value_told(row.code, row.value)} "
        f"instead of {value_told(row.code, row.usual)}"
        for row in rows
    )
    return f"{'; '.join(told)}: {product.looser_because}"

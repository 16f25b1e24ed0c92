"""Group `catalogue`: a product's page redrawn as one of its measures changes, as the server answers it."""

from __future__ import annotations

import time
from collections.abc import Iterator
from typing import Any

from benchmarks.apart import figures_apart, row, tell
from benchmarks.database import shop_database
from benchmarks.figure import Figure, percentile

__all__ = ["figures"]

#: Measures of each product that are changed, a little each.
_MEASURES = 4
_A_LITTLE = (0.99, 1.01)
_P95_MS = 150.0


def figures() -> Iterator[Figure]:
    """In a process of its own, on another database than other groups have."""
    return figures_apart("benchmarks.catalogue", group="catalogue")


def _measure() -> Iterator[dict[str, Any]]:
    from django.contrib.auth.models import User
    from django.test import Client
    from django.urls import reverse

    from workshop.catalogue.models import Product
    from workshop.catalogue.product_fields import fields_of

    client = Client(SERVER_NAME="localhost")
    client.force_login(User.objects.get(username="maren"))
    took: list[float] = []
    worst = (0.0, "")
    for product in Product.objects.current().order_by("code"):
        page = client.get(reverse("catalogue:product", args=[product.code])).content.decode()
        # As the page sends it: which fields it has, and what differs from the product as it is kept.
        mark = page.partition('name="fields" value="')[2].partition('"')[0]
        url = reverse("catalogue:wall", args=[product.code])
        measures = [field for field in fields_of(product.table) if field.is_number and field.value > 0][
            :_MEASURES
        ]
        for number, field in enumerate(measures):
            changed = {"fields": mark, field.name: f"{field.value * _A_LITTLE[number % 2]:.4f}"}
            start = time.perf_counter()
            answer = client.get(url, changed, HTTP_HX_REQUEST="true")
            took.append((time.perf_counter() - start) * 1000.0)
            assert answer.status_code == 200
            worst = max(worst, (took[-1], f"{product.code} {field.name}"))
    yield row("redraws", float(len(took)), "")
    yield row("redraw p50", percentile(took, 0.5), "ms")
    yield row("redraw p95", percentile(took, 0.95), "ms", target=_P95_MS)
    yield row(f"slowest, {worst[1]}", worst[0], "ms")


if __name__ == "__main__":
    with shop_database():
        tell(_measure())

"""Group `catalogue`: a product's page redrawn as one of its measures changes, as the server answers it."""

from __future__ import annotations

import time
from collections.abc import Iterator
from typing import Any

from benchmarks.apart import figures_apart, row, tell
from benchmarks.database import shop_database
from benchmarks.figure import Figure, percentile

__all__ = ["figures"]

#: Measures of each product that are changed, a little each: to three values never asked for, of which
#: the middle one counts, as a machine that does other things beside may be half as fast for a second.
_MEASURES = 4
_A_LITTLE = ((0.99, 0.985, 0.98), (1.01, 1.015, 1.02))
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
    from workshop.memory.garbage import look_seldom

    client = Client(SERVER_NAME="localhost")
    # As the server does before its first request.
    look_seldom()
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
            each = []
            for little in _A_LITTLE[number % 2]:
                changed = {"fields": mark, field.name: f"{field.value * little:.4f}"}
                start = time.perf_counter()
                answer = client.get(url, changed, HTTP_HX_REQUEST="true")
                each.append((time.perf_counter() - start) * 1000.0)
                assert answer.status_code == 200
            took.append(percentile(each, 0.5))
            worst = max(worst, (took[-1], f"{product.code} {field.name}"))
    yield row("redraws", float(len(took)), "")
    yield row("redraw p50", percentile(took, 0.5), "ms")
    yield row("redraw p95", percentile(took, 0.95), "ms", target=_P95_MS)
    yield row(f"slowest, {worst[1]}", worst[0], "ms")


if __name__ == "__main__":
    with shop_database():
        tell(_measure())

"""Sample order lists: made-up names on the demo's products, the same at every run."""

from __future__ import annotations

import csv
import io
from functools import cache

from faker import Faker

from kizami.cli import catalogue_at
from kizami.products import Catalogue
from launch.state import REPOSITORY

__all__ = ["catalogue", "order_list"]

_PRODUCTS = (
    ("CHOIR-RING", ("52", "54", "57", "UK P", "US 8")),
    ("CREW-TAG", ("",)),
    ("VOW-RING", ("6", "7 1/2", "10")),
    ("HIVE-PLATE", ("",)),
)


@cache
def catalogue() -> Catalogue:
    """The demo's products."""
    return catalogue_at(REPOSITORY / "demo" / "products.toml")


def order_list(lines: int, *, seed: int) -> bytes:
    """An order list with as many lines, no wording twice, all products in turn.

    Rings carry given names, tags family names.
    """
    fake = Faker("en_GB")
    fake.seed_instance(seed)
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(["order", "line", "product", "size", "wording", "quantity", "due"])
    seen: set[str] = set()
    number = 0
    while number < lines:
        product, sizes = _PRODUCTS[number % len(_PRODUCTS)]
        name = fake.first_name() if product.endswith("RING") else fake.last_name()
        # There are fewer names than lines in a long list: letters are added until one is new.
        while name in seen:
            name = f"{name} {fake.random_uppercase_letter()}"
        seen.add(name)
        number += 1
        writer.writerow([f"B{number // 20}", number, product, sizes[number % len(sizes)], name, 1, ""])
    return out.getvalue().encode()

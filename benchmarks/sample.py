"""Sample order lists: made-up names on the demo's products, the same at every run."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from functools import cache

from faker import Faker

from kizami.artwork.shelf import Shelf
from kizami.cli import catalogue_at
from kizami.products.product import Catalogue, Product
from kizami.sizes import SizeSystem
from kizami.wording.plan import WordingKind
from launch.state import REPOSITORY

__all__ = ["catalogue", "logos", "mixed_list", "order_list", "sizes_of", "words_for"]

_PRODUCTS = ("CHOIR-RING", "CREW-TAG", "VOW-RING", "HIVE-PLATE")
_SIZES = {
    SizeSystem.ISO: ("52", "54", "57"), SizeSystem.US: ("6", "7 1/2", "10"), SizeSystem.UK: ("L", "N½", "P"),
    SizeSystem.JP: ("9", "13", "17"),
}  # fmt: skip


@cache
def catalogue() -> Catalogue:
    """The demo's products."""
    return catalogue_at(REPOSITORY / "demo" / "products.toml")


@cache
def logos() -> Shelf:
    """The demo's logos."""
    files = {path.name: path.read_bytes() for path in sorted((REPOSITORY / "demo" / "logos").iterdir())}
    return Shelf.of(files)


def sizes_of(product: Product) -> Sequence[str]:
    """Sizes that lists name for a product; nothing for one without."""
    return _SIZES[product.size_system] if product.size_system else ("",)


def words_for(product: Product, fake: Faker) -> str:
    """What a customer might have written for a product: a name, or what it asks for instead."""
    kind = product.wording.kind
    if kind is WordingKind.COORDINATES:
        return f"{fake.latitude()}, {fake.longitude()}"
    if kind is WordingKind.PHRASE:
        return f"{fake.first_name()} and {fake.first_name()}"
    if kind in (WordingKind.INITIALS, WordingKind.MONOGRAM):
        return f"{fake.first_name()} {fake.last_name()}"
    return str(fake.first_name() if product.size_system else fake.last_name())


def order_list(lines: int, *, seed: int) -> bytes:
    """An order list of plain rings and tags, no wording twice, for what has to do with lists alone."""
    products = [catalogue().products[code.casefold()] for code in _PRODUCTS]
    return _list(products, lines, seed=seed)


def mixed_list(lines: int, *, seed: int) -> bytes:
    """An order list over all of the demo's products in turn, no wording twice."""
    return _list(list(catalogue().products.values()), lines, seed=seed)


def _list(products: Sequence[Product], lines: int, *, seed: int) -> bytes:
    fake = Faker("en_GB")
    fake.seed_instance(seed)
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(["order", "line", "product", "size", "wording", "quantity", "due", "logo", "second"])
    seen: set[str] = set()
    for number in range(lines):
        product = products[number % len(products)]
        words = words_for(product, fake)
        # There are fewer names than lines in a long list: letters are added until one is new.
        while words in seen:
            words = f"{words} {fake.random_uppercase_letter()}"
        seen.add(words)
        sizes = sizes_of(product)
        logo = "heron.svg" if product.takes_logo and number % 2 else ""
        plan = product.second_plan
        is_date = plan is not None and plan.kind is WordingKind.DATE
        second = "" if plan is None else fake.date() if is_date else fake.first_name()
        size = sizes[number // len(products) % len(sizes)]
        order = f"B{number // 20}"
        writer.writerow([order, number + 1, product.code, size, words, 1, "", logo, second])
    return out.getvalue().encode()

"""The demo shop is what the README promises: over sixty lines, both blanks, some awkward on purpose."""

from __future__ import annotations

from kizami.batch import resolve_list
from kizami.cli import catalogue_at
from kizami.make import lay_out
from launch.state import REPOSITORY


def test_the_demo_list_is_large_mixed_and_partly_awkward() -> None:
    catalogue = catalogue_at(REPOSITORY / "demo" / "products.toml")
    lines, aside = resolve_list((REPOSITORY / "demo" / "orders.csv").read_bytes(), catalogue)
    assert len(lines) >= 60
    assert {line.inputs.product.code.casefold() for line in lines} == set(catalogue.products)
    assert len({line.row.customer for line in lines}) >= 4
    assert len(aside) >= 3
    held = [x for x in lines if any(f.level.value == "fails" for f in lay_out(x.inputs).findings)]
    assert 5 <= len(held) <= len(lines) / 3

"""The demo shop is what the README promises: over sixty lines, both blanks, some awkward on purpose."""

from __future__ import annotations

import shapely

from kizami.artwork.artwork import Artwork
from kizami.artwork.shelf import Shelf
from kizami.cli import catalogue_at
from kizami.pieces.batch import resolve_list
from kizami.pieces.laying_out import lay_out
from kizami.pieces.make import make_piece
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


def test_a_silhouette_and_a_name_are_one_piece() -> None:
    """The bar joins the letters and the silhouette, which is none of them."""
    catalogue = catalogue_at(REPOSITORY / "demo" / "products.toml")
    logos = Shelf.of({"heron.svg": (REPOSITORY / "demo" / "logos" / "heron.svg").read_bytes()})
    lines, _ = resolve_list((REPOSITORY / "demo" / "orders.csv").read_bytes(), catalogue, logos=logos)
    line = next(x for x in lines if x.inputs.product.code == "HERON-CHAIN")
    made = make_piece(line.inputs)
    assert made.stage == "ready"
    assert made.solid is not None and made.solid.bodies == 1
    layout = made.laid_out.layout
    (heron,) = (i for i, mark in enumerate(layout.marks) if isinstance(mark.source, Artwork))
    assert layout.letter(layout.marks[heron].cluster) == "the logo"
    assert len(layout.outlines.geoms) == 1
    first = next(i for i, mark in enumerate(layout.marks) if mark.cluster == 0)
    bar = next(one.outline for one in layout.added if one.kind == "base bar")
    assert all(shapely.intersects(bar, layout.shapes[i]) for i in (heron, first))

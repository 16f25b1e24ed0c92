"""Drawings with their measures: every measure is true to the body, and every figure has a place of its own."""

from __future__ import annotations

import itertools
import re
from typing import Any

import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from kizami.drawing.blank_views import blank_views
from kizami.drawing.measured_views import PLACE_PX, Pointed, Span, View, view_drawing
from kizami.pieces.forecast import usual_size
from kizami.products.keys import KeyKind, keys_of
from kizami.products.product_file import product_from_table
from kizami.products.product_tables import ProductTable
from kizami.products.starting import starting_products

KINDS = starting_products()
#: What only shows where a piece has it, with a table that has.
WITH_MORE: dict[str, tuple[str, dict[str, Any]]] = {
    "comfort": ("BAND", {"inner": "comfort", "ease_mm": 0.3}),
    "tapered": ("BAND", {"outer": "tapered", "rise_mm": 0.6, "seam_mm": 0.0}),
    "channel with rounds": ("CHANNEL-RING", {"fillet_mm": 0.2}),
    "rounded signet": ("SIGNET", {"head": "rounded", "corner_mm": 2.0, "dome_mm": 0.8}),
    "ticket": ("TAG", {"outline": "ticket"}),
    "hole on top": ("TAG", {"hang": "hole top"}),
    "rounded coin": ("COIN", {"round_mm": 0.8}),
    "curved name": ("NAME-PIECE", {"curve_mm": 60.0}),
}


def table_of(name: str) -> dict[str, Any]:
    if name in KINDS:
        return dict(KINDS[name])
    kind, blank = WITH_MORE[name]
    return {**KINDS[kind], "blank": {**KINDS[kind]["blank"], **blank}}


def views_of(name: str) -> tuple[View, ...]:
    product = product_from_table(table_of(name))
    return blank_views(product.blank_for(product.read_size(usual_size(product))))


@pytest.mark.parametrize("name", [*KINDS, *WITH_MORE])
def test_every_line_is_as_long_as_its_measure_and_ends_at_the_body(name: str) -> None:
    blank = table_of(name)["blank"]
    for view in views_of(name):
        low_x, low_y, high_x, high_y = view.shape.bounds
        edges = view.shape.boundary.union(view.lines)
        for span in view.measures:
            if isinstance(span, Pointed) or span.mm == 0.0:
                continue
            assert span.mm == pytest.approx(blank[span.key], abs=1e-9), span.key
            # A line along an axis ends where the body has an edge, or as far out as the body reaches.
            axis = 0 if span.side in ("below", "above") else 1
            for end in (span.start, span.end):
                reach = (low_x, high_x) if axis == 0 else (low_y, high_y)
                out = min(abs(end[axis] - side) for side in reach)
                near = edges.distance(shapely.Point(end))
                # Curves are drawn to 0.02 mm. The ends of a sleeve stand on its axis' own ends.
                assert min(out, near) < 0.03, (span.key, end)


@pytest.mark.parametrize("name", [*KINDS, *WITH_MORE])
def test_what_is_pointed_at_lies_on_the_body_or_in_its_hole(name: str) -> None:
    for view in views_of(name):
        whole = view.shape.convex_hull.buffer(0.03)
        for one in view.measures:
            if isinstance(one, Pointed):
                assert whole.contains(shapely.Point(one.at)), one.key


@pytest.mark.parametrize("name", [*KINDS, *WITH_MORE])
def test_every_measure_above_nothing_has_one_place(name: str) -> None:
    table = table_of(name)
    kind = type(ProductTable.model_validate(table).blank)
    wanted = {
        key.name
        for key in keys_of(kind)
        if key.kind is KeyKind.NUMBER and table["blank"].get(key.name, key.usual) and key.name != "sectors"
    }
    placed = [
        key
        for view in views_of(name)
        for key in re.findall(r'data-place="(\w+)"', view_drawing(view, px=(460, 226)).content)
    ]
    assert sorted(placed) == sorted(wanted)


_mm = st.floats(0.0, 40.0)
_spans = st.builds(
    lambda key, a, b, side: Span(key=f"m{key}_mm", start=a, end=b, side=side),
    st.integers(0, 99),
    st.tuples(_mm, _mm),
    st.tuples(_mm, _mm),
    st.sampled_from(["below", "above", "left", "right"]),
)
_pointed = st.builds(
    lambda key, at, side: Pointed(key=f"p{key}_mm", at=at, side=side),
    st.integers(0, 99),
    st.tuples(_mm, _mm),
    st.sampled_from(["left", "right"]),
)


@settings(deadline=None, max_examples=300)
@given(
    st.tuples(st.floats(0.5, 40), st.floats(0.5, 40)),
    st.lists(st.one_of(_spans, _pointed), max_size=8),
    st.floats(320, 900),
)
def test_places_never_meet_and_stay_within_the_drawing(
    size: tuple[float, float], measures: list[Span | Pointed], width: float
) -> None:
    # As many as a column holds; a kind of blank has five at most on one side.
    view = View(title="", shape=shapely.box(0, 0, *size), measures=tuple(measures))
    drawing = view_drawing(view, px=(width, 240.0))
    places = [
        tuple(map(float, found))
        for found in re.findall(
            r'class="k-place"[^>]* x="([-\d.]+)" y="([-\d.]+)" width="([\d.]+)" height="([\d.]+)"',
            drawing.content,
        )
    ]
    shown = [m for m in measures if isinstance(m, Pointed) or m.mm > 1e-9]
    assert len(places) == len(shown)
    wide, high = drawing.view_box[2:]
    for x, y, w, h in places:
        assert (w, h) == PLACE_PX
        assert x >= -0.1 and y >= -0.1 and x + w <= wide + 0.1 and y + h <= high + 0.1
    for (ax, ay, w, h), (bx, by, *_) in itertools.combinations(places, 2):
        assert abs(ax - bx) >= w - 0.11 or abs(ay - by) >= h - 0.11

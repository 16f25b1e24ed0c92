"""Outline files against what they say: sizes in their units, areas of circles and arcs, one shape in two formats."""

from __future__ import annotations

import io
import math

import ezdxf
import numpy as np
import pytest
import shapely

from kizami.artwork.outline_files import read_outline
from kizami.errors import OutlineError
from kizami.pieces.forecast import tried
from kizami.pieces.make import make_piece
from kizami.products.product_file import product_from_table
from kizami.products.starting import starting_drawn

SVG = """<svg xmlns="http://www.w3.org/2000/svg" width="{size}" height="{high}" viewBox="0 0 60 30">
<g transform="translate(5 5)"><path d="M0 0H45A10 10 0 0 1 45 20H0Z" fill="none" stroke="red"/>
<circle cx="8" cy="10" r="3" fill="none" stroke="blue"/></g></svg>"""


def svg(size: str = "60mm", high: str = "30mm") -> bytes:
    return SVG.format(size=size, high=high).encode()


def dxf(unit: int, scale: float = 1.0) -> bytes:
    drawing = ezdxf.new()
    drawing.header["$INSUNITS"] = unit
    space = drawing.modelspace()
    at = [(x * scale, y * scale) for x, y in ((5, 5), (50, 5), (50, 25), (5, 25))]
    space.add_line(at[1], at[0])
    space.add_line(at[0], at[3])
    space.add_line(at[2], at[3])
    space.add_arc((50 * scale, 15 * scale), 10 * scale, -90, 90)
    space.add_circle((13 * scale, 15 * scale), 3 * scale)
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode()


@pytest.mark.parametrize(
    ("data", "name", "scale"),
    [
        (svg(), "a.svg", 1.0),
        (svg("30mm", "15mm"), "half.svg", 0.5),
        (svg("2in", "1in"), "inches.SVG", 50.8 / 60.0),
        (dxf(4), "a.dxf", 1.0),
        (dxf(1, 1 / 25.4), "inches.dxf", 1.0),
        (dxf(5, 0.1), "cm.DXF", 1.0),
    ],
)
def test_a_half_round_tag_has_its_size_and_its_areas(data: bytes, name: str, scale: float) -> None:
    found = read_outline(data, name=name).outline
    assert found.size == pytest.approx((55.0 * scale, 20.0 * scale), rel=1e-5)
    # 45 by 20 with half a disc of 10; chords fall short of it by less than a thousandth.
    whole = (45.0 * 20.0 + math.pi * 100.0 / 2.0) * scale**2
    assert shapely.Polygon(found.edge).area == pytest.approx(whole, rel=1e-3)
    (opening,) = found.openings
    assert shapely.Polygon(opening).area == pytest.approx(math.pi * 9.0 * scale**2, rel=4e-3)
    # The hole is left of the middle, as drawn: nothing is mirrored.
    assert shapely.Polygon(opening).centroid.x < float(found.edge.mean(axis=0)[0])


def test_both_formats_are_the_same_shape() -> None:
    drawn, cut = (
        read_outline(data, name=name).outline for data, name in ((svg(), "a.svg"), (dxf(4), "a.dxf"))
    )
    shapes = [shapely.Polygon(one.edge - one.edge.min(axis=0)) for one in (drawn, cut)]
    assert shapely.hausdorff_distance(*(one.boundary for one in shapes)) < 0.02


def test_a_file_without_a_unit_says_what_it_was_taken_for() -> None:
    assert "taken for millimetres" in " ".join(read_outline(dxf(0), name="x.dxf").notes)
    assert read_outline(dxf(4), name="x.dxf").notes == ()


@pytest.mark.parametrize(
    ("data", "name", "says"),
    [
        (b"", "a.svg", "not a whole SVG"),
        (b"<svg xmlns='http://www.w3.org/2000/svg'><script/></svg>", "a.svg", "a script"),
        (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "a.svg", "Nothing is drawn"),
        (b"0\nSECTION\n", "a.dxf", "not a whole DXF"),
        (b"\xff\x00nonsense", "a.dxf", "not a whole DXF"),
        (dxf(4)[:900], "cut.dxf", "not a whole DXF|Nothing is drawn"),
        (b"x", "a.ai", "none of"),
        (b"x" * (4 * 1024 * 1024 + 1), "a.dxf", "larger than 4 MB"),
    ],
)  # fmt: skip
def test_what_can_not_be_read_is_refused_in_a_sentence(data: bytes, name: str, says: str) -> None:
    with pytest.raises(OutlineError, match=says):
        read_outline(data, name=name)


def test_a_plate_of_it_is_as_large_as_was_said_and_open_where_it_was_drawn() -> None:
    read = read_outline(svg(), name="a.svg")
    table = {**starting_drawn(read.outline, length_mm=44.0, height_mm=16.0), "code": "T", "name": "T"}
    product = product_from_table(table)
    body = product.blank.body(0.005)  # type: ignore[union-attr]
    low, high = np.array(body.bounding_box()).reshape(2, 3)
    thick = table["blank"]["thickness_mm"]
    assert high - low == pytest.approx((44.0, 16.0, thick), abs=1e-3)
    edge, (opening,) = read.outline.edge, read.outline.openings
    flat = (shapely.Polygon(edge).area - shapely.Polygon(opening).area) * 0.8**2
    assert body.volume() == pytest.approx(flat * thick, rel=1e-4)
    assert body.genus() == 1
    made = make_piece(tried(product, "Ida").inputs)
    assert made.stage == "ready", [f.message for f in made.findings if f.level.value == "fails"]
    # Letters keep clear of the opening too.
    hole = next(keep for keep in made.laid_out.area.keep_outs if keep.name == "opening")
    assert made.laid_out.layout.outlines.distance(hole.outline) >= table["fit"]["clearance_mm"] - 1e-6

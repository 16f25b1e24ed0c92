"""Drawings: true to scale, with every spot on them and no label over another."""

from __future__ import annotations

import io
import itertools
import re
import xml.etree.ElementTree as ET

import pytest
import shapely
import svgelements
from hypothesis import given, settings
from hypothesis import strategies as st

from kizami.checks.finding import Finding, Level, Sense, Severity, Spot, said
from kizami.drawing.gauge import gauge_drawing
from kizami.drawing.paths import number, path_data
from kizami.drawing.strip import strip_drawing
from kizami.drawing.unrolled import Drawing, unrolled_drawing, unrolled_file
from kizami.pieces.laying_out import lay_out
from tests.kizami.samples import FOUR, FOUR_IDS, RING, TAG, inputs

SVG = "{http://www.w3.org/2000/svg}"


def parse(content: str) -> ET.Element:
    return ET.fromstring(f'<svg xmlns="http://www.w3.org/2000/svg">{content}</svg>')


def labelled(drawing: Drawing) -> list[ET.Element]:
    return [g for g in parse(drawing.content).iter(f"{SVG}g") if "data-code" in g.attrib]


def subpaths(d: str) -> list[list[tuple[float, float]]]:
    found = []
    for part in d.split("M")[1:]:
        numbers = [float(x) for x in re.findall(r"-?\d+\.?\d*", part)]
        found.append(list(zip(numbers[::2], numbers[1::2], strict=True)))
    return found


@pytest.mark.parametrize("which", FOUR, ids=FOUR_IDS)
def test_a_file_is_at_true_size(which) -> None:
    laid_out = lay_out(inputs(which, "Ottoline"))
    root = ET.fromstring(unrolled_file(laid_out.area, laid_out.layout, laid_out.findings, title="Ottoline"))
    _, _, width, height = (float(x) for x in root.attrib["viewBox"].split())
    assert root.attrib["width"] == f"{number(width)}mm"
    assert root.attrib["height"] == f"{number(height)}mm"
    letters = next(p for p in root.iter(f"{SVG}path") if p.attrib.get("class") == "k-letters")
    xs = [x for ring in subpaths(letters.attrib["d"]) for x, _ in ring]
    low, _, high, _ = laid_out.layout.ink_bounds
    assert (min(xs), max(xs)) == pytest.approx((low, high), abs=0.002)


def test_drawn_letters_cover_the_area_of_the_outlines() -> None:
    outlines = lay_out(inputs(RING, "Bob & Ada")).layout.outlines
    rings = [shapely.Polygon(ring) for ring in subpaths(path_data(outlines, top_mm=7.0))]
    signed = sum(r.area * (1 if shapely.is_ccw(r.exterior) else -1) for r in rings)
    assert abs(signed) == pytest.approx(outlines.area, rel=2e-3)


@pytest.mark.parametrize("wording", ["Ottoline", "Maximilian-Alexander Theodor", "Ng", "iiii", "gypsy"])
@pytest.mark.parametrize("which", [RING, TAG], ids=["ring", "tag"])
def test_every_measured_spot_has_its_ring_and_label_and_none_overlaps(which, wording: str) -> None:
    laid_out = lay_out(inputs(which, wording))
    placed = [f for f in laid_out.findings if f.spot is not None and f.unit == "mm"]
    drawing = unrolled_drawing(laid_out.area, laid_out.layout, laid_out.findings)
    groups = labelled(drawing)
    # More would only hide each other; fewer where there is no room for four without a pole through one.
    assert 1 <= len(groups) <= min(4, len(placed))
    boxes = []
    for group in groups:
        ring, text = group.find(f"{SVG}circle"), group.find(f"{SVG}text")
        assert ring is not None and text is not None
        assert any(
            abs(float(ring.attrib["cx"]) - f.spot.u_mm) < 1e-3
            and f"{said(f.measured, f.limit)} mm" in (text.text or "")
            for f in placed
            if f.code == group.attrib["data-code"]
        )
        size = float(text.attrib["font-size"])
        half = len(text.text or "") * size * 0.26
        middle, base = float(text.attrib["x"]), float(text.attrib["y"])
        boxes.append(shapely.box(middle - half, base - size * 0.7, middle + half, base))
    assert not any(a.intersects(b) for a, b in itertools.combinations(boxes, 2))
    # No label is cut off by the frame.
    assert min(box.bounds[1] for box in boxes) >= drawing.view_box[1]
    # Nothing of a pole is over a letter or another's label.
    top = laid_out.area.bounds[3]
    letters = shapely.transform(laid_out.layout.outlines, lambda uv: uv * (1, -1) + (0, top))
    for group, own in zip(groups, boxes, strict=True):
        leader = group.find(f"{SVG}path")
        assert leader is not None
        poles = shapely.MultiLineString(upright(leader.attrib["d"]))
        assert not poles.intersects(letters)
        assert not any(poles.intersects(box) for box in boxes if box is not own)


def upright(d: str) -> list[list[tuple[float, float]]]:
    """The pieces of a pole."""
    found = re.findall(r"M(-?[\d.]+) (-?[\d.]+)V(-?[\d.]+)", d)
    return [[(float(x), float(one)), (float(x), float(other))] for x, one, other in found]


@settings(max_examples=60, deadline=None)
@given(st.lists(st.floats(0.5, 59.5), min_size=1, max_size=4), st.floats(0.4, 2.4))
def test_wherever_spots_are_no_pole_runs_through_a_label(places: list[float], text_mm: float) -> None:
    laid_out = lay_out(inputs(TAG, "Ottoline"))
    spots = [
        Finding(
            code=f"check-{k}", title="smallest closed middle"[: 6 + 5 * k], level=Level.FAILS, measured=1.0,
            limit=1.1, unit="mm", sense=Sense.AT_LEAST, severity=Severity.WILL_FAIL, message="",
            spot=Spot(u_mm=u, v_mm=3.0 + 4.0 * k),
        )
        for k, u in enumerate(places)
    ]  # fmt: skip
    groups = labelled(unrolled_drawing(laid_out.area, laid_out.layout, spots, text_mm=text_mm))
    # The first is the gravest, and always there.
    assert groups and groups[0].attrib["data-code"] == "check-0"
    boxes = []
    for group in groups:
        text = group.find(f"{SVG}text")
        assert text is not None
        half = len(text.text or "") * text_mm * 0.26
        middle, base = float(text.attrib["x"]), float(text.attrib["y"])
        boxes.append(shapely.box(middle - half, base - text_mm * 0.7, middle + half, base))
        assert base <= -text_mm * 0.7
    for group, own in zip(groups, boxes, strict=True):
        leader = group.find(f"{SVG}path")
        assert leader is not None
        poles = shapely.MultiLineString(upright(leader.attrib["d"]))
        assert not any(box.intersects(poles) or box.intersects(own) for box in boxes if box is not own)


def test_a_check_with_many_spots_hides_no_other_and_what_holds_hides_nothing_that_fails() -> None:
    laid_out = lay_out(inputs(TAG, "Ottoline"))

    def found(code: str, level: Level, u_mm: float) -> Finding:
        return Finding(
            code=code, title=code, level=level, measured=1.0, limit=1.1, unit="mm", sense=Sense.AT_LEAST,
            severity=Severity.WILL_FAIL, message="", spot=Spot(u_mm=u_mm, v_mm=2.0),
        )  # fmt: skip

    fails = [found("gap", Level.FAILS, float(u)) for u in range(5)] + [found("edge-gap", Level.FAILS, 6.0)]
    holds = [found("stroke", Level.PASSES, 8.0)]
    drawing = unrolled_drawing(laid_out.area, laid_out.layout, [*fails, *holds])
    assert sorted(g.attrib["data-code"] for g in labelled(drawing)) == ["edge-gap", "gap", "gap", "gap"]
    drawing = unrolled_drawing(laid_out.area, laid_out.layout, [*fails[3:], *holds])
    assert [g.attrib["data-code"] for g in labelled(drawing)].count("stroke") == 1


def test_lettering_off_the_area_is_still_in_view() -> None:
    laid_out = lay_out(inputs(TAG, "x" * 500))
    x, _, width, _ = unrolled_drawing(laid_out.area, laid_out.layout, laid_out.findings).view_box
    assert laid_out.layout.ink_bounds[0] > x
    assert laid_out.layout.ink_bounds[2] < x + width


@pytest.mark.parametrize("wording", ["<script>alert(1)</script>", '"><b>', "A & B"])
def test_wording_cannot_break_out_of_a_drawing(wording: str) -> None:
    laid_out = lay_out(inputs(TAG, wording))
    file = unrolled_file(laid_out.area, laid_out.layout, laid_out.findings, title=wording)
    root = ET.fromstring(file)
    assert root.findtext(f"{SVG}title") == wording
    assert not list(root.iter(f"{SVG}script"))


@pytest.mark.parametrize(
    ("which", "wording", "is_banded"),
    [(RING, "Ivy", False), (TAG, "Halloran", True), (TAG, "", True), (TAG, "x" * 500, True)],
    ids=["ring", "tag", "empty tag", "off the area"],
)
def test_all_strips_share_one_scale_and_show_lettering_and_area_whole(which, wording, is_banded) -> None:
    laid_out = lay_out(inputs(which, wording))
    drawing = strip_drawing(laid_out.area, laid_out.layout)
    left, top, width, height = drawing.view_box
    page = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{left} {top} {width} {height}">{drawing.content}</svg>'
    # Read by another library, with every transformation applied; without a size it takes the view box's own.
    shapes = [
        (str(path.values["class"]), path.bbox())
        for path in svgelements.SVG.parse(io.StringIO(page), width=width, height=height).elements()
        if isinstance(path, svgelements.Path) and len(path)
    ]
    areas = [box for name, box in shapes if name == "k-area k-ground"]
    borders = [box for name, box in shapes if name == "k-border"]
    letters = [box for name, box in shapes if name == "k-letters"]
    low_u, low_v, high_u, high_v = laid_out.area.outline.bounds
    # The band comes last, at full size, and the whole area before it keeps its form.
    assert areas[-1][2] - areas[-1][0] == pytest.approx(high_u - low_u, abs=0.02)
    assert len(areas) == 1 + is_banded
    if is_banded:
        x0, y0, x1, y1 = areas[0]
        assert (x1 - x0) / (y1 - y0) == pytest.approx((high_u - low_u) / (high_v - low_v), rel=0.01)
        assert x1 < areas[-1][0]
        # The area goes on beyond the band: no line closes it there, and what is whole is closed.
        last = page.rpartition('class="k-border" d="')[2].partition('"')[0]
        pieces = last.split("M")[1:]
        assert len(pieces) >= 2
        for piece in pieces:
            heights = [float(point.split()[1]) for point in piece.split("L")]
            assert all(a != b for a, b in itertools.pairwise(heights))
    assert len(borders) == len(areas)
    if wording:
        ink = laid_out.layout.ink_bounds
        assert letters[-1][3] - letters[-1][1] == pytest.approx(ink[3] - ink[1], abs=0.1)
    for x0, y0, x1, y1 in (*areas, *letters):
        assert x0 >= -0.01 and y0 >= -0.01 and x1 <= width + 0.01 and y1 <= height + 0.01


@pytest.mark.parametrize(
    ("measured", "limit", "sense"),
    [
        (0.1, 0.3, Sense.AT_LEAST),
        (0.35, 0.3, Sense.AT_LEAST),
        (-2.0, 0.3, Sense.AT_LEAST),
        (99.0, 0.3, Sense.AT_LEAST),
        (49.0, 50.0, Sense.AT_MOST),
        (51.0, 50.0, Sense.AT_MOST),
        (0.0, 0.0, Sense.AT_MOST),
        (2.0, 0.0, Sense.AT_MOST),
        (1.0, 1.0, Sense.EXACTLY),
    ],
)
def test_a_gauge_shows_its_point_on_the_right_side_of_the_tick(
    measured: float, limit: float, sense: Sense
) -> None:
    root = parse(gauge_drawing(measured=measured, limit=limit, sense=sense, level="passes").content)
    tick = float(
        re.findall(
            r"M([\d.]+)", next(p for p in root.iter() if p.get("class") == "k-gauge-tick").attrib["d"]
        )[0]
    )
    point = next(p for p in root.iter() if p.get("class") == "k-gauge-point")
    at = float(point.get("cx") or re.findall(r"M([\d.]+)", point.attrib["d"])[0])
    assert 0 <= at <= 160
    if measured == limit:
        assert at == pytest.approx(tick, abs=0.01)
    else:
        assert (at > tick) == (measured > limit)

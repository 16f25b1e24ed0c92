"""Letters read back from a finished outline: what a goldsmith would see at a glance must be found."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
import shapely

from kizami.checks.finding import Level
from kizami.lettering.layout import Added, Layout, PlacedMark
from kizami.lettering.reading_back import changed_letters, crossed_letters, parts_of
from kizami.lettering.shipped import shipped_typeface
from kizami.lettering.typeface import glyph_in_mm
from kizami.outlines.curves import bodies_of
from kizami.pieces.laying_out import lay_out
from kizami.setting.setting import Setting
from tests.kizami.lettering.test_one_piece import laid_out
from tests.kizami.samples import TAG_TABLE, inputs, product

MM = 10.0


def plain(text: str, code: str = "noto-sans-bold") -> Layout:
    """A line as its typeface sets it, 10 mm high."""
    face = shipped_typeface(code)
    unit = MM / face.cap_height_upem
    marks = tuple(
        PlacedMark(
            source=face,
            glyph=g.glyph,
            cluster=g.cluster,
            u_mm=g.x * unit,
            v_mm=g.y * unit,
            scale_mm=MM,
            plain=True,
        )
        for g in face.shape(text)
    )
    shapes = tuple(m.place(glyph_in_mm(face, m.glyph, scale_mm=MM, sagitta_mm=0.002)) for m in marks)
    return Layout(
        text=text, height_mm=MM, lowest_height_mm=MM, marks=marks, shapes=shapes, outlines=bodies_of(*shapes),
        steps=(), fits=True, missing=(),
    )  # fmt: skip


def bridged(layout: Layout, *strokes: shapely.Geometry) -> Layout:
    return replace(
        layout,
        outlines=bodies_of(layout.outlines, *strokes),
        added=tuple(Added(kind="bridge", outline=bodies_of(one)) for one in strokes),
    )


def told(layout: Layout) -> list[tuple[str, str]]:
    return [(layout.letter(one.cluster), one.how) for one in changed_letters(layout)]


def bar(low_x: float, y: float, high_x: float, wide: float = 0.9) -> shapely.Polygon:
    return shapely.LineString([(low_x, y), (high_x, y)]).buffer(wide / 2.0)


@pytest.mark.parametrize("text", ["Jill", "Žižka", "Ömür", "ffi", "Ægir", "Ça%&!", "שלום", "محمد"])
def test_lettering_as_its_typeface_draws_it_reads_as_it_was_set(text: str) -> None:
    faces = {"ש": "noto-sans-hebrew-bold", "م": "amiri-bold"}
    assert told(plain(text, faces.get(text[0], "noto-sans-bold"))) == []


def test_a_bar_across_makes_another_letter_of_two() -> None:
    layout = plain("ll")
    stems = [shape.bounds for shape in layout.shapes]
    across = bar(stems[0][0], 0.5 * MM, stems[1][2])
    apart = 0.6 * MM
    # Set apart, so that the stroke between them is as long as that of an H.
    shifted = shapely.transform(layout.shapes[1], lambda xy: xy + np.array([apart, 0.0]))
    wide = replace(layout, shapes=(layout.shapes[0], shifted), outlines=bodies_of(layout.shapes[0], shifted))
    h = bridged(wide, bar(stems[0][0], 0.5 * MM, stems[1][2] + apart))
    assert told(h) == [("l", "stroke"), ("l", "stroke")]
    assert told(bridged(layout, across)) == []


def test_a_foot_makes_e_of_f_and_an_entry_from_the_left_does_not() -> None:
    layout = plain("F")
    low_x, low_y, high_x, _ = layout.outlines.bounds
    assert told(bridged(layout, bar(low_x, low_y + 0.5, high_x))) == [("F", "stroke")] or told(
        bridged(layout, bar(low_x + 1.5, low_y + 0.5, high_x))
    ) == [("F", "stroke")]
    assert told(bridged(layout, bar(low_x - 4.0, low_y + 0.5, low_x + 0.5))) == []


def test_a_dot_that_melts_into_its_stem_is_told_and_one_on_a_slim_neck_is_not() -> None:
    layout = plain("i")
    stem, dot = sorted(layout.outlines.geoms, key=lambda body: -body.area)
    x, between = stem.centroid.x, (stem.bounds[3] + dot.bounds[1]) / 2.0
    reach = dot.bounds[1] - stem.bounds[3] + 0.6
    width = stem.bounds[2] - stem.bounds[0]
    for share, lost in ((1.0, True), (0.5, False)):
        neck = shapely.box(
            x - share * width / 2, between - reach / 2, x + share * width / 2, between + reach / 2
        )
        assert (told(bridged(layout, neck)) == [("i", "mark")]) is lost, share


def test_two_dots_on_one_bar_are_another_mark() -> None:
    layout = plain("ö")
    dots = sorted(layout.outlines.geoms, key=lambda body: body.area)[:2]
    y = dots[0].centroid.y
    low, high = sorted(dot.centroid.x for dot in dots)
    assert told(bridged(layout, bar(low, y, high, 0.5))) == [("ö", "mark")]


def test_a_middle_that_fills_and_an_opening_that_closes_are_told() -> None:
    layout = plain("oc")
    middle = shapely.Polygon(layout.shapes[0].geoms[0].interiors[0])
    filled = replace(
        layout,
        outlines=bodies_of(layout.outlines, middle.buffer(-0.05)),
        added=(Added(kind="filling", outline=bodies_of(middle)),),
    )
    assert told(filled) == [("o", "middle")]
    _, low, high, top = layout.shapes[1].bounds
    closing = bar(high - 0.4, low + 1.5, high - 0.4).union(shapely.box(high - 0.9, low + 1, high, top - 1))
    assert ("c", "opening") in told(bridged(layout, closing)) or ("c", "stroke") in told(
        bridged(layout, closing)
    )


def test_a_letter_drawn_without_its_accent_is_told() -> None:
    layout = plain("Ä")
    body = max(layout.shapes[0].geoms, key=lambda part: part.area)
    bare = bodies_of(body)
    assert told(replace(layout, shapes=(bare,), outlines=bare)) == [("Ä", "mark")]
    full = bodies_of(shapely.Polygon(body.exterior), *(g for g in layout.shapes[0].geoms if g != body))
    assert told(replace(layout, shapes=(full,), outlines=full)) == [("Ä", "middle")]


def test_parts_are_counted_as_the_typeface_draws_them() -> None:
    face = shipped_typeface("noto-sans-bold")
    (one,) = face.shape("Ä")
    parts = parts_of(((face, one.glyph, 0.0, 0.0),))
    assert (parts.bodies, parts.middles) == (3, 1)


@pytest.mark.parametrize(
    "words", ["Zoë", "Noël", "Björn", "Jürgen", "Ýmir", "Tomáš", "Lilli", "Dvořák", "Željko"]
)
@pytest.mark.parametrize(
    "code", ["pacifico", "sacramento", "dancing-script-bold", "great-vibes", "comfortaa-bold"]
)
def test_no_name_is_ready_that_reads_otherwise(words: str, code: str) -> None:
    """What is ready has its dots apart, its middles open, and no stroke that its letters lack."""
    laid = laid_out(words, code)
    level = {f.code: f.level for f in laid.findings}.get("read-back")
    assert level is not None
    changed = changed_letters(laid.layout)
    assert bool(changed) == (level is Level.FAILS)
    own = [hole for shape in laid.layout.shapes for body in shape.geoms for hole in body.interiors]
    large = [
        shapely.Polygon(hole) for hole in own if shapely.Polygon(hole).area > 0.03 * laid.layout.height_mm**2
    ]
    if not changed:
        assert all(m.difference(laid.layout.outlines).area > 0.3 * m.area for m in large)


@pytest.mark.parametrize(
    ("tracking", "changes", "is_told"),
    [
        pytest.param(-0.2, {}, True, id="set too near"),
        pytest.param(-0.02, {}, False, id="set near"),
        pytest.param(-0.2, {"soundness": {"overlap_mm": 0.4}}, False, id="meant to cross"),
        pytest.param(-0.2, {"typeface": "pacifico"}, False, id="a hand joins"),
    ],
)
def test_letters_that_lie_on_each_other_are_told(tracking: float, changes: dict, is_told: bool) -> None:
    which = product({**TAG_TABLE, "soundness": {}}, **changes)
    laid = lay_out(inputs(which, "Ottoline", setting=Setting(tracking=tracking)))
    told = [f for f in laid.findings if f.code == "read-back" and "lies on the letter before it" in f.message]
    assert bool(told) == is_told
    shapes = [s for s in laid.layout.shapes if not s.is_empty]
    crossing = [
        laid.layout.text[n + 1] for n, (a, b) in enumerate(pairwise(shapes)) if a.intersection(b).area > 0.01
    ]
    for finding in told:
        assert finding.level is Level.FAILS and [cause.text for cause in finding.cause] == crossing


@pytest.mark.parametrize(
    ("typeface", "wording"),
    [
        ("amiri-bold", "محمد علي"),
        ("noto-kufi-arabic-bold", "سلمى"),
        ("noto-sans-bold", "AVATÄR Ljubica"),
        ("cinzel-decorative-bold", "Mitchell"),
    ],
)
def test_letters_that_their_script_or_typeface_joins_do_not_lie_on_each_other(
    typeface: str, wording: str
) -> None:
    laid = lay_out(inputs(product({**TAG_TABLE, "soundness": {}}, typeface=typeface), wording))
    assert len(laid.layout.marks) > 3 and crossed_letters(laid.layout) == ()


@pytest.mark.parametrize("code", ["pacifico", "cinzel-bold", "great-vibes", "vollkorn-bold"])
def test_a_middle_holds_a_wider_disc_than_its_area_by_its_edge(code: str) -> None:
    # Osserman, Bonnesen-style isoperimetric inequalities (from memory): A <= r L - pi r^2. What is told to be
    # open by it alone must be so, or a middle that fills in would be passed.
    typeface = shipped_typeface(code)
    glyphs = typeface.shape("AÅBDOPQRabdegopqþ&8049")
    outlines = [typeface.outline(one.glyph, sagitta_upem=1.0).polygons for one in glyphs]
    holes = [shapely.Polygon(hole) for o in outlines for body in o.geoms for hole in body.interiors]
    assert holes
    for hole in holes:
        radius = shapely.maximum_inscribed_circle(hole, tolerance=1e-3).length
        assert hole.area <= radius * hole.length - np.pi * radius**2 + 1e-6 * hole.area


@pytest.mark.parametrize(
    ("kind", "high_mm", "found"),
    [
        ("base bar", 0.3, []),
        ("base bar", 1.2, [(".", "sign")]),
        ("loop", 1.2, [(".", "sign")]),
        ("stalk", 0.3, []),
    ],
)
def test_a_stop_is_told_while_most_of_it_stands_clear(
    kind: str, high_mm: float, found: list[tuple[str, str]]
) -> None:
    """A stop of this typeface is a good 1.5 mm high here."""
    layout = plain("St.")
    strip = shapely.box(0.0, -2.0, layout.outlines.bounds[2] + 1.0, high_mm)
    held = replace(
        layout,
        outlines=bodies_of(layout.outlines, strip),
        added=(Added(kind=kind, outline=bodies_of(strip)),),
    )
    if kind == "stalk":
        (*_, stop) = layout.shapes
        low_x, low_y, _, _ = stop.bounds
        strip = shapely.box(low_x - 2.0, low_y + 0.4, low_x + 0.2, low_y + 0.4 + high_mm)
        held = replace(
            layout,
            outlines=bodies_of(layout.outlines, strip),
            added=(Added(kind=kind, outline=bodies_of(strip)),),
        )
    assert told(held) == found

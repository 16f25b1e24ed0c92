"""Outlines are clean: by construction on shapes with known faults, and for every glyph that ships."""

from __future__ import annotations

import itertools
import os

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from kizami.lettering.block import draw, set_line
from kizami.lettering.shipped import shipped_typeface, shipped_typeface_codes
from kizami.lettering.typeface import Typeface
from kizami.outlines.clean import Cleanness, clean, cleanness, mend_slits
from kizami.outlines.curves import bodies_of
from kizami.surfaces.protocol import Apex


def multi(*shapes: shapely.Polygon) -> shapely.MultiPolygon:
    return shapely.MultiPolygon(list(shapes))


BOW_TIE = shapely.Polygon([(0, 0), (10, 10), (10, 0), (0, 10)])
FAULTS = [
    pytest.param(multi(BOW_TIE), {"crosses": True}, id="crossing"),
    pytest.param(
        multi(shapely.Polygon([(0, 0), (10, 0), (10, 0), (10, 10), (0, 10)])),
        {"double_points": 1, "needless_points": 2},
        id="double point",
    ),
    pytest.param(
        multi(shapely.Polygon([(0, 0), (5, 0), (10, 0), (10, 10), (0, 10)])),
        {"needless_points": 1},
        id="point on a line",
    ),
    pytest.param(multi(shapely.box(0, 0, 10, 1e-4, ccw=True)), {"slivers": 1}, id="sliver"),
    pytest.param(multi(shapely.box(0, 0, 10, 10, ccw=False)), {"wrong_windings": 1}, id="winding"),
]


@pytest.mark.parametrize(("shape", "faults"), FAULTS)
def test_each_fault_is_seen_and_cleaned(shape: shapely.MultiPolygon, faults: dict[str, int]) -> None:
    seen = cleanness(shape, tolerance=1e-3)
    assert not seen.is_clean
    for name, count in faults.items():
        assert getattr(seen, name) == count
    assert cleanness(clean(shape, tolerance=1e-3, least_area=0.01), tolerance=1e-3).is_clean


def test_a_clean_shape_has_no_faults_and_stays_as_it_is() -> None:
    shape = multi(shapely.box(0, 0, 10, 10))
    nothing = Cleanness(crosses=False, double_points=0, needless_points=0, slivers=0, wrong_windings=0)
    assert cleanness(shape, tolerance=1e-3) == nothing
    assert clean(shape, tolerance=1e-3).equals(shape)
    assert mend_slits(shape, width=0.1) is shape
    assert clean(shapely.MultiPolygon(), tolerance=1e-3).is_empty


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.integers(0, 40), st.integers(0, 40)), min_size=3, max_size=14))
def test_any_tangle_comes_out_clean_and_twice_is_once(points: list[tuple[int, int]]) -> None:
    tangle = multi(shapely.Polygon([(x / 4, y / 4) for x, y in points]))
    once = clean(tangle, tolerance=1e-3, least_area=1e-4)
    assert once.is_valid
    seen = cleanness(once, tolerance=1e-3)
    assert not seen.crosses and not seen.wrong_windings and not seen.double_points
    again = clean(once, tolerance=1e-3, least_area=1e-4)
    assert again.symmetric_difference(once).area < 1e-6


def test_a_slit_and_a_hair_are_mended_and_a_real_notch_stays() -> None:
    slit = multi(shapely.box(0, 0, 10, 10).difference(shapely.box(4.99, 3, 5.01, 10)))
    assert mend_slits(slit, width=0.1).area == pytest.approx(100, abs=0.01)
    hair = multi(shapely.union_all([shapely.box(0, 0, 10, 10), shapely.box(4.99, 10, 5.01, 14)]))
    assert mend_slits(hair, width=0.1).bounds[3] == pytest.approx(10, abs=0.1)
    notch = multi(shapely.box(0, 0, 10, 10).difference(shapely.box(4.5, 3, 5.5, 10)))
    assert mend_slits(notch, width=0.1) is notch


#: At a capital of 10 mm this is a chord error of 0.01 mm: finer than any piece is made.
CHORDS_PER_CAP = 1000.0


#: Typefaces with more glyphs than this hold whole scripts that no product of the workshop sets.
LARGE = 1500
#: What they are shipped for: Latin, Greek, Cyrillic, Hebrew, Arabic, signs, kana and full-width forms.
PROMISED = (
    (0x20, 0x24F),
    (0x370, 0x52F),
    (0x590, 0x6FF),
    (0x1E00, 0x1EFF),
    (0x2000, 0x21FF),
    (0x3000, 0x30FF),
    (0xFB1D, 0xFDFF),
    (0xFE70, 0xFEFF),
)


def is_promised(code: int) -> bool:
    """Of kanji a third of those of level 1 of JIS X 0208, the 2,965 in common use: up to 0x9872 in Shift-JIS."""
    if not 0x4E00 <= code <= 0x9FFF:
        return any(low <= code <= high for low, high in PROMISED)
    try:
        return int.from_bytes(chr(code).encode("shift_jis"), "big") <= 0x9872 and code % 3 == 0
    except UnicodeEncodeError:
        return False


def glyphs_of(typeface: Typeface) -> list[int]:
    """All glyphs; of a large typeface the promised ones, unless all are asked for."""
    count = typeface.tables["maxp"].numGlyphs
    if count <= LARGE or os.environ.get("KIZAMI_EVERY_GLYPH"):
        return list(range(count))
    named = {name for code, name in typeface.tables.getBestCmap().items() if is_promised(code)}
    return sorted(typeface.tables.getGlyphID(name) for name in named)


@pytest.mark.parametrize("part", range(2))
@pytest.mark.parametrize("code", shipped_typeface_codes())
def test_every_glyph_is_clean(code: str, part: int) -> None:
    """In two parts, so that the largest typefaces can be looked over on several processors.

    `KIZAMI_EVERY_GLYPH=1 ./check -k every_glyph` adds what the ten largest hold besides.
    """
    typeface = shipped_typeface(code)
    sagitta = typeface.cap_height_upem / CHORDS_PER_CAP
    glyphs = glyphs_of(typeface)[part::2]
    assert glyphs
    faulty = {}
    for glyph in glyphs:
        seen = cleanness(typeface.outline(glyph, sagitta_upem=sagitta).polygons, tolerance=sagitta * 0.1)
        if not seen.is_clean:
            faulty[glyph] = seen
    assert faulty == {}


@settings(max_examples=40, deadline=None)
@given(
    st.sampled_from(shipped_typeface_codes()),
    st.text(
        st.characters(min_codepoint=0x20, max_codepoint=0x24F, exclude_categories=["C"]),
        min_size=1,
        max_size=10,
    ),
)
def test_any_wording_is_clean_when_it_is_drawn(code: str, text: str) -> None:
    for shape in draw(set_line(text, shipped_typeface(code)), sagitta=1e-3):
        assert cleanness(shape, tolerance=1e-4).is_clean


@pytest.mark.parametrize("code", ["noto-sans-bold", "pacifico", "cinzel-bold", "roboto-slab-bold"])
def test_no_outline_has_more_than_twice_the_points_that_its_curves_ask_for(code: str) -> None:
    """A curve of total turning t and length L asks for about sqrt(t L / 8 s) chords of sagitta s.

    For a curve of curvature k a chord c leaves it by k c^2 / 8, so n = integral sqrt(k / 8 s) dl, which
    is at most sqrt(t L / 8 s) (Cauchy and Schwarz) and reaches it on a circle.
    """
    typeface = shipped_typeface(code)
    sagitta = typeface.cap_height_upem / CHORDS_PER_CAP
    for letter in "OSGaegs38":
        shape = typeface.outline(typeface.shape(letter)[0].glyph, sagitta_upem=sagitta).polygons
        for ring in itertools.chain.from_iterable((b.exterior, *b.interiors) for b in shape.geoms):
            points = np.asarray(ring.coords)[:-1]
            steps = np.roll(points, -1, axis=0) - points
            turned = np.abs(np.angle(np.exp(1j * np.diff(np.unwrap(np.arctan2(steps[:, 1], steps[:, 0]))))))
            asked = np.sqrt(turned.sum() * ring.length / (8 * sagitta))
            assert len(points) <= 2.0 * asked + 12


PLATE = shapely.box(0, 0, 40, 30)


def turned_by(shape: shapely.Geometry, angle_deg: float) -> shapely.MultiPolygon:
    """A shape turned about a point beside its corner."""
    about = Apex(u_mm=3.0, v_mm=4.0, turn_rad=0.0)
    return bodies_of(shapely.transform(shape, lambda xy: about.turned(xy, np.radians(angle_deg))))


SLITS = {
    "through the middle of a long side": PLATE.difference(shapely.box(19.95, 10, 20.05, 31)),
    "blunt and tapering": PLATE.difference(
        shapely.Polygon([(20, 12), (20.02, 12), (20.09, 31), (19.93, 31)])
    ),
    "pointed": PLATE.difference(shapely.Polygon([(20, 12), (20.05, 31), (19.95, 31)])),
    "with a rounded root": PLATE.difference(
        shapely.LineString([(20, 12), (20, 31)]).buffer(0.05, quad_segs=8)
    ),
    "between a hole and the edge": PLATE.difference(shapely.box(5, 0.08, 35, 20)),
    "between two holes": PLATE.difference(shapely.box(5, 5, 19.96, 20)).difference(shapely.box(20.04, 5, 35, 20)),
    "between two bodies": shapely.MultiPolygon([shapely.box(0, 0, 19.96, 30), shapely.box(20.04, 0, 40, 30)]),
    "a hair on a long side": PLATE.union(shapely.box(19.96, 30, 20.04, 36)),
    "a pointed hair": PLATE.union(shapely.Polygon([(19.95, 30), (20.05, 30), (20, 37)])),
    "beside a corner": PLATE.difference(shapely.box(0.08, 5, 0.9, 31)),
}  # fmt: skip


@pytest.mark.parametrize("angle", [0, 17, 90, 233])
@pytest.mark.parametrize("shape", SLITS.values(), ids=SLITS)
def test_no_slit_or_hair_is_passed_over(shape: shapely.Geometry, angle: float) -> None:
    """Narrower than 0.2 in a plate of 40: nothing so narrow is left, whichever way it lies."""
    turned = turned_by(shape, angle)
    mended = mend_slits(turned, width=0.2)
    assert mended is not turned
    closed = mended.buffer(0.08, join_style="mitre", mitre_limit=20).buffer(
        -0.08, join_style="mitre", mitre_limit=20
    )
    opened = mended.buffer(-0.08, join_style="mitre", mitre_limit=20).buffer(
        0.08, join_style="mitre", mitre_limit=20
    )
    assert max((p.area for p in shapely.get_parts(closed.difference(mended))), default=0.0) < 0.02
    assert max((p.area for p in shapely.get_parts(mended.difference(opened))), default=0.0) < 0.05


@pytest.mark.parametrize("angle", [0, 17, 90, 233])
def test_what_has_no_slit_comes_back_untouched(angle: float) -> None:
    """Wide gaps, sharp but not hair-thin corners and small rounds are left alone."""
    whole = PLATE.difference(shapely.box(10, 10, 30, 20)).union(
        shapely.Polygon([(40, 10), (46, 13), (40, 16)])
    )
    notched = bodies_of(whole.difference(shapely.Point(0, 15).buffer(0.5, quad_segs=6)))
    turned = turned_by(notched, angle)
    assert mend_slits(turned, width=0.2) is turned

"""Typefaces: measured heights, missing characters, refusal of what is none."""

from __future__ import annotations

import pytest
import shapely

from kizami.errors import TypefaceError
from kizami.lettering.block import draw, set_line
from kizami.lettering.shipped import shipped_typeface, shipped_typeface_codes
from kizami.lettering.typeface import Style, Typeface, join_shapes, missing_characters

CODES = shipped_typeface_codes()


@pytest.mark.parametrize(
    ("code", "height"),
    [("noto-sans-bold", 714), ("vollkorn-bold", 679), ("roboto-slab-bold", 1456), ("cinzel-bold", 700)],
)
def test_the_cap_height_is_measured_on_the_h(code: str, height: float) -> None:
    assert shipped_typeface(code).cap_height_upem == pytest.approx(height, abs=0.5)


@pytest.mark.parametrize(
    ("text", "missing"),
    [("Ana", ()), ("A🙂b", (1,)), ("🙂🙂", (0, 1)), ("", ()), (" ", ()), ("Żółć", ()), ("名前", (0, 1))],
)
def test_missing_characters_are_named_by_their_place(text: str, missing: tuple[int, ...]) -> None:
    assert missing_characters(shipped_typeface("noto-sans-bold").shape(text)) == missing


def test_tracking_moves_letters_apart_by_just_that() -> None:
    face = shipped_typeface("noto-sans-bold")
    plain, tracked = face.shape("Anna"), face.shape("Anna", Style(tracking=50 / face.cap_height_upem))
    assert [t.x - p.x for p, t in zip(plain, tracked, strict=True)] == pytest.approx([0, 50, 100, 150])


def test_a_finer_tolerance_is_nearer_to_the_curve() -> None:
    face = shipped_typeface("noto-sans-bold")
    (o,) = face.shape("O")
    coarse, fine = (face.outline(o.glyph, sagitta_upem=s).polygons for s in (16.0, 0.25))
    assert shapely.hausdorff_distance(coarse.boundary, fine.boundary) <= 16.0
    assert len(coarse.geoms[0].exterior.coords) < len(fine.geoms[0].exterior.coords)


@pytest.mark.parametrize("code", ["great-vibes", "pacifico", "noto-sans-bold"])
def test_letters_drawn_as_one_run_the_right_way_round(code: str) -> None:
    """A joined hand overlaps: united outlines are anticlockwise as single ones are, closed middles clockwise."""
    shapes = [s for s in draw(set_line("Rosalind", shipped_typeface(code)), sagitta=1e-3) if not s.is_empty]
    joined = join_shapes(shapes)
    assert all(body.exterior.is_ccw for body in joined.geoms)
    assert not any(ring.is_ccw for body in joined.geoms for ring in body.interiors)


@pytest.mark.parametrize("data", [b"", b"not a typeface", b"\x00\x01\x00\x00" + b"\xff" * 60])
def test_what_is_no_typeface_is_refused(data: bytes) -> None:
    with pytest.raises(TypefaceError, match="Odd"):
        Typeface(data, name="Odd")


def test_an_unknown_code_lists_the_known_ones() -> None:
    with pytest.raises(TypefaceError, match="noto-sans-bold"):
        shipped_typeface("comic")

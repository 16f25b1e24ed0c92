"""How the parts of a wording stand to each other: monograms, lines, a logo beside or above the words."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from kizami.artwork.artwork import artwork_of
from kizami.lettering.arrangement import Arrangement, LogoPlace, MonogramForm, arrange
from kizami.lettering.block import Block, beside, draw, scaled, set_line, shifted, stack
from kizami.lettering.shipped import shipped_typeface
from kizami.lettering.typeface import Style

FACE = shipped_typeface("cinzel-bold")
DISC = artwork_of(shapely.Point(5, 5).buffer(5, quad_segs=32), name="disc.svg")


def arranged(text: str, arrangement: Arrangement, **parts) -> Block:  # type: ignore[no-untyped-def]
    lines, start = [], 0
    for line in text.split("\n"):
        lines.append((start, line))
        start += len(line) + 1
    return arrange(lines, FACE, arrangement, text=text, tracking=0.0, leading=1.5, **parts)


def boxes(block: Block) -> list[tuple[float, float, float, float]]:
    return [s.bounds for s in draw(block, sagitta=1e-3) if not s.is_empty]


def height(box: tuple[float, float, float, float]) -> float:
    return box[3] - box[1]


def test_in_line_the_letters_are_alike() -> None:
    found = boxes(arranged("HIH", Arrangement()))
    assert [height(b) for b in found] == pytest.approx([1.0] * 3, abs=0.01)


def test_the_family_letter_in_the_middle_is_larger_and_the_others_are_centred_beside_it() -> None:
    """The traditional order first, family, middle, with the family letter largest."""
    left, middle, right = boxes(arranged("HIH", Arrangement(monogram=MonogramForm.MIDDLE_LARGER)))
    assert height(middle) == pytest.approx(1.0, abs=0.01)
    assert height(left) == height(right) == pytest.approx(0.68, abs=0.01)
    for side in (left, right):
        assert (side[1] + side[3]) / 2 == pytest.approx((middle[1] + middle[3]) / 2, abs=0.01)
    assert left[2] < middle[0] and middle[2] < right[0]
    assert middle[0] - left[2] == pytest.approx(right[0] - middle[2], abs=0.01)


def test_stacked_two_small_letters_stand_over_each_other_beside_the_large_one() -> None:
    upper, lower, large = sorted(
        boxes(arranged("HIH", Arrangement(monogram=MonogramForm.STACKED))), key=lambda b: (b[0] > 0.6, -b[1])
    )
    assert upper[1] > lower[3]
    assert upper[3] == pytest.approx(large[3], abs=0.01) and lower[1] == pytest.approx(large[1], abs=0.01)
    assert max(upper[2], lower[2]) < large[0]


@pytest.mark.parametrize("form", [MonogramForm.MIDDLE_LARGER, MonogramForm.STACKED])
@pytest.mark.parametrize("text", ["AB", "ABCD", "A"])
def test_other_than_three_letters_stay_in_line(text: str, form: MonogramForm) -> None:
    assert len({round(height(b), 1) for b in boxes(arranged(text, Arrangement(monogram=form)))}) == 1


@pytest.mark.parametrize("text", ["WIM", "AVA", "MMM", "ILI"])
def test_wide_letters_never_touch_each_other(text: str) -> None:
    for form in (MonogramForm.MIDDLE_LARGER, MonogramForm.STACKED):
        shapes = draw(arranged(text, Arrangement(monogram=form)), sagitta=1e-3)
        assert min(shapes[i].distance(shapes[j]) for i in range(3) for j in range(i)) > 0.01


def test_lines_stand_under_each_other_centred_by_their_ink() -> None:
    block = arranged("HIH\nI", Arrangement())
    upper = shapely.total_bounds(np.array(draw(block, sagitta=1e-3)[:3], dtype=object))
    lower = draw(block, sagitta=1e-3)[3].bounds
    assert (upper[0] + upper[2]) / 2 == pytest.approx((lower[0] + lower[2]) / 2, abs=1e-6)
    assert upper[1] - lower[1] == pytest.approx(1.5, abs=0.01)


@pytest.mark.parametrize("place", list(LogoPlace))
def test_a_logo_stands_where_the_product_says(place: LogoPlace) -> None:
    block = arranged("HI", Arrangement(logo=place), artwork=DISC)
    logo = next(s for m, s in zip(block.marks, draw(block, sagitta=1e-3), strict=True) if m.source is DISC)
    words = [s for m, s in zip(block.marks, draw(block, sagitta=1e-3), strict=True) if m.source is not DISC]
    if place is LogoPlace.ALONE:
        assert not words and height(logo.bounds) == pytest.approx(1.0)
        return
    low_x, low_y, _, high_y = shapely.total_bounds(np.array(words, dtype=object))
    if place is LogoPlace.BEFORE:
        assert logo.bounds[2] < low_x
        assert (logo.bounds[1] + logo.bounds[3]) / 2 == pytest.approx((low_y + high_y) / 2, abs=0.01)
    else:
        assert logo.bounds[1] > high_y


def test_without_words_a_logo_stands_alone_and_without_a_logo_the_words() -> None:
    assert len(arranged("", Arrangement(logo=LogoPlace.BEFORE), artwork=DISC).marks) == 1
    assert len(arranged("HI", Arrangement(logo=LogoPlace.BEFORE)).marks) == 2


@pytest.mark.parametrize("gap", [0.1, 0.5])
def test_the_gap_between_blocks_is_between_their_outlines(gap: float) -> None:
    parts = [set_line(letter, FACE) for letter in ("L", "T", "A")]
    shapes = draw(beside(parts, gap=gap, text="LTA"), sagitta=1e-3)
    assert shapes[0].distance(shapes[1]) == pytest.approx(gap, abs=1e-3)
    assert shapes[1].distance(shapes[2]) == pytest.approx(gap, abs=1e-3)


def test_blocks_are_moved_scaled_and_mirrored() -> None:
    block = set_line("L", FACE)
    (low_x, low_y, high_x, high_y) = boxes(block)[0]
    assert boxes(shifted(block, 2, 1))[0] == pytest.approx((low_x + 2, low_y + 1, high_x + 2, high_y + 1))
    assert boxes(scaled(block, 2, 1))[0] == pytest.approx((2 * low_x, low_y, 2 * high_x, high_y))
    mirrored = draw(scaled(block, -1, 1), sagitta=1e-3)[0]
    assert mirrored.bounds == pytest.approx((-high_x, low_y, -low_x, high_y))
    assert all(b.exterior.is_ccw for b in mirrored.geoms)
    assert stack([], leading=1.5, text="").marks == ()


def test_small_capitals_are_smaller_capitals_where_the_typeface_has_them() -> None:
    """OpenType feature smcp: small capitals stand for small letters."""
    face = shipped_typeface("noto-sans")
    small, capital, plain = (
        draw(set_line(text, face, Style(features=features)), sagitta=1e-3)[0]
        for text, features in (("h", (("smcp", 1),)), ("H", ()), ("h", ()))
    )
    assert height(small.bounds) < 0.9 * height(capital.bounds)
    ratio = (small.bounds[2] - small.bounds[0]) / height(small.bounds)
    assert ratio == pytest.approx((capital.bounds[2] - capital.bounds[0]) / height(capital.bounds), rel=0.15)
    assert small.symmetric_difference(plain).area > 0.05

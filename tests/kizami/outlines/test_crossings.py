"""Where straight lines cross letters, against overlays of another library."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from kizami.lettering.shipped import shipped_typeface
from kizami.outlines.crossings import crossings


@pytest.mark.parametrize("code", ["vollkorn-bold", "great-vibes", "noto-sans-bold"])
@pytest.mark.parametrize("axis", [0, 1], ids=["upright", "level"])
def test_lines_cross_letters_where_an_overlay_says_so(code: str, axis: int) -> None:
    typeface = shipped_typeface(code)
    for glyph in typeface.shape("Rågß&"):
        letter = typeface.outline(glyph.glyph, sagitta_upem=1.0).polygons
        low_x, low_y, high_x, high_y = letter.bounds
        low, high = ((low_x, high_x), (low_y, high_y))[axis]
        levels = np.linspace(low - 10.0, high + 10.0, 37) + 0.123
        which, along = crossings(letter.boundary, levels, axis=axis)
        for number, level in enumerate(levels.tolist()):
            ends = [(level, low_y - 9.0), (level, high_y + 9.0)]
            if axis:
                ends = [(low_x - 9.0, level), (high_x + 9.0, level)]
            inside = shapely.get_parts(shapely.LineString(ends).intersection(letter))
            expected = sorted(xy[1 - axis] for part in inside for xy in part.coords)
            assert sorted(along[which == number].tolist()) == pytest.approx(expected, abs=1e-6)


def test_a_corner_that_only_touches_is_no_crossing_and_one_that_is_passed_is_one() -> None:
    roof = shapely.Polygon([(0, 0), (4, 0), (4, 2), (2, 3), (0, 2)])
    which, along = crossings(roof.exterior, np.array([3.0, 2.0]), axis=1)
    assert which.tolist() == [1, 1] and sorted(along.tolist()) == [0.0, 4.0]

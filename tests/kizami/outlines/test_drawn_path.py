"""Lines that lettering stands on, as people draw them: loose, backwards, with notes beside them."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kizami.artwork.outline_files import read_path
from kizami.errors import OutlineError
from kizami.outlines.drawn_path import drawn_path

TURN = np.linspace(0.0, math.pi, 200)
HALF_RING = 20.0 * np.column_stack((-np.cos(TURN), np.sin(TURN)))


def test_a_half_ring_is_as_long_as_geometry_says_with_few_points() -> None:
    turn = np.linspace(0.0, math.pi, 4000)
    path = drawn_path([20.0 * np.column_stack((-np.cos(turn), np.sin(turn)))])
    assert path.length == pytest.approx(20.0 * math.pi, rel=1e-3)
    assert len(path.points) < 200 and path.notes == ()
    # No point leaves the ring by more than what its chords do.
    assert np.abs(np.hypot(*path.points.T) - 20.0).max() < 0.01


@settings(max_examples=40, deadline=None)
@given(
    parts=st.lists(st.integers(1, 198), min_size=0, max_size=6, unique=True),
    flips=st.integers(0, 127),
    order=st.randoms(use_true_random=False),
)
def test_however_it_is_parted_turned_and_mixed_it_is_the_same_line(parts, flips, order) -> None:
    cuts = [0, *sorted(parts), 199]
    pieces = [HALF_RING[a : b + 1] for a, b in itertools.pairwise(cuts)]
    pieces = [piece[::-1] if flips >> n & 1 else piece for n, piece in enumerate(pieces)]
    order.shuffle(pieces)
    path = drawn_path(pieces)
    assert path.points[0] == pytest.approx(HALF_RING[0]) and path.points[-1] == pytest.approx(HALF_RING[-1])
    assert path.length == pytest.approx(20.0 * math.pi, rel=1e-3)


def test_what_runs_to_the_left_is_read_to_the_right_and_said() -> None:
    path = drawn_path([HALF_RING[::-1]])
    assert path.points[0, 0] < path.points[-1, 0]
    assert path.notes == ("drawn from right to left, read from left to right",)


def test_a_short_line_and_a_frame_beside_it_are_left_out_and_said() -> None:
    tick = np.array([(0.0, 30.0), (0.0, 32.0)])
    frame = np.array([(-30.0, -5.0), (30.0, -5.0), (30.0, 40.0), (-30.0, 40.0), (-30.0, -5.0)])
    path = drawn_path([tick, HALF_RING, frame])
    assert path.length == pytest.approx(20.0 * math.pi, rel=1e-3)
    assert path.notes == ("2 other lines left out",)


@pytest.mark.parametrize(
    ("lines", "said", "at"),
    [
        pytest.param([], "Nothing is drawn", None, id="nothing"),
        pytest.param([np.array([(0, 0), (9, 0), (9, 9), (0, 0)])], "closes on itself", None, id="closed"),
        pytest.param(
            [np.array([(0, 0), (10, 0)]), np.array([(12, 0), (22, 1)])],
            "do not meet",
            (12.0, 0.0),
            id="a gap",
        ),
        pytest.param(
            [np.array([(0, 0), (10, 10), (10, 0), (0, 8)])],
            "crosses itself",
            (40 / 9, 40 / 9),
            id="a crossing",
        ),
        pytest.param([np.array([(0, 0), (np.nan, 1)])], "nowhere", None, id="no number"),
    ],
)
def test_what_is_no_line_is_refused_with_its_place(lines, said: str, at) -> None:
    with pytest.raises(OutlineError, match=said) as caught:
        drawn_path([np.asarray(line, dtype=float) for line in lines])
    assert (caught.value.at is None) == (at is None)
    if at is not None:
        assert caught.value.at == pytest.approx(at, abs=1e-6)


def test_a_line_of_an_svg_is_in_mm_and_stands_upright() -> None:
    # 96 pixels are an inch (CSS); y runs down there, so that this line climbs.
    data = b'<svg xmlns="http://www.w3.org/2000/svg"><path d="M0 96 L96 0"/></svg>'
    read = read_path(data, name="climbs.svg")
    assert read.path.points == pytest.approx(np.array([(0.0, -25.4), (25.4, 0.0)]), abs=1e-9)

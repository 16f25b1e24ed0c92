"""Drawn outlines: loose lines joined and closed, openings told apart, what can't be told with its place."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from kizami.errors import OutlineError
from kizami.outlines.drawn import drawn_outline

BOX = np.array([(0, 0), (40, 0), (40, 20), (0, 20)], dtype=float)


def closed(points: np.ndarray) -> np.ndarray:
    return np.vstack((points, points[:1]))


def circle(x: float, y: float, radius: float, steps: int = 96) -> np.ndarray:
    turn = np.linspace(0.0, 2.0 * math.pi, steps + 1)
    return np.column_stack((x + radius * np.cos(turn), y + radius * np.sin(turn)))


def area(points: np.ndarray) -> float:
    return float(shapely.Polygon(points).area)


def test_an_edge_its_openings_and_what_lies_beside_are_told_apart() -> None:
    found = drawn_outline(
        [closed(BOX), circle(10, 10, 3), circle(30, 10, 2), circle(30, 10, 1), circle(80, 10, 4)]
    )
    assert found.size == (40.0, 20.0)
    # Drawn with 96 chords, which fall short of a circle by less than a thousandth.
    assert [area(one) for one in found.openings] == pytest.approx([math.pi * 9, math.pi * 4], rel=3e-3)
    assert found.notes == (
        "1 shape beside the largest left out",
        "1 shape within openings left out: nothing would hold them",
    )


def test_a_shape_that_is_drawn_twice_is_taken_once() -> None:
    found = drawn_outline([closed(BOX), closed(BOX)[::-1], closed(np.roll(BOX, 2, axis=0))])
    assert found.openings == () and found.notes == ("2 shapes drawn twice, taken once",)


@settings(deadline=None, max_examples=150)
@given(
    st.integers(3, 40),
    st.randoms(use_true_random=False),
    st.floats(1.0, 1000.0),
)
def test_any_ring_in_loose_pieces_comes_out_whole(count: int, random, size: float) -> None:  # type: ignore[no-untyped-def]
    """Pieces in any order and direction, their ends off by less than a hair."""
    turn = np.sort(np.array([random.random() for _ in range(count)])) * 2.0 * math.pi
    if np.min(np.diff(np.append(turn, turn[0] + 2 * math.pi))) < 0.05:
        return
    ring = size * np.column_stack((np.cos(turn), np.sin(turn)))
    if area(ring) < 0.05 * size * size:
        return
    hair = 2e-4 * size
    pieces = []
    for start, end in zip(ring, np.roll(ring, -1, axis=0), strict=True):
        off = np.array([[random.uniform(-hair, hair) for _ in range(2)] for _ in range(2)])
        piece = np.array([start, end]) + off
        pieces.append(piece[::-1] if random.random() < 0.5 else piece)
    random.shuffle(pieces)
    found = drawn_outline(pieces)
    assert area(found.edge) == pytest.approx(area(ring), rel=0.02)
    assert shapely.Polygon(found.edge).is_valid and not found.openings


@pytest.mark.parametrize(
    ("lines", "says", "at"),
    [
        ([], "Nothing is drawn", None),
        ([np.array([[5.0, 5.0], [5.0, 5.0]])], "Nothing is drawn", None),
        ([closed(BOX)[:4]], "is open: it ends at 0.00, 20.00", (0.0, 20.0)),
        ([closed(BOX[[0, 2, 1, 3]])], "crosses itself at 20.00, 10.00", (20.0, 10.0)),
        ([closed(BOX), circle(0, 10, 3)], "crosses the outline", None),
        ([closed(BOX), circle(10, 10, 3), circle(12, 10, 3)], "Two openings cross", None),
        ([np.array([[0.0, 0.0], [math.nan, 1.0], [1.0, 1.0]])], "nowhere", None),
        ([closed(BOX) + np.array([n * 1e-3, 0.0]) for n in range(5001)], "5,001 lines", None),
    ],
    ids=["nothing", "one point", "open", "crossing", "opening over the edge", "two that cross", "nan", "too many"],
)  # fmt: skip
def test_what_is_no_outline_is_said_with_its_place(
    lines: list[np.ndarray], says: str, at: tuple[float, float] | None
) -> None:
    with pytest.raises(OutlineError, match=says) as refused:
        drawn_outline(lines)
    if at is not None:
        assert refused.value.at == pytest.approx(at)


def test_lines_that_close_nothing_are_left_out_and_told() -> None:
    found = drawn_outline([closed(BOX), np.array([[5.0, 5.0], [12.0, 5.0]])])
    assert found.notes == ("1 line that closes nothing left out",)

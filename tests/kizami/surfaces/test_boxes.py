"""Boxes that points lie in, against comparing every point with every box."""

from __future__ import annotations

import numpy as np
import pytest

from kizami.surfaces.boxes import Boxes


@pytest.mark.parametrize("wide", [0.01, 1.0, 60.0], ids=["small", "middling", "as large as all"])
@pytest.mark.parametrize("thin", [1.0, 0.001], ids=["square", "thin"])
def test_all_pairs_are_found_and_no_other(wide: float, thin: float) -> None:
    rng = np.random.default_rng(7)
    low = rng.uniform(-20, 20, (300, 2))
    high = low + rng.uniform(0, wide, (300, 2)) * (1.0, thin)
    points = np.vstack((rng.uniform(-25, 25, (500, 2)), low[:20], high[:20]))
    point, box = Boxes.of(low, high).around(points)
    inside = np.all((points[:, None] >= low) & (points[:, None] <= high), axis=2)
    assert sorted(zip(point.tolist(), box.tolist(), strict=True)) == list(zip(*(n.tolist() for n in np.nonzero(inside)), strict=True))  # fmt: skip


def test_no_point_and_one_box() -> None:
    boxes = Boxes.of(np.zeros((1, 2)), np.ones((1, 2)))
    assert [len(found) for found in boxes.around(np.empty((0, 2)))] == [0, 0]
    assert boxes.around(np.array([[0.5, 0.5]]))[1].tolist() == [0]

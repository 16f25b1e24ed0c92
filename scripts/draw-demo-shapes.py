#!/usr/bin/env python3
"""Draw the supplied shapes of the demo shop: made up from formulas, so that they are nobody's design.

PYTHONPATH=src .venv/bin/python scripts/draw-demo-shapes.py demo/shapes
"""

from __future__ import annotations

import sys
from pathlib import Path

import manifold3d as m3
import numpy as np

from kizami.formats.three_mf import three_mf_bytes
from kizami.solids.solid import solid_of


def pebble() -> m3.Manifold:
    """A flat beach pebble, thicker at one end, with a hole drilled near the other."""

    def worn(points: np.ndarray) -> np.ndarray:
        x, y, z = points.T
        wide = 1.0 - 0.16 * x + 0.05 * np.sin(2.2 * y + 0.6)
        return np.column_stack(
            (22.0 * x + 1.2 * y * y, 15.5 * y * wide, 5.6 * z * (1.0 + 0.14 * x) + 0.5 * x * x)
        )

    stone = m3.Manifold.sphere(1.0, 128).warp_batch(worn)
    drill = m3.Manifold.cylinder(40.0, 2.2, circular_segments=64).translate((-16.0, 0.0, -20.0))
    return stone - drill


def main(folder: Path) -> None:
    """Write every shape."""
    folder.mkdir(parents=True, exist_ok=True)
    (folder / "pebble.3mf").write_bytes(three_mf_bytes(solid_of(pebble()), title="Pebble"))


if __name__ == "__main__":
    main(Path(sys.argv[1]))

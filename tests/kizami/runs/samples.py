"""Bodies, files and laid pieces for the tests of runs, without the making of pieces."""

from __future__ import annotations

from collections.abc import Callable

import manifold3d as m3
import numpy as np
import shapely

from kizami.formats.stl import stl_bytes
from kizami.formats.three_mf import three_mf_bytes
from kizami.formats.toolpaths import flat_work_svg
from kizami.runs.body import Body, body_of
from kizami.runs.laid_piece import LaidPiece
from kizami.runs.laying import Place, Shape
from kizami.runs.poses import lay
from kizami.solids.flat_work import FlatWork
from kizami.solids.solid import Solid, solid_of


def solid(manifold: m3.Manifold) -> Solid:
    return solid_of(manifold)


def body(manifold: m3.Manifold, **changes: object) -> Body:
    return body_of(stl_bytes(solid(manifold), title="x"), **changes)  # type: ignore[arg-type]


def ring(bore: float = 17.0, wall: float = 2.0, width: float = 6.0) -> m3.Manifold:
    outside = m3.Manifold.cylinder(width, bore / 2 + wall, bore / 2 + wall, 96)
    return outside - m3.Manifold.cylinder(3 * width, bore / 2, bore / 2, 96).translate((0, 0, -width))


def wedge() -> m3.Manifold:
    """A body that is unlike its mirror image."""
    corner = m3.Manifold.cube((12, 8, 3)) + m3.Manifold.cube((3, 8, 7))
    return corner + m3.Manifold.cube((3, 2, 10)).translate((9, 6, 0))


def files_of(manifold: m3.Manifold) -> dict[str, bytes]:
    made = solid(manifold)
    colours = {"body": "#aabbcc", "lettering": "#112233"}
    return {"stl": stl_bytes(made, title="x"), "3mf": three_mf_bytes(made, title="x", **colours)}


def reader(files: dict[str, bytes]) -> Callable[[str], bytes]:
    return files.__getitem__


def laid(key: str, manifold: m3.Manifold, x: float, y: float, turn: float = 0.0) -> tuple[LaidPiece, Shape]:
    """A piece of its own, lying at a place."""
    files = files_of(manifold)
    lies = lay(body_of(files["stl"]))
    piece = LaidPiece(
        key=key,
        wording=f"words of {key}",
        shape_key=f"shape {key}",
        turn=lies.turn,
        shift=lies.shift,
        place=Place(key=key, x_mm=x, y_mm=y, turn_deg=turn),
        read=reader(files),
        facts={"volume_mm3": lies.volume_mm3, "weight_g": 1.5, "fingerprint": "f" * 64},
    )
    return piece, Shape(piece.shape_key, lies.outline, lies.height_mm)


def flat(width: float = 30.0, height: float = 20.0, hole: float = 6.0) -> FlatWork:
    """A plate with a hole, an engraved bar and a scored square."""
    plate = shapely.box(0, 0, width, height).difference(shapely.box(3, 3, 3 + hole, 3 + hole))
    return FlatWork(
        piece=shapely.MultiPolygon([plate]),
        engraved=shapely.MultiPolygon([shapely.box(12, 4, 26, 7)]),
        scored=shapely.MultiPolygon([shapely.box(12, 10, 16, 14)]),
        size_mm=(width, height),
    )


def flat_laid(key: str, x: float, y: float, turn: float = 0.0, **sizes: float) -> LaidPiece:
    drawing = flat_work_svg(flat(**sizes), title=key)
    return LaidPiece(
        key=key,
        wording=f"words of {key}",
        shape_key=f"flat {sorted(sizes.items())}",
        turn=np.eye(3),
        shift=np.zeros(3),
        place=Place(key=key, x_mm=x, y_mm=y, turn_deg=turn),
        read=reader({"cut.svg": drawing}),
        facts={"volume_mm3": 1.0, "weight_g": 1.0},
    )

"""Paths for a point that scores or drags and for a beam that cuts: SVG and DXF, in mm."""

from __future__ import annotations

import io
import re
from collections.abc import Mapping, Sequence
from xml.sax.saxutils import escape

import numpy as np
import shapely
from ezdxf import units
from ezdxf.filemanagement import new

from kizami.outlines.curves import FloatArray

__all__ = ["flat_work_dxf", "flat_work_svg", "toolpath_dxf", "toolpath_svg"]


def toolpath_svg(paths: Sequence[FloatArray], *, size_mm: tuple[float, float], title: str) -> bytes:
    """Paths as an SVG at true size; nothing is filled and no path is closed.

    Parameters
    ----------
    paths : each of shape (n, 2), mm, y up, from the lower left corner
    size_mm : width and height of the sheet
    """
    width, height = size_mm
    drawn = "".join(
        '<path d="M' + "L".join(f"{x:.4f} {height - y:.4f}" for x, y in path) + '"/>' for path in paths
    )
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.4f}mm" height="{height:.4f}mm" '
        f'viewBox="0 0 {width:.4f} {height:.4f}"><title>{escape(title)}</title>'
        f'<g fill="none" stroke="#000" stroke-width="0.05">{drawn}</g></svg>\n'
    ).encode()


def toolpath_dxf(paths: Sequence[FloatArray], *, layer: str = "SCORE") -> bytes:
    """Paths as open polylines of a DXF (R2000) in mm, on a layer of their own.

    The file holds no time and no chance identifiers, so that equal paths give equal bytes.
    """
    return _dxf({layer: [(path, False) for path in paths]})


def flat_work_svg(
    cuts: shapely.Geometry, marks: shapely.Geometry, *, height_mm: float, width_mm: float, title: str
) -> bytes:
    """A flat piece for cutting: what is cut and what is scored, each a group of closed paths at true size.

    Parameters
    ----------
    cuts, marks : polygons in mm, y up, from the lower left corner
    """
    groups = "".join(
        f'<g id="{name}" fill="none" stroke="{colour}" stroke-width="0.05">'
        f'<path d="{_rings_data(shape, height_mm)}"/></g>'
        for name, colour, shape in (("cut", "#c0341d", cuts), ("score", "#1c2621", marks))
    )
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width_mm:.4f}mm" height="{height_mm:.4f}mm" '
        f'viewBox="0 0 {width_mm:.4f} {height_mm:.4f}"><title>{escape(title)}</title>{groups}</svg>\n'
    ).encode()


def _rings_data(shape: shapely.Geometry, height_mm: float) -> str:
    return "".join(
        "M" + "L".join(f"{x:.4f} {height_mm - y:.4f}" for x, y in ring) + "Z" for ring, _ in _closed(shape)
    )


def flat_work_dxf(cuts: shapely.Geometry, marks: shapely.Geometry) -> bytes:
    """The same as closed polylines of a DXF (R2000) in mm, on the layers CUT and SCORE."""
    return _dxf({"CUT": _closed(cuts), "SCORE": _closed(marks)})


def _closed(shape: shapely.Geometry) -> list[tuple[FloatArray, bool]]:
    bodies = [part for part in shapely.get_parts(shape) if isinstance(part, shapely.Polygon)]
    return [(np.asarray(ring.coords)[:-1], True) for b in bodies for ring in (b.exterior, *b.interiors)]


def _dxf(layers: Mapping[str, Sequence[tuple[FloatArray, bool]]]) -> bytes:
    document = new("R2000", units=units.MM)
    space = document.modelspace()
    for layer, paths in layers.items():
        document.layers.add(layer)
        for path, is_closed in paths:
            points = [(float(x), float(y)) for x, y in path]
            space.add_lwpolyline(points, close=is_closed, dxfattribs={"layer": layer})
    out = io.StringIO()
    document.write(out)
    return _timeless(out.getvalue()).encode()


#: Header values that the library fills in with the clock and with chance.
_TIMES = ("$TDCREATE", "$TDUCREATE", "$TDUPDATE", "$TDUUPDATE", "$TDINDWG")
_GUIDS = ("$FINGERPRINTGUID", "$VERSIONGUID")


def _timeless(text: str) -> str:
    for name in _TIMES:
        text = re.sub(rf"({re.escape(name)}\n *40\n)[^\n]*", r"\g<1>2460000.0", text)
    for name in _GUIDS:
        text = re.sub(
            rf"({re.escape(name)}\n *2\n)[^\n]*", r"\g<1>{00000000-0000-0000-0000-000000000000}", text
        )
    # Comments of the library that name its version and the time.
    return re.sub(r"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d+\+00:00", "2026-01-01T00:00:00+00:00", text)

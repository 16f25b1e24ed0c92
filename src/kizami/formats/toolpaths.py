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
from kizami.solids.flat_work import FlatWork

__all__ = ["flat_work_dxf", "flat_work_svg", "timeless_dxf", "toolpath_dxf", "toolpath_svg"]


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


def flat_work_svg(work: FlatWork, *, title: str) -> bytes:
    """A flat piece for cutting: what is engraved, scored and cut, each a group of closed paths at true size.

    The groups stand in the order of work: what is cut out first would lie askew. Empty ones are left out.
    """
    width_mm, height_mm = work.size_mm
    groups = "".join(
        f'<g id="{name}" {style}><path d="{_rings_data(shape, height_mm)}"/></g>'
        for name, style, shape in (
            ("engrave", 'fill="#6b7a72" fill-rule="evenodd" stroke="none"', work.engraved),
            ("score", 'fill="none" stroke="#1c2621" stroke-width="0.05"', work.scored),
            ("cut", 'fill="none" stroke="#c0341d" stroke-width="0.05"', work.piece),
        )
        if not shape.is_empty
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


def flat_work_dxf(work: FlatWork) -> bytes:
    """The same as closed polylines of a DXF (R2000) in mm, on the layers ENGRAVE, SCORE and CUT."""
    layers = {"ENGRAVE": work.engraved, "SCORE": work.scored, "CUT": work.piece}
    return _dxf({name: _closed(shape) for name, shape in layers.items() if not shape.is_empty})


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
    return timeless_dxf(out.getvalue()).encode()


#: Header values that the library fills in with the clock and with chance.
_TIMES = ("$TDCREATE", "$TDUCREATE", "$TDUPDATE", "$TDUUPDATE", "$TDINDWG")
_GUIDS = ("$FINGERPRINTGUID", "$VERSIONGUID")


def timeless_dxf(text: str) -> str:
    """A DXF without the times and chance marks that the library writes."""
    for name in _TIMES:
        text = re.sub(rf"({re.escape(name)}\n *40\n)[^\n]*", r"\g<1>2460000.0", text)
    for name in _GUIDS:
        text = re.sub(
            rf"({re.escape(name)}\n *2\n)[^\n]*", r"\g<1>{00000000-0000-0000-0000-000000000000}", text
        )
    # Comments of the library that name its version and the time.
    return re.sub(r"\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d\.\d+\+00:00", "2026-01-01T00:00:00+00:00", text)

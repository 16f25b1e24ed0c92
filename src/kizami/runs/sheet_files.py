"""The files of a sheet: SVG with a named group and DXF with a layer for each operation, in the station's own
names and colours; and what the machine is to be set to."""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from xml.sax.saxutils import escape, quoteattr

import numpy as np
from ezdxf import units
from ezdxf.colors import RGB, aci2rgb
from ezdxf.filemanagement import new

from kizami.formats.toolpaths import timeless_dxf
from kizami.runs.machine import Work
from kizami.runs.sheet_work import Path, SheetWork

__all__ = ["SETTINGS_HEADER", "settings_rows", "sheet_dxf", "sheet_svg"]

SETTINGS_HEADER = ("order", "operation", "work", "power %", "speed mm/s", "passes", "focus mm",
                   "line spacing mm", "paths", "length mm", "area mm2", "minutes")  # fmt: skip


def sheet_svg(work: SheetWork, *, size_mm: tuple[float, float], title: str) -> bytes:
    """The sheet at true size in mm; each path bears its ticket code, groups stand in the order of work."""
    width, depth = size_mm
    groups = []
    for step in work.steps:
        operation = step.operation
        filled = operation.work is Work.ENGRAVE
        style = (
            f'fill="{operation.colour}" fill-rule="evenodd" stroke="none"'
            if filled
            else f'fill="none" stroke="{operation.colour}" stroke-width="0.05"'
        )
        # Areas of one piece are one path, so that what is left standing in them stays so.
        drawn = "".join(
            f'<path data-ticket={quoteattr(key)} d="{data}"/>'
            for key, data in (_by_ticket(step.paths, depth) if filled else _each(step.paths, depth))
        )
        groups.append(f"<g id={quoteattr(operation.name)} {style}>{drawn}</g>")
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}mm" height="{depth:g}mm" '
        f'viewBox="0 0 {width:g} {depth:g}"><title>{escape(title)}</title>{"".join(groups)}</svg>\n'
    ).encode()


def _data(path: Path, depth: float) -> str:
    points = "L".join(f"{x:.4f} {depth - y:.4f}" for x, y in path.points.tolist())
    return f"M{points}{'Z' if path.closed else ''}"


def _each(paths: Sequence[Path], depth: float) -> list[tuple[str, str]]:
    return [(path.key, _data(path, depth)) for path in paths]


def _by_ticket(paths: Sequence[Path], depth: float) -> list[tuple[str, str]]:
    found: dict[str, list[str]] = {}
    for path in paths:
        found.setdefault(path.key, []).append(_data(path, depth))
    return [(key, "".join(data)) for key, data in found.items()]


def sheet_dxf(work: SheetWork, *, size_mm: tuple[float, float]) -> bytes:
    """The same as polylines of a DXF in mm (R2010: older ones know no true colours); holds no time."""
    document = new("R2010", units=units.MM)
    space = document.modelspace()
    document.header["$EXTMAX"] = (*size_mm, 0.0)
    for step in work.steps:
        name = step.operation.name.upper().replace(" ", "_")
        if name not in document.layers:
            layer = document.layers.add(name)
            colour = RGB(*(int(step.operation.colour[i : i + 2], 16) for i in (1, 3, 5)))
            layer.rgb = colour
            # Older readers know 255 colours alone.
            layer.color = min(range(1, 256), key=lambda n: math.dist(aci2rgb(n), colour))
        for path in step.paths:
            points = np.round(path.points, 4).tolist()
            space.add_lwpolyline(points, close=path.closed, dxfattribs={"layer": name})
    out = io.StringIO()
    document.write(out)
    return timeless_dxf(out.getvalue()).encode()


def settings_rows(work: SheetWork) -> list[list[object]]:
    """What the machine is set to, an operation a row, in the order of work."""
    return [
        [
            number,
            step.operation.name,
            step.operation.work.value,
            step.operation.power_percent,
            step.operation.speed_mm_s,
            step.operation.passes,
            step.operation.focus_mm,
            step.operation.spacing_mm if step.area_mm2 else None,
            len(step.paths),
            round(sum(path.length_mm for path in step.paths), 1),
            round(step.area_mm2, 1) or None,
            round(step.seconds / 60.0, 2),
        ]
        for number, step in enumerate(work.steps, start=1)
    ]

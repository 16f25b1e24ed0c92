"""The files of a sheet read back: every path where it should be, on the waste side of its outline, in mm."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from xml.etree.ElementTree import ParseError

import numpy as np
import shapely
import svgelements as se
from defusedxml.ElementTree import fromstring, parse
from ezdxf.entities.lwpolyline import LWPolyline
from ezdxf.filemanagement import readfile
from ezdxf.lldxf.const import DXFError
from scipy.spatial import cKDTree

from kizami.prepared import prepared
from kizami.runs.laid_piece import LaidPiece
from kizami.runs.machine import Machine, Work
from kizami.runs.reading_back import Difference
from kizami.surfaces.protocol import FloatArray

__all__ = ["differences_dxf", "differences_sheet_svg"]

_SVG = "{http://www.w3.org/2000/svg}"
_OFF_MM = 0.02
_WORKS = {"cut": Work.CUT, "engrave": Work.ENGRAVE, "score": Work.SCORE}


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Line:
    """A path as the file has it, y up."""

    points: FloatArray
    closed: bool


def differences_sheet_svg(
    path: Path,
    pieces: Sequence[LaidPiece],
    machine: Machine,
    *,
    names: dict[Work, str],
    size_mm: tuple[float, float],
) -> list[Difference]:
    """Read a sheet's SVG and compare each piece's paths with the piece's own drawing.

    Parameters
    ----------
    names : what each kind of work is called on this sheet
    """
    try:
        root = parse(path).getroot()
    except ParseError as error:
        return [Difference(file=path.name, key="", message=f"it can't be read: {error}")]
    said: list[Difference] = []
    width, depth = size_mm
    if (root.get("width"), root.get("height"), root.get("viewBox")) != (
        f"{width:g}mm",
        f"{depth:g}mm",
        f"0 0 {width:g} {depth:g}",
    ):
        said.append(Difference(file=path.name, key="", message="it is not drawn in mm"))
    groups = {group.get("id"): group for group in root.iter(f"{_SVG}g")}
    found: dict[Work, dict[str, list[_Line]]] = {}
    for work, name in names.items():
        lines: dict[str, list[_Line]] = defaultdict(list)
        for element in () if name not in groups else groups[name].iter(f"{_SVG}path"):
            lines[element.get("data-ticket") or ""] += _lines(element.get("d") or "", depth)
        found[work] = lines
    for piece in pieces:
        for work, expected in _expected(piece).items():
            what = _differs(found.get(work, {}).pop(piece.key, []), expected, work, machine)
            if what:
                said.append(Difference(file=path.name, key=piece.key, message=what))
    said += [
        Difference(file=path.name, key=key, message="it does not belong to the run")
        for lines in found.values()
        for key in lines
    ]
    return said


def _differs(lines: Sequence[_Line], expected: shapely.Geometry, work: Work, machine: Machine) -> str:
    """What is wrong with one kind of work on one piece, or ""."""
    if expected.is_empty:
        return f"it is {work}d though nothing is to be" if lines else ""
    if not lines:
        return f"what is to be {work} is missing"
    points = shapely.points(np.vstack([line.points for line in lines]))
    if work is Work.CUT:
        inside = prepared(expected.buffer(-_OFF_MM))
        if machine.kerf_mm and shapely.contains(inside, points).any():
            return "its cut runs within the piece"
        off = np.abs(shapely.distance(points, expected.boundary) - machine.kerf_mm / 2.0).max()
        if off > _OFF_MM:
            return f"its cut lies {off:.3f} mm elsewhere"
        wanted = expected.buffer(machine.kerf_mm / 2.0).length
        length = sum(_length(line) for line in lines)
        tabs = sum(not line.closed for line in lines)
        if abs(wanted - tabs * (machine.tab_mm + machine.kerf_mm) - length) > 0.005 * wanted + 0.1:
            return f"{length:.1f} mm of it are cut instead of {wanted:.1f} mm"
        return ""
    rings = [shapely.LinearRing(line.points) for line in lines if line.closed]
    drawn = shapely.build_area(shapely.MultiLineString(rings))
    apart = float(drawn.symmetric_difference(expected).area)
    if apart > 1e-3 * float(expected.area) + 1e-3 * float(expected.length):
        return f"{apart:.2f} mm2 of what is to be {work} differ"
    return ""


def _length(line: _Line) -> float:
    points = np.vstack([line.points, line.points[:1]]) if line.closed else line.points
    return float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum())


def _expected(piece: LaidPiece) -> dict[Work, shapely.Geometry]:
    """From the piece's own drawing, put where it lies."""
    root = fromstring(piece.read("cut.svg"), forbid_dtd=True)
    height = float((root.get("height") or "0mm").removesuffix("mm"))
    turn, shift = piece.to_bed
    found: dict[Work, shapely.Geometry] = {work: shapely.Polygon() for work in _WORKS.values()}
    for group in root.iter(f"{_SVG}g"):
        path = group.find(f"{_SVG}path")
        if group.get("id") in _WORKS and path is not None:
            rings = [
                shapely.LinearRing(line.points @ turn[:2, :2].T + shift[:2])
                for line in _lines(path.get("d") or "", height)
            ]
            found[_WORKS[str(group.get("id"))]] = shapely.build_area(shapely.MultiLineString(rings))
    return found


def _lines(data: str, depth: float) -> list[_Line]:
    lines = []
    for part in se.Path(data).as_subpaths():
        segments = list(se.Path(part))
        closed = any(isinstance(segment, se.Close) for segment in segments)
        points = np.array(
            [(s.end.x, depth - s.end.y) for s in segments if not isinstance(s, se.Close)], dtype=np.float64
        )
        lines.append(_Line(points=points, closed=closed))
    return lines


def differences_dxf(
    path: Path, svg: Path, *, names: dict[Work, str], size_mm: tuple[float, float]
) -> list[Difference]:
    """Read a sheet's DXF, audit it, and compare its layers with the groups of the SVG that was measured."""
    said: list[Difference] = []

    def differs(message: str) -> None:
        said.append(Difference(file=path.name, key="", message=message))

    try:
        document = readfile(path)
    except (OSError, DXFError) as error:
        return [Difference(file=path.name, key="", message=f"it can't be read: {error}")]
    errors = document.audit().errors
    if errors:
        differs(f"its reader finds: {errors[0].message}")
    if document.header.get("$INSUNITS") != 4:
        differs("it is not in mm")
    root = parse(svg).getroot()
    groups = {group.get("id"): group for group in root.iter(f"{_SVG}g")}
    for name in names.values():
        layer = name.upper().replace(" ", "_")
        drawn = [
            line
            for element in (() if name not in groups else groups[name].iter(f"{_SVG}path"))
            for line in _lines(element.get("d") or "", size_mm[1])
        ]
        read = [
            _Line(points=np.array(p.get_points("xy"), dtype=np.float64), closed=bool(p.closed))
            for p in document.modelspace().query(f'LWPOLYLINE[layer=="{layer}"]')
            if isinstance(p, LWPolyline)
        ]
        if len(read) != len(drawn):
            differs(f"layer {layer} has {len(read)} paths instead of {len(drawn)}")
            continue
        if not read:
            continue
        there, asked = (np.vstack([line.points for line in lines]) for lines in (read, drawn))
        off = max(cKDTree(there).query(asked)[0].max(), cKDTree(asked).query(there)[0].max())
        if off > _OFF_MM or sum(line.closed for line in read) != sum(line.closed for line in drawn):
            differs(f"layer {layer} differs from the drawing by {off:.3f} mm")
    return said

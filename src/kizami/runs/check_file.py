"""Any STL, 3MF, SVG or DXF measured against a process: what is measured of our own files can be asked of
others."""

from __future__ import annotations

import io
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import chain

import numpy as np
import shapely
import svgelements as se
from ezdxf import path as dxf_path
from ezdxf.filemanagement import read
from ezdxf.lldxf.const import DXFError

from kizami.errors import RunError, SurfaceError
from kizami.formats.body_files import read_body
from kizami.outlines.curves import bodies_of
from kizami.outlines.narrow import measure_shape
from kizami.processes import Limits, Process
from kizami.solids.measured import Measured
from kizami.solids.thickness import thinnest_through
from kizami.surfaces.protocol import FloatArray

__all__ = ["LARGEST_FILE_BYTES", "Measure", "measure_file"]

LARGEST_FILE_BYTES = 64 * 1024 * 1024
_SAGITTA_MM = 0.01
#: Ends nearer than this are one, mm.
_MEETS_MM = 0.005
_MOST_POINTS = 400_000


@dataclass(frozen=True, kw_only=True, slots=True)
class Measure:
    """One measure of a file.

    Attributes
    ----------
    code : as the check of that name, see docs/checks.md
    holds : whether it is within its limit
    said : the measurement against the limit, in words
    """

    code: str
    holds: bool
    said: str


def measure_file(data: bytes, *, name: str, process: Process, unit: str = "mm") -> list[Measure]:
    """Measure a file against what a process can hold.

    Parameters
    ----------
    name : its file name, whose ending says the form
    unit : of an STL, which does not say its own

    Raises
    ------
    RunError : it is of another form, too large, or can't be read at all
    """
    if len(data) > LARGEST_FILE_BYTES:
        raise RunError(
            f"{name} has {len(data) / 1048576:.0f} MB; {LARGEST_FILE_BYTES // 1048576} MB are the most."
        )
    kind = name.rpartition(".")[2].lower()
    if kind in ("stl", "3mf"):
        return list(_body(data, name, process, "" if kind == "3mf" else unit))
    if kind == "svg":
        return list(_flat(*_svg(data, name), process))
    if kind == "dxf":
        return list(_flat(*_dxf(data, name), process))
    raise RunError(f"{name} is none of STL, 3MF, SVG and DXF.")


def _at_least(code: str, what: str, measured: float, limit: float) -> Measure:
    return Measure(
        code=code,
        holds=measured >= limit - 1e-9,
        said=f"{what} {measured:.2f} mm; at least {limit:.2f} mm can be made.",
    )


def _size(size_mm: Sequence[float], limits: Limits) -> Measure:
    # Whichever way it lies.
    largest = zip(sorted(size_mm)[::-1], sorted(limits.size_mm)[::-1], strict=False)
    fits = all(length <= most + 1e-9 for length, most in largest)
    shown, room = (" by ".join(f"{x:.1f}" for x in sizes) for sizes in (size_mm, limits.size_mm))
    return Measure(code="piece-size", holds=fits, said=f"It is {shown} mm; there is room for {room} mm.")


def _body(data: bytes, name: str, process: Process, unit: str) -> Iterator[Measure]:
    try:
        body = read_body(data, name=name, unit=unit)
    except SurfaceError as error:
        yield Measure(code="solid-body", holds=False, said=str(error))
        return
    solid = Measured(vertices=body.vertices.astype(np.float32), triangles=body.triangles.astype(np.uint32))
    limits = process.limits
    yield _size([float(x) for x in np.ptp(body.vertices, axis=0)], limits)
    for note in body.notes:
        yield Measure(code="solid-body", holds=False, said=note)
    yield Measure(
        code="slivers",
        holds=solid.faults == 0,
        said=f"{solid.faults} facets without area or open sides; none may be.",
    )
    outside = [shell for shell in solid.shells if shell.volume_mm3 > 0]
    hollow = len(solid.shells) - len(outside)
    volume = sum(shell.volume_mm3 for shell in solid.shells)
    yield Measure(
        code="cavities",
        holds=hollow <= limits.of("cavities"),
        said=f"{len(outside)} bodies of {volume:.1f} mm3 together, with {hollow} closed cavities.",
    )
    thin = thinnest_through(solid)
    if thin is not None:
        at = ", ".join(f"{x:.1f}" for x in thin.at_mm)
        measure = _at_least("wall-thickness", "Thinnest wall", thin.width_mm, limits.of("wall-thickness"))
        yield Measure(code=measure.code, holds=measure.holds, said=f"{measure.said} It is at {at} mm.")


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Line:
    points: FloatArray
    closed: bool


def _flat(lines: Sequence[_Line], unit: Measure, process: Process) -> Iterator[Measure]:
    yield unit
    limits = process.limits
    if not lines:
        yield Measure(code="fits-area", holds=False, said="There is nothing in it to cut.")
        return
    points = np.vstack([line.points for line in lines])
    yield _size([float(x) for x in np.ptp(points, axis=0)], limits)
    rings = [shapely.LinearRing(line.points) for line in lines if line.closed and len(line.points) > 2]
    crossed = sum(not ring.is_simple for ring in rings)
    yield Measure(
        code="loose-parts",
        holds=not crossed,
        said=f"{len(rings)} closed paths, {len(lines) - len(rings)} open ones; {crossed} cross themselves.",
    )
    shape = shapely.build_area(shapely.MultiLineString(rings)) if rings else shapely.Polygon()
    if shape.is_empty:
        return
    bodies = bodies_of(shape)
    reach = math.hypot(*(bodies.bounds[2 + k] - bodies.bounds[k] for k in (0, 1)))
    facts = measure_shape(bodies, cap_height=min(reach, 20.0))
    if facts.stroke is not None:
        yield _at_least("web-width", "Thinnest web", facts.stroke.width, limits.of("web-width"))
    if facts.gap is not None:
        yield _at_least("gap-width", "Narrowest gap", facts.gap.width, limits.of("gap-width"))


def _svg(data: bytes, name: str) -> tuple[list[_Line], Measure]:
    try:
        # A millimetre is a unit of its own here, so that lengths come out in it.
        drawing = se.SVG.parse(io.BytesIO(data), ppi=25.4, reify=True)
    except (ValueError, SyntaxError, AttributeError, TypeError) as error:
        raise RunError(f"{name} can't be read as SVG: {error}.") from error
    sizes = [str(drawing.values.get(side) or "") for side in ("width", "height")]
    absolute = all(size.endswith(("mm", "cm", "in", "pt")) for size in sizes)
    lines = []
    for element in drawing.elements(lambda e: isinstance(e, se.Shape)):
        for part in se.Path(element).as_subpaths():
            points = _followed(se.Path(part))
            if len(points) > 1:
                closed = bool(np.hypot(*(points[0] - points[-1])) < _MEETS_MM)
                lines.append(_Line(points=points[:-1] if closed else points, closed=closed))
        _bounded(lines, name)
    unit = Measure(
        code="unit-slip",
        holds=absolute,
        said=f"Its size is {sizes[0] or 'not given'} by {sizes[1] or 'not given'}"
        + ("." if absolute else ", so that every program takes it otherwise."),
    )
    return lines, unit


def _followed(part: se.Path) -> FloatArray:
    points: list[tuple[float, float]] = []
    for segment in part:
        if isinstance(segment, se.Move | se.Line | se.Close):
            if segment.end is not None:
                points.append((segment.end.x, segment.end.y))
            continue
        count = max(2, min(200, math.ceil(math.sqrt(segment.length(error=0.1) / _SAGITTA_MM))))
        found = [segment.point(k / count) for k in range(1, count + 1)]
        points += [(p.x, p.y) for p in found]
    return np.array(points, dtype=np.float64).reshape(-1, 2)


_DXF_UNITS = {1: "inches", 2: "feet", 4: "mm", 5: "cm", 6: "metres"}


def _dxf(data: bytes, name: str) -> tuple[list[_Line], Measure]:
    try:
        document = read(io.StringIO(data.decode("utf-8", "replace")))
    except (DXFError, ValueError, OSError) as error:
        raise RunError(f"{name} can't be read as DXF: {error}.") from error
    lines = []
    for entity in document.modelspace():
        try:
            found = dxf_path.make_path(entity)
        except TypeError:
            continue
        points = np.array([(p.x, p.y) for p in found.flattening(_SAGITTA_MM)]).reshape(-1, 2)
        if len(points) > 1 and np.isfinite(points).all():
            closed = bool(np.hypot(*(points[0] - points[-1])) < _MEETS_MM)
            lines.append(_Line(points=points[:-1] if closed else points, closed=closed))
        _bounded(lines, name)
    errors = document.audit().errors
    said = _DXF_UNITS.get(int(document.header.get("$INSUNITS", 0)), "no unit")
    message = f"Its unit is {said}." if said == "mm" else f"Its unit is {said}; mm are asked."
    if errors:
        message += f" Its reader finds: {errors[0].message}"
    return lines, Measure(code="unit-slip", holds=said == "mm" and not errors, said=message)


def _bounded(lines: Sequence[_Line], name: str) -> None:
    if sum(map(len, chain.from_iterable((line.points,) for line in lines[-1:]))) > _MOST_POINTS:
        raise RunError(f"{name} has a path of more than {_MOST_POINTS:,} points. Simplify it.")
    if len(lines) > _MOST_POINTS // 20:
        raise RunError(f"{name} has more than {_MOST_POINTS // 20:,} paths. Simplify it.")

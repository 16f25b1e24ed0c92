"""Files of drawn outlines, SVG and DXF: their lines in millimetres, as far as the file says its unit."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import PurePosixPath
from typing import Any, TypeVar

import numpy as np
import svgelements as se
from ezdxf import path as dxf_path
from ezdxf.disassemble import recursive_decompose
from ezdxf.filemanagement import read
from ezdxf.lldxf.const import DXFError

from kizami.artwork.svg_files import svg_paths
from kizami.errors import ArtworkError, OutlineError
from kizami.outlines.drawn import MOST_LINES, DrawnOutline, drawn_outline, thinned_lines
from kizami.outlines.drawn_path import DrawnPath, drawn_path
from kizami.surfaces.protocol import FloatArray

__all__ = [
    "LARGEST_OUTLINE_BYTES",
    "OUTLINE_SUFFIXES",
    "OutlineFile",
    "PathFile",
    "read_outline",
    "read_path",
]

_Drawn = TypeVar("_Drawn")

LARGEST_OUTLINE_BYTES = 4 * 1024 * 1024
OUTLINE_SUFFIXES = (".svg", ".dxf")
#: Curves are followed so many times between two of their ends, and then eased.
_STEPS = 48
#: $INSUNITS of DXF (from memory of the format's reference): mm a unit. None is taken for mm, and told.
_DXF_MM = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0, 13: 0.001, 14: 100.0}
_SVG_MM = 25.4 / 96.0
#: Curves of a DXF file are followed so closely, mm.
_SAGITTA_MM = 0.003


@dataclass(frozen=True, kw_only=True, slots=True)
class OutlineFile:
    """An outline from a file.

    Attributes
    ----------
    outline : in mm, y up
    notes : what was put right or taken for granted, its unit among it
    """

    outline: DrawnOutline
    notes: tuple[str, ...]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class PathFile:
    """A line that was read from a file.

    Attributes
    ----------
    path : in mm, y up
    notes : what was put right or taken for granted, its unit among it
    """

    path: DrawnPath
    notes: tuple[str, ...]


def read_outline(data: bytes, *, name: str) -> OutlineFile:
    """Read a drawn outline.

    Raises
    ------
    OutlineError : broken, unsafe, of another kind, or not an outline; says what is wrong and where
    """
    outline, notes = _understood(data, name, drawn_outline)
    if _is_svg(name):
        outline = DrawnOutline(
            edge=_upright(outline.edge)[::-1],
            openings=tuple(_upright(one)[::-1] for one in outline.openings),
            notes=outline.notes,
        )
    return OutlineFile(outline=outline, notes=(*notes, *outline.notes))


def read_path(data: bytes, *, name: str) -> PathFile:
    """Read a line that lettering stands on.

    Raises
    ------
    OutlineError : broken, unsafe, of another kind, or not one line; says what is wrong and where
    """
    path, notes = _understood(data, name, drawn_path)
    if _is_svg(name):
        path = DrawnPath(points=_upright(path.points), notes=path.notes)
    return PathFile(path=path, notes=(*notes, *path.notes))


def _is_svg(name: str) -> bool:
    return PurePosixPath(name).suffix.lower() == ".svg"


def _understood(
    data: bytes, name: str, understand: Callable[[Sequence[FloatArray]], _Drawn]
) -> tuple[_Drawn, tuple[str, ...]]:
    """What the lines of a file are, with what was taken for granted of them."""
    if PurePosixPath(name).suffix.lower() not in OUTLINE_SUFFIXES:
        raise OutlineError(f"“{name}” is none of {', '.join(OUTLINE_SUFFIXES)}.")
    if len(data) > LARGEST_OUTLINE_BYTES:
        raise OutlineError(
            f"“{name}” is larger than {LARGEST_OUTLINE_BYTES // 1024 // 1024} MB. Simplify it."
        )
    # y runs down in SVG: what is said of it is said in its own numbers, so it is turned over afterwards.
    is_svg = _is_svg(name)
    lines, notes = _svg_lines(data, name) if is_svg else _dxf_lines(data, name)
    try:
        return understand(lines), notes
    except OutlineError as error:
        error.lines = thinned_lines([_upright(line) for line in lines] if is_svg else lines)
        if is_svg and error.at is not None:
            error.at = (error.at[0], -error.at[1])
        raise


def _upright(points: FloatArray) -> FloatArray:
    """With y up instead of down."""
    return points * (1.0, -1.0)


def _svg_lines(data: bytes, name: str) -> tuple[list[FloatArray], tuple[str, ...]]:
    try:
        paths = svg_paths(data, name=name)
    except ArtworkError as error:
        raise OutlineError(str(error)) from error
    lines = [line for path in paths for line in _svg_runs(path)]
    return [line * _SVG_MM for line in lines], ()


def _svg_runs(path: se.Path) -> Iterator[FloatArray]:
    run: list[tuple[float, float]] = []
    for segment in path:
        if isinstance(segment, se.Move):
            if len(run) > 1:
                yield np.array(run)
            run = [(float(segment.end.x), float(segment.end.y))] if segment.end is not None else []
            continue
        if segment.end is None:
            continue
        steps = (1.0,) if isinstance(segment, se.Line | se.Close) else np.linspace(0.0, 1.0, _STEPS + 1)[1:]
        run.extend((float(at.x), float(at.y)) for at in (segment.point(float(t)) for t in steps))
    if len(run) > 1:
        yield np.array(run)


def _dxf_lines(data: bytes, name: str) -> tuple[list[FloatArray], tuple[str, ...]]:
    try:
        text = data.decode("utf-8")
    except UnicodeDecodeError:
        text = data.decode("cp1252", errors="replace")
    try:
        drawing = read(io.StringIO(text))
        scale = _DXF_MM.get(int(drawing.header.get("$INSUNITS", 0)))
        lines = list(_dxf_runs(drawing, _SAGITTA_MM / (scale or 1.0)))
    except OutlineError:
        raise
    # Its reader stumbles in many ways over a file that is none.
    except (
        DXFError,
        OSError,
        ValueError,
        TypeError,
        KeyError,
        IndexError,
        AttributeError,
        ZeroDivisionError,
    ) as error:
        raise OutlineError(f"“{name}” is not a whole DXF file.") from error
    notes = () if scale else ("the file says no unit and was taken for millimetres",)
    return [line * (scale or 1.0) for line in lines], notes


_DXF_DRAWN = frozenset({"LINE", "ARC", "CIRCLE", "ELLIPSE", "LWPOLYLINE", "POLYLINE", "SPLINE"})


def _dxf_runs(drawing: Any, sagitta: float) -> Iterator[FloatArray]:
    count = 0
    for entity in recursive_decompose(drawing.modelspace()):
        if entity.dxftype() not in _DXF_DRAWN:
            continue
        count += 1
        if count > MOST_LINES:
            raise OutlineError(f"It is drawn of more than {MOST_LINES:,} lines.")
        path = dxf_path.make_path(entity)
        for part in path.sub_paths() if path.has_sub_paths else (path,):
            points = np.array([(at.x, at.y) for at in part.flattening(sagitta)], dtype=np.float64)
            if len(points) > 1:
                yield points

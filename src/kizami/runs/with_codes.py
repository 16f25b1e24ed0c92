"""Pieces of a run with their codes on them, proven: how a code should look is compared with what another
library sees of the body, cut through its letters."""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import manifold3d as m3
import numpy as np
import shapely
import trimesh

from kizami.errors import RunError
from kizami.formats.stl import stl_bytes
from kizami.formats.three_mf import three_mf_bytes
from kizami.processes import Limits
from kizami.runs.body import body_of
from kizami.runs.coding import (
    Coded,
    CodeOn,
    Tab,
    extruded,
    hidden_code,
    tab_field,
    tab_letters,
    tab_outline,
    tab_solid,
    tab_text,
)
from kizami.runs.held_to import limits_of
from kizami.runs.laid_piece import LaidPiece
from kizami.runs.poses import lay
from kizami.solids.solid import solid_of
from kizami.surfaces.protocol import FloatArray

__all__ = ["with_code"]

#: Of the area of its letters, what a code may look like otherwise.
_OFF = 0.03


def with_code(piece: LaidPiece, number: int, folder: Path) -> LaidPiece:
    """The piece with its code on it, as its product asks; its files are in a folder then. A piece whose code
    has no room comes back as it is, and its facts say so.

    Parameters
    ----------
    number : its place in the run, which stands on it where the whole code has no room

    Raises
    ------
    RunError : the code is not on the piece as it should be
    """
    # What hangs on a tree has a flag on its feed instead of a tab, see `kizami.runs.tree`.
    no_tab = piece.code_on is CodeOn.TAB and (piece.tab is None or piece.hangs)
    if piece.code_on is CodeOn.NOWHERE or no_tab:
        return piece
    stl = piece.read("stl")
    limits = limits_of(piece.facts)
    if limits is None:
        raise RunError(f"{piece.key} is of a process that is not known.")
    skin = body_of(stl)
    # What hangs on a tree is asked for its hidden face as it would lie.
    turn, shift = piece.turn, piece.shift
    if piece.hangs:
        lies = lay(skin)
        turn, shift = lies.turn, lies.shift
    own = m3.Manifold(m3.Mesh(skin.points.astype(np.float32), skin.faces.astype(np.uint32)))
    lying = own.transform(_affine(turn, shift))
    coded, change = _coded(piece, lying, number, limits)
    if not coded.text:
        return replace(piece, facts={**piece.facts, "code": ""})
    # Brought to the piece, so that the piece itself keeps every corner that it has.
    back = change.transform(_affine(turn.T, -turn.T @ shift))
    body = own + back if piece.code_on is CodeOn.TAB else own - back
    solid = solid_of(body)
    data = {
        "stl": stl_bytes(solid, title=piece.title),
        "3mf": three_mf_bytes(solid, title=piece.title),
    }
    was, became = (_mesh(file, turn, shift) for file in (stl, data["stl"]))
    wrong = _differs(was, became, coded, piece.tab if piece.code_on is CodeOn.TAB else None)
    if wrong:
        raise RunError(f"The code of {piece.key} {wrong}. Take it out, or take codes off its product.")
    for ending, file in data.items():
        (folder / f"{number}.{ending}").write_bytes(file)
    return replace(
        piece,
        shape_key=f"{piece.shape_key} {piece.key}",
        read=_reader(folder, number),
        # Letters and tabs may be thinner than anything that was measured of the piece.
        facts={**piece.facts, "code": coded.text, "thinnest_mm": None},
    )


def _coded(piece: LaidPiece, lying: m3.Manifold, number: int, limits: Limits) -> tuple[Coded, m3.Manifold]:
    """The code, and what is added or taken away for it, in the axes of the piece as it lies."""
    if piece.code_on is CodeOn.TAB and piece.tab is not None:
        coded = tab_letters(piece.tab, tab_text(piece.key, number, limits), limits)
        return coded, tab_solid(piece.tab, coded)
    coded = hidden_code(lying, piece.key, number, limits)
    if not coded.text:
        return coded, m3.Manifold()
    return coded, extruded(coded.letters, coded.low_mm, coded.high_mm)


def _affine(turn: FloatArray, shift: FloatArray) -> FloatArray:
    return np.column_stack((turn, shift))


def _reader(folder: Path, number: int) -> Callable[[str], bytes]:
    return lambda ending: (folder / f"{number}.{ending}").read_bytes()


def _differs(was: trimesh.Trimesh, became: trimesh.Trimesh, coded: Coded, tab: Tab | None) -> str:
    """What of a coded body is not as it should be, or "": measured and cut through by trimesh."""
    if not became.is_watertight or became.body_count != was.body_count:
        return "did not become one with it"
    letters = coded.letters.area
    if tab is not None:
        field = tab_field(tab)
        z = (tab.thick_mm + coded.high_mm) / 2.0
        found = shapely.intersection(_cut(became, z), field)
        grew = float(became.volume - was.volume) - letters * (coded.high_mm - tab.thick_mm)
        room = field.area * tab.thick_mm
        if not room * 0.98 <= grew <= tab_outline(tab).area * tab.thick_mm * 1.02:
            return f"has a tab of {grew:.2f} mm3, which should have {room:.2f} mm3 at least"
    else:
        z = coded.high_mm / 2.0
        found = shapely.difference(_cut(was, z), _cut(became, z))
        taken = float(was.volume - became.volume)
        if abs(taken - letters * coded.high_mm) > _OFF * letters * coded.high_mm:
            return f"took {taken:.3f} mm3 away instead of {letters * coded.high_mm:.3f} mm3"
    off = shapely.symmetric_difference(found, coded.letters).area
    return f"reads otherwise: {off:.3f} mm2 of it differ" if off > _OFF * letters else ""


def _mesh(data: bytes, turn: FloatArray, shift: FloatArray) -> trimesh.Trimesh:
    mesh = trimesh.load_mesh(io.BytesIO(data), file_type="stl")
    mesh.apply_transform(np.vstack((np.column_stack((turn, shift)), [0.0, 0.0, 0.0, 1.0])))
    return mesh


def _cut(mesh: trimesh.Trimesh, z_mm: float) -> shapely.Geometry:
    """What a level plane meets of a body."""
    met = trimesh.intersections.mesh_plane(mesh, [0.0, 0.0, 1.0], [0.0, 0.0, z_mm])  # type: ignore[no-untyped-call]
    lines = np.round(met[:, :, :2], 5)
    lines = lines[(lines[:, 0] != lines[:, 1]).any(axis=1)]
    return shapely.build_area(shapely.union_all(shapely.linestrings(lines)))

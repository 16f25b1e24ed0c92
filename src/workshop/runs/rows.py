"""Laid-down runs as rows, and rows as what the core writes files of."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
import shapely

from kizami.drawing.paths import path_data
from kizami.outlines.moving import shifted
from kizami.processes import Limits
from kizami.runs.body import body_of
from kizami.runs.coding import CodeOn, Tab
from kizami.runs.held_to import limits_of
from kizami.runs.laid_piece import LaidPiece, facts_of
from kizami.runs.lay_down import LaidDown
from kizami.runs.laying import Place, drawn_outline
from kizami.runs.release import Run as CoreRun
from kizami.runs.telling import Seen
from kizami.runs.tree import Branch, Hung, OnTree, Tree
from kizami.solids.feeding import Feed
from kizami.standards import shipped_standards
from workshop.runs.models import Placement, Run
from workshop.runs.taking_up import TakenUp, core_shape, reader_of

__all__ = ["best_table", "core_run", "outline_on_map", "placements_of", "run_facts"]


def run_facts(down: LaidDown) -> dict[str, Any]:
    """What is kept of a run beside its placements."""
    totals = down.totals
    return {
        "said": list(down.said),
        "map_mm": [round(x, 3) for x in down.map_mm],
        "fill": round(totals.fill, 4),
        "rows": totals.rows,
        "weight_g": round(totals.weight_g, 3),
        "melt_g": round(totals.melt_g, 3),
        "hours": round(totals.hours, 3),
        "cost": round(totals.cost, 2),
        "layers": down.layers,
        "how": down.how,
        "mini": _mini_map(down.outlines, down.map_mm[1]),
        "tree_mm": round(down.tree.height_mm, 3) if down.tree is not None else 0.0,
    }


#: A small map is drawn as coarsely as this, mm.
_MINI_MM = 1.0


def _mini_map(outlines: Sequence[shapely.Geometry], depth_mm: float) -> str:
    """Path data of all outlines, coarse, for a list of runs; y down."""
    coarse = shapely.simplify(np.array(outlines, dtype=object), _MINI_MM)
    return "".join(path_data(shape, top_mm=depth_mm, decimals=1) for shape in coarse)


def best_table(seen: Seen) -> dict[str, Any]:
    """The best bed so far, as the list of runs draws it while the work goes on."""
    return {
        "map_mm": [round(seen.width_mm, 3), round(seen.depth_mm, 3)],
        "mini": _mini_map(seen.outlines, seen.depth_mm),
        "said": seen.said,
    }


def placements_of(down: LaidDown, taken: TakenUp, now: Mapping[int, int | None]) -> list[Placement]:
    """A row for each piece that stands as it was laid.

    Parameters
    ----------
    now : revision of every piece that may still be taken, by its key in the database
    """
    rows = []
    for number, (piece, place) in enumerate(zip(down.pieces, down.places, strict=True)):
        pk = taken.of_piece[piece.key]
        if now.get(pk) != taken.of_revision[piece.key]:
            continue
        hung = down.tree.hung[number] if down.tree is not None else None
        seen = (
            None
            if hung is None
            else shifted(down.outlines[number], -_across(hung, down.map_mm[0]), -hung.z_mm)
        )
        rows.append(
            Placement(
                piece_id=pk,
                revision_id=taken.of_revision[piece.key],
                shape_id=taken.of_shape[piece.key],
                key=piece.key,
                place=number + 1,
                x_mm=round(place.x_mm, 4),
                y_mm=round(place.y_mm, 4),
                z_mm=round(place.z_mm, 4),
                turn_deg=round(place.turn_deg, 4),
                hanging=None if hung is None or seen is None else _hanging(hung, seen),
            )
        )
    return rows


def _across(hung: Hung, width_mm: float) -> float:
    return float(hung.angle_rad / (2.0 * np.pi) * width_mm)


def _hanging(hung: Hung, seen: shapely.Geometry) -> dict[str, Any]:
    parts = [np.asarray(part.exterior.coords)[:-1] for part in shapely.get_parts(seen)]
    return {
        "turn": [round(float(x), 9) for x in hung.branch.turn.ravel()],
        "shift": [round(float(x), 6) for x in hung.branch.shift],
        "feed": hung.branch.feed.to_table(),
        "rise_deg": hung.branch.rise_deg,
        "level": hung.level,
        "seen": [np.round(part, 2).tolist() for part in parts],
    }


def outline_on_map(run: Run, placement: Placement) -> shapely.Geometry:
    """Where a piece is on the run's map."""
    if placement.hanging:
        width = float(run.facts["map_mm"][0])
        parts = [shapely.Polygon(ring) for ring in placement.hanging["seen"]]
        seen = shapely.union_all(parts) if len(parts) != 1 else parts[0]
        return shifted(seen, placement.turn_deg / 360.0 * width, placement.z_mm)
    return drawn_outline(core_shape(placement.shape), place_of(placement))


def place_of(placement: Placement) -> Place:
    """As the core takes it."""
    return Place(
        key=placement.key,
        x_mm=placement.x_mm,
        y_mm=placement.y_mm,
        z_mm=placement.z_mm,
        turn_deg=placement.turn_deg,
    )


def core_run(run: Run, placements: Sequence[Placement]) -> CoreRun:
    """All that the core needs to write a run's files.

    Parameters
    ----------
    placements : with piece, line, shape and revision
    """
    pieces = [_laid_piece(placement) for placement in placements]
    machine = run.to_machine()
    return CoreRun(
        code=run.code,
        machine=machine,
        material=run.material,
        thickness_mm=run.thickness_mm,
        pieces=tuple(pieces),
        outlines=tuple(outline_on_map(run, placement) for placement in placements),
        facts=tuple(run.facts.get("said", ())),
        taken=run.remnant.shape if run.remnant is not None else None,
        tree=_tree(run, placements, pieces) if run.is_tree else None,
        map_mm=(run.facts["map_mm"][0], run.facts["map_mm"][1]),
    )


def _laid_piece(placement: Placement) -> LaidPiece:
    hanging = placement.hanging
    lying = [*hanging["turn"], *hanging["shift"]] if hanging else placement.shape.lying
    level = int(hanging["level"]) + 1 if hanging else 0
    return LaidPiece(
        key=placement.key,
        wording=placement.piece.line.wording,
        shape_key=placement.shape_id,
        turn=np.array(lying[:9]).reshape(3, 3),
        shift=np.array(lying[9:]),
        place=place_of(placement),
        read=reader_of(placement.revision_id, placement.revision.facts["files"]),
        facts=facts_of(
            {**placement.revision.facts, "fingerprint": placement.revision.fingerprint}, level=level
        ),
        code_on=CodeOn(placement.revision.facts.get("code_on") or ""),
        tab=None if placement.shape.tab is None else Tab(**placement.shape.tab),
        hangs=bool(hanging),
    )


def _limits(piece: LaidPiece) -> Limits:
    found = limits_of(piece.facts)
    return found or shipped_standards().process(str(piece.facts["process"])).limits


def _tree(run: Run, placements: Sequence[Placement], pieces: Sequence[LaidPiece]) -> Tree:
    hung = []
    for placement, piece in zip(placements, pieces, strict=True):
        hanging = placement.hanging or {}
        branch = Branch(
            piece=OnTree(
                key=piece.key,
                shape_key=piece.shape_key,
                hull=np.empty((0, 3)),
                volume_mm3=placement.shape.volume_mm3,
                feeds=(),
                load=_loader(piece),
                flagged=piece.code_on is CodeOn.TAB,
                limits=limits_of(piece.facts)
                or shipped_standards().process(str(piece.facts["process"])).limits,
            ),
            turn=piece.turn,
            shift=piece.shift,
            feed=Feed.from_table(hanging["feed"]),
            rise_deg=float(hanging["rise_deg"]),
            half_rad=0.0,
            profile=shapely.Polygon(),
        )
        hung.append(
            Hung(
                branch=branch,
                level=int(hanging["level"]),
                z_mm=placement.z_mm,
                angle_rad=float(np.radians(placement.turn_deg)),
            )
        )
    levels = len({h.level for h in hung})
    return Tree(hung=tuple(hung), height_mm=float(run.facts["tree_mm"]), levels=levels)


def _loader(piece: LaidPiece) -> Any:
    return lambda: body_of(piece.read("stl"))

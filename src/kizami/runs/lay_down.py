"""A batch laid down as runs: places, what is seen of them on a map, and the sums; the same for every kind."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import shapely

from kizami.errors import RunError
from kizami.runs.assemble import BedOf, assemble
from kizami.runs.laying import Place, drawn_outline
from kizami.runs.machine import Kind, Machine
from kizami.runs.melt import melt_of, melt_of_box, tree_fill
from kizami.runs.mould import said_of_moulds
from kizami.runs.ready import Batch, Ready, Waits
from kizami.runs.sheet_work import placed_works, sheet_work
from kizami.runs.taking_up import on_tree
from kizami.runs.telling import Told, tell_nobody
from kizami.runs.totals import Totals, totals_of
from kizami.runs.tree import Hung, Tree, lay_on_trees, seen_from_outside

__all__ = ["LaidDown", "Source", "lay_down"]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Source:
    """Where a piece's files and facts come from.

    Attributes
    ----------
    read : gives a file by its extension
    record : facts of when it was made: volume_mm3, weight_g, feeds
    """

    read: Callable[[str], bytes]
    record: Mapping[str, Any]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class LaidDown:
    """One run.

    Attributes
    ----------
    pieces, places : side by side
    outlines : of each on the map
    map_mm : width and height of the map
    totals : sums
    said : the sums in words
    tree : of a casting tree, how its pieces hang; None for others
    layers : of a plate
    """

    pieces: tuple[Ready, ...]
    places: tuple[Place, ...]
    outlines: tuple[shapely.Geometry, ...]
    map_mm: tuple[float, float]
    totals: Totals
    said: tuple[str, ...]
    tree: Tree | None = None
    layers: int = 1
    how: str = field(default="")


def lay_down(
    batch: Batch,
    sources: Mapping[str, Source],
    *,
    seconds: float = 0.0,
    seed: int = 0,
    taken: shapely.Geometry | None = None,
    most_beds: int = 0,
    told: Told = tell_nobody,
) -> tuple[list[LaidDown], list[Waits]]:
    """Lay a batch on as many beds, sheets or trees as it needs.

    Parameters
    ----------
    sources : of every piece, by its key
    seconds, seed, taken, most_beds : see `kizami.runs.assemble.assemble`

    Returns
    -------
    the runs, the most urgent first, and what fits on none
    """
    if batch.machine.kind is Kind.TREE:
        return _trees(batch, sources, most_beds, told)
    beds, waits = assemble(batch, seconds=seconds, seed=seed, taken=taken, most_beds=most_beds, told=told)
    return [down_of(batch, bed, sources) for bed in beds], waits


def down_of(batch: Batch, bed: BedOf, sources: Mapping[str, Source]) -> LaidDown:
    """A bed with its map and its sums."""
    records = [sources[piece.key].record for piece in bed.pieces]
    weights = [float(record["weight_g"]) for record in records]
    hours: float | None = None
    more: tuple[str, ...] = ()
    melt_g = 0.0
    if batch.machine.kind is Kind.SHEET:
        hours, more = _beam(batch, bed, sources)
    elif batch.machine.kind is Kind.SAND:
        melt = melt_of_box(batch.machine, batch.material, weights_g=weights)
        melt_g, more = melt.total_g, (*melt.said(), *_moulds(batch.machine, bed))
    totals = totals_of(
        batch.machine,
        batch.material,
        volumes_mm3=[float(record["volume_mm3"]) for record in records],
        weights_g=weights,
        fill=bed.fill,
        melt_g=melt_g,
        rows=bed.rows,
        hours=hours,
    )
    return LaidDown(
        pieces=bed.pieces,
        places=bed.places,
        outlines=tuple(
            drawn_outline(piece.shape, place) for piece, place in zip(bed.pieces, bed.places, strict=True)
        ),
        map_mm=(batch.machine.bed_mm[0], batch.machine.bed_mm[1]),
        totals=totals,
        said=(*totals.said(), *more, *_larger(records)),
        layers=bed.layers,
        how=bed.how,
    )


def _moulds(machine: Machine, bed: BedOf) -> tuple[str, ...]:
    known = [(p.shape.mould, p.shape.height_mm) for p in bed.pieces if p.shape.mould is not None]
    return said_of_moulds([mould for mould, _ in known], [height for _, height in known], machine)


def _larger(records: Sequence[Mapping[str, Any]]) -> tuple[str, ...]:
    """By how much patterns are larger than their pieces, in words; nothing where they are as large."""
    allowances = sorted({round(float(record.get("allowance_percent") or 0.0), 2) for record in records})
    if not allowances or allowances[-1] <= 0.0:
        return ()
    shown = " to ".join(f"{percent:g}" for percent in dict.fromkeys((allowances[0], allowances[-1])))
    return (f"patterns are {shown} % larger, for shrinkage",)


def _beam(batch: Batch, bed: BedOf, sources: Mapping[str, Source]) -> tuple[float | None, tuple[str, ...]]:
    """Hours that a sheet takes, and what is cut, in words; or what the station lacks for it."""
    placed = placed_works(
        (place, piece.shape.key, sources[piece.key].read)
        for piece, place in zip(bed.pieces, bed.places, strict=True)
    )
    try:
        work = sheet_work(placed, batch.machine, material=batch.material, thickness_mm=batch.thickness_mm)
    except RunError as error:
        return None, (str(error),)
    areas = sum(step.area_mm2 for step in work.steps)
    engraved = f", {areas / 100.0:.0f} cm² engraved" if areas else ""
    return work.hours, (f"{work.cut_mm / 1000.0:.1f} m cut{engraved}",)


def _trees(
    batch: Batch, sources: Mapping[str, Source], most_trees: int, told: Told
) -> tuple[list[LaidDown], list[Waits]]:
    asked = [on_tree(piece, sources[piece.key].read, sources[piece.key].record) for piece in batch.pieces]
    trees, too_large = lay_on_trees(asked, batch.machine, told=told)
    by_key = {piece.key: piece for piece in batch.pieces}
    waits = [Waits(key=key, why=f"It fits on no tree of {batch.machine.name}.") for key in too_large]
    kept = trees[:most_trees] if most_trees else trees
    return [_hung(batch, tree, by_key, sources) for tree in kept], waits


def _hung(batch: Batch, tree: Tree, by_key: Mapping[str, Ready], sources: Mapping[str, Source]) -> LaidDown:
    outlines, size = seen_from_outside(tree, batch.machine)
    pieces = [by_key[hung.branch.piece.key] for hung in tree.hung]
    records = [sources[piece.key].record for piece in pieces]
    weights = [float(record["weight_g"]) for record in records]
    melt = melt_of(tree, batch.machine, batch.material, weights_g=weights)
    totals = totals_of(
        batch.machine,
        batch.material,
        volumes_mm3=[hung.branch.piece.volume_mm3 for hung in tree.hung],
        weights_g=weights,
        fill=tree_fill(tree),
        melt_g=melt.total_g,
        hours=0.0,
    )
    return LaidDown(
        pieces=tuple(pieces),
        places=tuple(place_of(hung) for hung in tree.hung),
        outlines=tuple(outlines),
        map_mm=size,
        totals=totals,
        said=(*totals.said(), *melt.said(), *_larger(records)),
        tree=tree,
        layers=tree.levels,
        how="tree",
    )


def place_of(hung: Hung) -> Place:
    """Where a piece hangs, as a place: turned about the sprue's axis, and lifted."""
    return Place(
        key=hung.branch.piece.key,
        x_mm=0.0,
        y_mm=0.0,
        z_mm=hung.z_mm,
        turn_deg=math.degrees(hung.angle_rad),
    )

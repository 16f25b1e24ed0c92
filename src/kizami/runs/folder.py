"""Runs from a folder of made pieces, without the web: what `kizami make` wrote goes in, released files come
out."""

from __future__ import annotations

import datetime as dt
import hashlib
import json
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from kizami.errors import RunError
from kizami.pieces.lines import piece_name
from kizami.runs.assemble import BedOf, assemble
from kizami.runs.body import body_of
from kizami.runs.flat_piece import flat_shape
from kizami.runs.laid_piece import LaidPiece
from kizami.runs.laying import Place, Shape, drawn_outline
from kizami.runs.machine import Kind, Machine
from kizami.runs.melt import melt_of, tree_fill
from kizami.runs.poses import Laid, lay
from kizami.runs.ready import Batch, Ready, Waits, gather, split_groups
from kizami.runs.release import Released, Run, release
from kizami.runs.telling import Told, tell_nobody
from kizami.runs.totals import totals_of
from kizami.runs.tree import Hung, OnTree, lay_on_trees, seen_from_outside
from kizami.solids.feeding import Feed

__all__ = ["Packed", "pack_folder"]

_LARGEST_REPORT_BYTES = 512 * 1024 * 1024


@dataclass(frozen=True, kw_only=True, slots=True)
class Packed:
    """What came of a folder.

    Attributes
    ----------
    runs : code and what was released of each
    told : totals of each in words
    waiting : pieces that are in no run, with the reason
    """

    runs: tuple[tuple[str, Released], ...]
    told: tuple[str, ...]
    waiting: tuple[Waits, ...]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Made:
    """A piece of the folder."""

    ready: Ready
    record: dict[str, Any]
    laid: Laid | None
    path: Path

    def read(self, extension: str) -> bytes:
        path = self.path.with_name(f"{self.path.name}.{extension}")
        try:
            return path.read_bytes()
        except OSError as error:
            raise RunError(f"{path.name} is missing. Make the piece again.") from error


def pack_folder(
    folder: Path,
    machine: Machine,
    out: Path,
    *,
    seconds: float = 0.0,
    seed: int = 0,
    today: dt.date | None = None,
    step: Told = tell_nobody,
) -> Packed:
    """Lay the ready pieces of a folder that a machine takes, and release the files of every run.

    Parameters
    ----------
    folder : as `kizami make` wrote it, with its report
    out : gets a folder for each run
    seconds : spent on looking for denser beds than the instant answer

    Raises
    ------
    RunError : the folder has no report, or nothing in it is ready for that machine
    """
    made = _made(folder, machine, step)
    if not made:
        raise RunError(
            f"Nothing in {folder.name} is ready for {machine.name}. It takes "
            f"{', '.join(machine.processes)} in {', '.join(machine.materials) or 'any material'}."
        )
    gathered = gather([m.ready for m in made.values()], [machine], today=today or dt.date.min)
    waiting = list(gathered.waiting)
    runs: list[tuple[str, Released]] = []
    told: list[str] = []
    for batch in gathered.batches:
        number = len(runs) + 1
        if machine.kind is Kind.TREE:
            laid_runs, waits = _trees(batch, made, number, step)
        else:
            beds, waits = assemble(batch, seconds=seconds / len(gathered.batches), seed=seed, told=step)
            laid_runs = [
                _run(f"{machine.code}-{number + k:03d}", batch, bed, made) for k, bed in enumerate(beds)
            ]
        waiting += waits
        told += split_groups([[made[piece.key].ready for piece in run.pieces] for run in laid_runs])
        for run in laid_runs:
            code = run.code
            target = out / code
            target.mkdir(parents=True, exist_ok=True)
            runs.append((code, release(run, target, step=step)))
            told.append(f"{code}: {'; '.join(run.facts)}")
    return Packed(runs=tuple(runs), told=tuple(told), waiting=tuple(waiting))


def _trees(batch: Batch, made: dict[str, _Made], number: int, step: Told) -> tuple[list[Run], list[Waits]]:
    asked = [on_tree(piece, made[piece.key].read("stl"), made[piece.key].record) for piece in batch.pieces]
    trees, too_large = lay_on_trees(asked, batch.machine, told=step)
    by_key = {piece.key: piece for piece in batch.pieces}
    runs = []
    for k, tree in enumerate(trees):
        outlines, size = seen_from_outside(tree, batch.machine)
        pieces = [
            laid_on_tree(
                by_key[hung.branch.piece.key],
                hung,
                made[hung.branch.piece.key].read,
                made[hung.branch.piece.key].record,
            )
            for hung in tree.hung
        ]
        weights = [float(made[piece.key].record["weight_g"]) for piece in pieces]
        melt = melt_of(tree, batch.machine, batch.material, weights_g=weights)
        totals = totals_of(
            batch.machine,
            batch.material,
            volumes_mm3=[hung.branch.piece.body.volume_mm3 for hung in tree.hung],
            weights_g=weights,
            fill=tree_fill(tree),
            melt_g=melt.total_g,
            hours=0.0,
        )
        runs.append(
            Run(
                code=f"{batch.machine.code}-{number + k:03d}",
                machine=batch.machine,
                material=batch.material,
                pieces=tuple(pieces),
                outlines=tuple(outlines),
                facts=(*totals.said(), *melt.said()),
                tree=tree,
                map_mm=size,
            )
        )
    return runs, [Waits(key=key, why=f"It fits on no tree of {batch.machine.name}.") for key in too_large]


def _run(code: str, batch: Batch, bed: BedOf, made: dict[str, _Made]) -> Run:
    pieces, outlines = [], []
    for ready, place in zip(bed.pieces, bed.places, strict=True):
        piece = made[ready.key]
        pieces.append(laid_piece(piece.ready, piece.laid, place, piece.read, piece.record))
        outlines.append(drawn_outline(ready.shape, place))
    records = [made[ready.key].record for ready in bed.pieces]
    totals = totals_of(
        batch.machine,
        batch.material,
        volumes_mm3=[float(record["volume_mm3"]) for record in records],
        weights_g=[float(record["weight_g"]) for record in records],
        fill=bed.fill,
        rows=bed.rows,
    )
    return Run(
        code=code,
        machine=batch.machine,
        material=batch.material,
        thickness_mm=batch.thickness_mm,
        pieces=tuple(pieces),
        outlines=tuple(outlines),
        facts=totals.said(),
    )


def _made(folder: Path, machine: Machine, step: Told) -> dict[str, _Made]:
    """The ready pieces that a machine takes, by ticket code; equal files are measured once."""
    chosen = [
        record
        for record in _report(folder)
        if record["stage"] == "ready" and machine.takes(record.get("process", ""), record["material"])
    ]
    laid: dict[str, tuple[Shape, Laid | None, float]] = {}
    found: dict[str, _Made] = {}
    for number, record in enumerate(chosen):
        step(number, len(chosen), "measuring pieces")
        key = piece_name(record["order"], record["line"], record["piece"])
        path = folder / "pieces" / key
        extension = "cut.svg" if machine.kind is Kind.SHEET else "stl"
        try:
            data = path.with_name(f"{key}.{extension}").read_bytes()
        except OSError as error:
            raise RunError(f"{key}.{extension} is missing beside the report. Make the list again.") from error
        mark = hashlib.sha256(data).hexdigest()
        if mark not in laid:
            laid[mark] = shape_of(mark, data, record, machine.kind)
        shape, lies, thickness = laid[mark]
        ready = Ready(
            key=key,
            order=record["order"],
            wording=record["wording"],
            process=record["process"],
            material=record["material"],
            shape=shape,
            due=dt.date.fromisoformat(record["due"]) if record.get("due") else None,
            rush=bool(record.get("rush")),
            set_name=record["set"],
            thickness_mm=thickness,
        )
        found[key] = _Made(ready=ready, record=record, laid=lies, path=path)
    return found


def shape_of(mark: str, data: bytes, record: dict[str, Any], kind: Kind) -> tuple[Shape, Laid | None, float]:
    """What a piece covers of a bed, how it lies there, and how thick it is.

    Parameters
    ----------
    mark : tells the file from others
    data : the piece's STL, or its cut SVG for a sheet
    record : its facts: size_mm and lettering_mm2
    """
    if kind is Kind.SHEET:
        return Shape(mark, flat_shape(data)), None, float(min(record["size_mm"]))
    laid = lay(body_of(data, record.get("lettering_mm2") or (0.0, 0.0, 0.0)))
    return Shape(mark, laid.outline, laid.height_mm), laid, laid.height_mm


def laid_piece(
    ready: Ready, laid: Laid | None, place: Any, read: Callable[[str], bytes], record: dict[str, Any]
) -> LaidPiece:
    """A piece of a run with all that its files need."""
    facts = {name: record.get(name) for name in _FACTS}
    return LaidPiece(
        key=ready.key,
        wording=ready.wording,
        shape_key=ready.shape.key,
        turn=np.eye(3) if laid is None else laid.turn,
        shift=np.zeros(3) if laid is None else laid.shift,
        place=place,
        read=read,
        facts=facts,
    )


def on_tree(ready: Ready, stl: bytes, record: dict[str, Any]) -> OnTree:
    """A piece that is to hang on a tree."""
    body = body_of(stl)
    feeds = [Feed.from_table(row) for row in record.get("feeds") or ()]
    return OnTree(key=ready.key, shape_key=ready.shape.key, body=body, feeds=tuple(feeds))


def laid_on_tree(ready: Ready, hung: Hung, read: Callable[[str], bytes], record: dict[str, Any]) -> LaidPiece:
    """A piece of a tree with all that its files need."""
    place = Place(key=ready.key, x_mm=0.0, y_mm=0.0, z_mm=hung.z_mm, turn_deg=math.degrees(hung.angle_rad))
    return LaidPiece(
        key=ready.key,
        wording=ready.wording,
        shape_key=ready.shape.key,
        turn=hung.branch.turn,
        shift=hung.branch.shift,
        place=place,
        read=read,
        facts={name: record.get(name) for name in _FACTS} | {"level": hung.level + 1},
    )


_FACTS = ("volume_mm3", "weight_g", "fingerprint", "allowance_percent")


def _report(folder: Path) -> Sequence[dict[str, Any]]:
    path = folder / "report.json"
    try:
        if path.stat().st_size > _LARGEST_REPORT_BYTES:
            raise RunError(f"The report in {folder.name} is larger than a report can be.")
        pieces: list[dict[str, Any]] = json.loads(path.read_bytes())["pieces"]
    except OSError as error:
        raise RunError(f"{folder.name} has no report.json. Make the list first: kizami make.") from error
    except (ValueError, KeyError, TypeError) as error:
        raise RunError(f"The report in {folder.name} can't be read. Make the list again.") from error
    return pieces

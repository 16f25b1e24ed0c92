"""Runs from a folder of made pieces, without the web: what `kizami make` wrote goes in, released files come
out."""

from __future__ import annotations

import datetime as dt
import hashlib
import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from kizami.errors import RunError
from kizami.pieces.lines import piece_name
from kizami.runs.coding import CodeOn
from kizami.runs.laid_piece import LaidPiece, facts_of
from kizami.runs.lay_down import LaidDown, Source, lay_down
from kizami.runs.laying import Shape
from kizami.runs.machine import Kind, Machine
from kizami.runs.poses import Laid
from kizami.runs.ready import Batch, Ready, Waits, gather, split_groups, spoken_group
from kizami.runs.release import Released, Run, release
from kizami.runs.taking_up import lying_mark, shape_of
from kizami.runs.telling import Told, tell_nobody

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
    sources = {key: Source(read=piece.read, record=piece.record) for key, piece in made.items()}
    for batch in gathered.batches:
        downs, waits = lay_down(batch, sources, seconds=seconds / len(gathered.batches), seed=seed, told=step)
        waiting += waits
        told += [
            f"{spoken_group(group)} lies on {len(numbers)} of them"
            for group, numbers in split_groups([down.pieces for down in downs]).items()
        ]
        for down in downs:
            run = _run(f"{machine.code}-{len(runs) + 1:03d}", batch, down, made)
            target = out / run.code
            target.mkdir(parents=True, exist_ok=True)
            runs.append((run.code, release(run, target, step=step)))
            told.append(f"{run.code}: {'; '.join(run.facts)}")
    return Packed(runs=tuple(runs), told=tuple(told), waiting=tuple(waiting))


def _run(code: str, batch: Batch, down: LaidDown, made: Mapping[str, _Made]) -> Run:
    pieces = []
    for number, (ready, place) in enumerate(zip(down.pieces, down.places, strict=True)):
        piece = made[ready.key]
        turn, shift, level = np.eye(3), np.zeros(3), 0
        if down.tree is not None:
            branch, level = down.tree.hung[number].branch, down.tree.hung[number].level + 1
            turn, shift = branch.turn, branch.shift
        elif piece.laid is not None:
            turn, shift = piece.laid.turn, piece.laid.shift
        pieces.append(
            LaidPiece(
                key=ready.key,
                wording=ready.wording,
                shape_key=ready.shape.key,
                turn=turn,
                shift=shift,
                place=place,
                read=piece.read,
                facts=facts_of(piece.record, level=level),
                code_on=CodeOn(piece.record.get("code_on") or ""),
                tab=ready.shape.tab,
                hangs=down.tree is not None,
            )
        )
    return Run(
        code=code,
        machine=batch.machine,
        material=batch.material,
        thickness_mm=batch.thickness_mm,
        pieces=tuple(pieces),
        outlines=down.outlines,
        facts=down.said,
        tree=down.tree,
        map_mm=down.map_mm,
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
        mark = lying_mark(hashlib.sha256(data).hexdigest(), record, key, machine.kind)
        if mark not in laid:
            laid[mark] = shape_of(mark, data, record, machine.kind, key)
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

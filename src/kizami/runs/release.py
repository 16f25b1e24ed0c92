"""A run's files: written, read back, measured again, and only then handed over."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from tempfile import TemporaryDirectory

import shapely

import kizami
from kizami.errors import RunError
from kizami.formats.tables import csv_bytes, xlsx_bytes
from kizami.runs.body import body_of
from kizami.runs.coding import CodeOn
from kizami.runs.laid_piece import LaidPiece
from kizami.runs.machine import Kind, Machine
from kizami.runs.paper_back import differences_pdf
from kizami.runs.place_map import Marked, map_pdf, map_png, map_svg, marks_of
from kizami.runs.plate_files import write_plate_3mf, write_plate_glb, write_plate_stl
from kizami.runs.reading_back import (
    Difference,
    Expected,
    differences_3mf,
    differences_glb,
    differences_stl,
    expected_of,
)
from kizami.runs.sheet_back import differences_dxf, differences_sheet_svg
from kizami.runs.sheet_files import SETTINGS_HEADER, settings_rows, sheet_dxf, sheet_svg
from kizami.runs.sheet_work import SheetWork, placed_works, sheet_work
from kizami.runs.tables_back import (
    differences_csv,
    differences_settings,
    differences_svg_map,
    differences_xlsx,
)
from kizami.runs.telling import Told, tell_nobody
from kizami.runs.tree import Hung, Tree, build_tree, flagged
from kizami.runs.tree_files import differences_tree, tree_files
from kizami.runs.with_codes import with_code

__all__ = ["Released", "Run", "release", "work_of"]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Run:
    """What is to be written.

    Attributes
    ----------
    code : of the run; begins every file's name
    machine, material, thickness_mm : where, of what, and for sheets how thick
    pieces : in the order in which they lie in the files
    outlines : of each piece where it lies, in the same order
    taken : what is used up of the bed, or None
    facts : said on paper: totals of weight, time, cost
    tree : of a casting tree, how its pieces hang
    map_mm : of what the map shows; None for the bed
    """

    code: str
    machine: Machine
    material: str
    pieces: tuple[LaidPiece, ...]
    outlines: tuple[shapely.Geometry, ...]
    thickness_mm: float = 0.0
    taken: shapely.Geometry | None = None
    facts: tuple[str, ...] = ()
    tree: Tree | None = None
    map_mm: tuple[float, float] | None = None

    @property
    def title(self) -> str:
        """Its code and machine."""
        return f"{self.code} {self.machine.name}"

    @property
    def marked(self) -> list[Marked]:
        """Its pieces as a map shows them."""
        return [
            Marked(key=p.key, wording=p.wording, outline=o, number=_number(p))
            for p, o in zip(self.pieces, self.outlines, strict=True)
        ]


@dataclass(frozen=True, kw_only=True, slots=True)
class Released:
    """What came of it.

    Attributes
    ----------
    files : names, beside the manifest; none where something differs
    differences : why it is not released
    """

    files: tuple[str, ...]
    differences: tuple[Difference, ...] = field(default=())

    @property
    def whole(self) -> bool:
        """Whether the files may be used."""
        return not self.differences


def _number(piece: LaidPiece) -> str:
    """What stands on a piece instead of its code."""
    code = str(piece.facts.get("code") or "")
    return "" if code == piece.key else code


def release(run: Run, folder: Path, *, step: Told = tell_nobody) -> Released:
    """Write a run's files to an empty folder, read each back and measure it again; where one differs, none
    stays.

    Raises
    ------
    RunError : a piece's own file is lost or damaged
    OSError : the disk is full
    """
    with TemporaryDirectory() as codes:
        return _released(_with_codes(run, Path(codes)), folder, step)


def _with_codes(run: Run, codes: Path) -> Run:
    """The run with the codes of its pieces on them."""
    if all(piece.code_on is CodeOn.NOWHERE for piece in run.pieces):
        return run
    pieces = tuple(with_code(piece, number, codes) for number, piece in enumerate(run.pieces, start=1))
    if run.tree is None:
        return replace(run, pieces=pieces)
    flags = flagged(run.tree, run.machine)
    pieces = tuple(
        replace(piece, facts={**piece.facts, "code": str(number)}) if number in flags else piece
        for number, piece in enumerate(pieces, start=1)
    )
    hung = tuple(_loading(hung, piece) for hung, piece in zip(run.tree.hung, pieces, strict=True))
    return replace(run, pieces=pieces, tree=replace(run.tree, hung=hung))


def _loading(hung: Hung, piece: LaidPiece) -> Hung:
    """Hung as it is, with the body that carries its code."""
    on_tree = replace(hung.branch.piece, load=lambda: body_of(piece.read("stl")))
    return replace(hung, branch=replace(hung.branch, piece=on_tree))


def _released(run: Run, folder: Path, step: Told) -> Released:
    writers: dict[str, Callable[[Path], object]] = {}
    readers: dict[str, Callable[[Path], list[Difference]]] = {}
    _common(run, writers, readers)
    if run.machine.kind is Kind.SHEET:
        _sheet(run, writers, readers)
    elif run.machine.kind is Kind.TREE:
        _tree(run, writers, readers)
    else:
        _plate(run, writers, readers)
    differences: list[Difference] = []
    for number, (name, write) in enumerate(writers.items()):
        step(number, len(writers), f"writing and measuring {name}")
        path = folder / name
        write(path)
        differences += readers[name](path) if name in readers else []
    if differences:
        for name in writers:
            (folder / name).unlink(missing_ok=True)
        return Released(files=(), differences=tuple(differences))
    manifest = folder / f"{run.code}-manifest.json"
    manifest.write_bytes(_manifest(run, folder, list(writers)))
    step(len(writers), len(writers), "released")
    return Released(files=(*writers, manifest.name))


def _common(
    run: Run,
    writers: dict[str, Callable[[Path], object]],
    readers: dict[str, Callable[[Path], list[Difference]]],
) -> None:
    """Map and tables: every run has them."""
    bed = run.map_mm or (run.machine.bed_mm[0], run.machine.bed_mm[1])
    rows, marks = _rows(run), tuple(marks_of(run.marked))
    facts = (*run.facts, *_reasons(run))
    svg, pdf = f"{run.code}-map.svg", f"{run.code}-map.pdf"
    csv, xlsx = f"{run.code}-pieces.csv", f"{run.code}-pieces.xlsx"
    writers[svg] = lambda path: path.write_bytes(
        map_svg(run.marked, marks, size_mm=bed, title=run.title, taken=run.taken)
    )
    readers[svg] = lambda path: differences_svg_map(path, run.marked, bed)
    writers[pdf] = lambda path: path.write_bytes(
        map_pdf(run.marked, marks, size_mm=bed, title=run.title, facts=facts, taken=run.taken)
    )
    readers[pdf] = lambda path: differences_pdf(
        path, run.marked, marks, bed, facts=len(facts), taken=run.taken
    )
    writers[csv] = lambda path: path.write_bytes(csv_bytes(_HEADER, rows))
    readers[csv] = lambda path: differences_csv(path, [p.key for p in run.pieces])
    writers[xlsx] = lambda path: path.write_bytes(xlsx_bytes(run.code, _HEADER, rows))
    readers[xlsx] = lambda path: differences_xlsx(path, [p.key for p in run.pieces])


def _plate(
    run: Run,
    writers: dict[str, Callable[[Path], object]],
    readers: dict[str, Callable[[Path], list[Difference]]],
) -> None:
    pieces, title = run.pieces, run.title
    colour = run.machine.standards.material(run.material).colour

    def three_mf(path: Path) -> None:
        bed = (run.machine.bed_mm[0], run.machine.bed_mm[1])
        with path.open("wb") as out:
            write_plate_3mf(out, pieces, title=title, thumbnail=map_png(run.marked, size_mm=bed))

    def stl(path: Path) -> None:
        with path.open("wb") as out:
            write_plate_stl(out, pieces, title=title)

    def glb(path: Path) -> None:
        with path.open("wb") as out:
            write_plate_glb(out, pieces, title=title, colour=colour)

    # Measured once, from files that none of the writers touches.
    expected = expected_of(pieces)
    for ending, write, read in (
        ("3mf", three_mf, differences_3mf),
        ("stl", stl, differences_stl),
        ("glb", glb, differences_glb),
    ):
        writers[f"{run.code}.{ending}"] = write
        readers[f"{run.code}.{ending}"] = _reader(read, expected)


def _sheet(
    run: Run,
    writers: dict[str, Callable[[Path], object]],
    readers: dict[str, Callable[[Path], list[Difference]]],
) -> None:
    work = work_of(run)
    size = (run.machine.bed_mm[0], run.machine.bed_mm[1])
    names = {step.operation.work: step.operation.name for step in work.steps}
    svg, dxf, settings = f"{run.code}.svg", f"{run.code}.dxf", f"{run.code}-settings.csv"
    writers[svg] = lambda path: path.write_bytes(sheet_svg(work, size_mm=size, title=run.title))
    readers[svg] = lambda path: differences_sheet_svg(
        path, run.pieces, run.machine, names=names, size_mm=size
    )
    writers[dxf] = lambda path: path.write_bytes(sheet_dxf(work, size_mm=size))
    readers[dxf] = lambda path: differences_dxf(path, path.with_name(svg), names=names, size_mm=size)
    rows = settings_rows(work)
    writers[settings] = lambda path: path.write_bytes(csv_bytes(SETTINGS_HEADER, rows))
    readers[settings] = lambda path: differences_settings(path, rows)


def work_of(run: Run) -> SheetWork:
    """What a beam does to a run's sheet.

    Raises
    ------
    RunError : a piece's drawing is damaged, or the station has no settings for the work
    """
    placed = placed_works((piece.place, piece.shape_key, piece.read) for piece in run.pieces)
    return sheet_work(placed, run.machine, material=run.material, thickness_mm=run.thickness_mm)


def _tree(
    run: Run,
    writers: dict[str, Callable[[Path], object]],
    readers: dict[str, Callable[[Path], list[Difference]]],
) -> None:
    if run.tree is None:
        raise RunError("A tree's pieces were not hung. Lay it out again.")
    body = build_tree(run.tree, run.machine)
    files = tree_files(body, title=run.title, colour=run.machine.standards.material(run.material).colour)
    volume = float(body.volume())
    for ending, data in files.items():
        writers[f"{run.code}.{ending}"] = _writer(data)
        readers[f"{run.code}.{ending}"] = lambda path: differences_tree(path, run.pieces, volume_mm3=volume)


def _writer(data: bytes) -> Callable[[Path], object]:
    return lambda path: path.write_bytes(data)


def _reader(
    read: Callable[[Path, Sequence[Expected]], list[Difference]], expected: Sequence[Expected]
) -> Callable[[Path], list[Difference]]:
    return lambda path: read(path, expected)


_HEADER = ("place", "ticket", "wording", "x mm", "y mm", "z mm", "turned deg", "weight g", "volume mm3",
           "level", "pattern larger by %", "code on it", "fingerprint", "made all the same",
           "looser limits")  # fmt: skip


def _reasons(run: Run) -> list[str]:
    """Which pieces are made although a check fails, or held to less than their process holds, and why: it
    goes with everything that leaves."""
    all_the_same = [
        f"{piece.key} is made all the same: {why}"
        for piece in run.pieces
        if (why := piece.facts.get("all_the_same"))
    ]
    looser: dict[str, list[str]] = {}
    for piece in run.pieces:
        if piece.facts.get("looser"):
            looser.setdefault(str(piece.facts["looser"]), []).append(piece.key)
    return [
        *all_the_same,
        *(f"{_named(keys)} held to less than usual: {why}" for why, keys in looser.items()),
    ]


def _named(keys: Sequence[str]) -> str:
    """A few ticket codes in words."""
    few, more = ", ".join(keys[:_FEW]), len(keys) - _FEW
    return f"{few} and {more} more are" if more > 0 else f"{few} {'is' if len(keys) == 1 else 'are'}"


#: Codes that one sentence names.
_FEW = 6


def _rows(run: Run) -> list[list[object]]:
    return [
        [
            number,
            piece.key,
            piece.wording.replace("\n", " / "),
            round(piece.place.x_mm, 3),
            round(piece.place.y_mm, 3),
            round(piece.place.z_mm, 3),
            round(piece.place.turn_deg, 3),
            piece.facts.get("weight_g"),
            piece.facts.get("volume_mm3"),
            piece.facts.get("level"),
            piece.facts.get("allowance_percent"),
            piece.facts.get("code"),
            piece.facts.get("fingerprint"),
            piece.facts.get("all_the_same"),
            piece.facts.get("looser"),
        ]
        for number, piece in enumerate(run.pieces, start=1)
    ]


def _manifest(run: Run, folder: Path, names: Sequence[str]) -> bytes:
    """What there is, so that a copy can be checked anywhere."""
    listed = []
    for name in names:
        digest = hashlib.sha256()
        with (folder / name).open("rb") as file:
            while chunk := file.read(1 << 20):
                digest.update(chunk)
        listed.append({"name": name, "size": (folder / name).stat().st_size, "sha256": digest.hexdigest()})
    table = {
        "run": run.code,
        "kizami": kizami.__version__,
        "recipe": kizami.RECIPE,
        "station": run.machine.code,
        "kind": run.machine.kind.value,
        "material": run.material,
        "thickness_mm": run.thickness_mm,
        "facts": [*run.facts, *_reasons(run)],
        "files": listed,
        "pieces": [{"ticket": p.key, "fingerprint": p.facts.get("fingerprint")} for p in run.pieces],
    }
    return (json.dumps(table, indent=1, ensure_ascii=False) + "\n").encode()

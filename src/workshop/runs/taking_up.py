"""From pieces of the shop to what the core lays down, and back to rows."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
import shapely
from django.db.models import QuerySet
from django.db.models.functions import JSONObject

from kizami.errors import RunError
from kizami.pieces.lines import piece_name
from kizami.runs.coding import Tab
from kizami.runs.lay_down import Source
from kizami.runs.laying import Shape
from kizami.runs.machine import Kind
from kizami.runs.mould import Mould
from kizami.runs.poses import Laid
from kizami.runs.ready import Ready
from kizami.runs.taking_up import lying_mark, shape_of
from kizami.runs.telling import Told, tell_nobody
from kizami.standards import shipped_standards
from workshop.files.errors import LostFileError
from workshop.files.models import Kind as FileKind
from workshop.files.models import StoredFile
from workshop.making.made_files import file_of
from workshop.making.models import Revision
from workshop.orders.models import Piece
from workshop.orders.stages import Stage
from workshop.runs.models import LyingShape

__all__ = ["TakenUp", "core_shape", "for_runs", "lying_file", "reader_of", "take_up"]

_AT_ONCE = 200


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class TakenUp:
    """Ready pieces for the core.

    Attributes
    ----------
    pieces : in the order of their keys
    sources : files and facts of each, by its ticket code
    of_piece, of_revision, of_shape : keys in the database, by ticket code
    lost : pieces that can't be taken up, with the reason
    """

    pieces: tuple[Ready, ...]
    sources: Mapping[str, Source]
    of_piece: Mapping[str, int]
    of_revision: Mapping[str, int]
    of_shape: Mapping[str, str]
    lost: Mapping[int, str]


def lying_file(facts: Mapping[str, Any]) -> tuple[str, str] | None:
    """Extension and SHA-256 of the file that says how a piece lies; None for a piece without one."""
    files = facts.get("files") or {}
    process = shipped_standards().processes.get(str(facts.get("process", "")))
    # Those made before facts had it were of processes that ship.
    is_flat = facts.get("flat", process is not None and process.is_flat)
    extension = "cut.svg" if is_flat else "stl"
    known = files.get(extension)
    # Those that were made before runs were known do not say their material.
    if known is None or not facts.get("material"):
        return None
    return (extension, str(known["sha256"]))


def reader_of(revision_pk: int, files: Mapping[str, Any]) -> Callable[[str], bytes]:
    """Reads the files of a revision when they are asked for; one that is lost is made again.

    Parameters
    ----------
    files : by extension, as the revision's facts have them
    """

    def read(extension: str) -> bytes:
        if extension not in files:
            raise RunError(f"A piece has no {extension}. Make its line again.")
        known = files[extension]
        try:
            return StoredFile(sha256=known["sha256"], size=known["size"], kind=FileKind.MADE).read()
        except LostFileError:
            revision = Revision.objects.with_inputs().get(pk=revision_pk)
            return file_of(revision.to_inputs(), extension, revision.facts["files"]) or b""

    return read


#: What of a revision's facts a run asks for; findings and the like are many times as much.
_ASKED = (
    "process",
    "material",
    "files",
    "volume_mm3",
    "weight_g",
    "size_mm",
    "allowance_percent",
    "lettering_mm2",
    "feeds",
    "code_on",
)


def for_runs(pieces: QuerySet[Piece]) -> QuerySet[Piece]:
    """Pieces with all that runs ask of them as `run_facts`, and nothing that they don't."""
    return (
        pieces.select_related("line__product", "revision")
        .defer("line__folded", "revision__strip", "revision__facts", "line__product__table")
        .annotate(run_facts=JSONObject(**{name: f"revision__facts__{name}" for name in _ASKED}))
    )


def core_shape(row: LyingShape) -> Shape:
    """As the core takes it."""
    mould = None if row.mould is None else Mould(**row.mould)
    tab = None if row.tab is None else Tab(**row.tab)
    return Shape(row.sha256, shapely.Polygon(row.outline), row.height_mm, mould, tab)


def take_up(pieces: Iterable[Piece], *, told: Told = tell_nobody) -> TakenUp:
    """Take ready pieces up; shapes that were never measured are measured and kept.

    Parameters
    ----------
    pieces : as `for_runs` has them
    """
    rows = sorted(pieces, key=lambda piece: piece.pk)
    by_pk = {piece.pk: piece for piece in rows}
    lost: dict[int, str] = {}
    files: dict[int, tuple[str, str]] = {}
    for piece in rows:
        known = lying_file(piece.run_facts) if piece.revision_id is not None else None
        if piece.stage != Stage.READY or known is None:
            lost[piece.pk] = "It has no file to lay. Make its line again."
        else:
            files[piece.pk] = known
    names = _names(rows)
    marks = {
        pk: lying_mark(digest, by_pk[pk].run_facts, names[pk], _kind(extension))
        for pk, (extension, digest) in files.items()
    }
    shapes = _shapes([piece for piece in rows if piece.pk in files], marks, names, told)
    ready: list[Ready] = []
    sources: dict[str, Source] = {}
    by_key: dict[str, Piece] = {}
    of_shape: dict[str, str] = {}
    core: dict[str, Shape] = {}
    for piece in rows:
        if piece.pk not in files or piece.revision is None:
            continue
        digest = marks[piece.pk]
        if digest not in shapes:
            lost[piece.pk] = "Its file is damaged. Make its line again."
            continue
        facts, line, key = piece.run_facts, piece.line, names[piece.pk]
        row = shapes[digest]
        core.setdefault(digest, core_shape(row))
        ready.append(
            Ready(
                key=key,
                order=line.order,
                wording=line.wording,
                process=str(facts["process"]),
                material=str(facts["material"]),
                shape=core[digest],
                due=line.due,
                rush=line.rush,
                set_name=line.set_name,
                thickness_mm=row.height_mm,
            )
        )
        sources[key] = Source(read=reader_of(piece.revision.pk, facts["files"]), record=facts)
        by_key[key], of_shape[key] = piece, digest
    return TakenUp(
        pieces=tuple(ready),
        sources=sources,
        of_piece={key: piece.pk for key, piece in by_key.items()},
        of_revision={key: int(piece.revision_id or 0) for key, piece in by_key.items()},
        of_shape=of_shape,
        lost=lost,
    )


def _names(rows: Sequence[Piece]) -> dict[int, str]:
    """Ticket codes; where two sources use one order number, the piece's own number is added."""
    names = {row.pk: piece_name(row.line.order, row.line.line, row.number) for row in rows}
    seen: dict[str, int] = {}
    for name in names.values():
        seen[name.casefold()] = seen.get(name.casefold(), 0) + 1
    return {pk: name if seen[name.casefold()] == 1 else f"{name}~{pk}" for pk, name in names.items()}


def _kind(extension: str) -> Kind:
    return Kind.SHEET if extension == "cut.svg" else Kind.PLATE


def _shapes(
    rows: Sequence[Piece], marks: Mapping[int, str], names: Mapping[int, str], told: Told
) -> dict[str, LyingShape]:
    """Shapes by their mark; those that nobody has asked for yet are measured and kept."""
    wanted = {marks[row.pk]: row for row in rows}
    known = LyingShape.objects.in_bulk(list(wanted))
    missing = [mark for mark in wanted if mark not in known]
    for start in range(0, len(missing), _AT_ONCE):
        found = []
        for number, mark in enumerate(missing[start : start + _AT_ONCE], start=start):
            told(number, len(missing), "measuring how pieces lie")
            piece = wanted[mark]
            file = lying_file(piece.run_facts)
            if piece.revision is None or file is None:
                continue
            try:
                data = reader_of(piece.revision.pk, piece.run_facts["files"])(file[0])
                shape = shape_of(mark, data, piece.run_facts, _kind(file[0]), names[piece.pk])
            except RunError:
                # Told of the piece when the shape is not among those that come back.
                continue
            found.append(_row(*shape, piece.run_facts))
        LyingShape.objects.bulk_create(sorted(found, key=lambda row: row.sha256), ignore_conflicts=True)
        known |= {row.sha256: row for row in found}
    return known


def _row(shape: Shape, laid: Laid | None, height: float, facts: Mapping[str, Any]) -> LyingShape:
    turn, shift = (np.eye(3), np.zeros(3)) if laid is None else (laid.turn, laid.shift)
    return LyingShape(
        sha256=shape.key,
        height_mm=height,
        volume_mm3=float(facts["volume_mm3"]) if laid is None else laid.volume_mm3,
        lying=[round(float(x), 9) for x in (*turn.ravel(), *shift)],
        outline=np.round(np.asarray(shape.outline.exterior.coords)[:-1], 4).tolist(),
        mould=None if shape.mould is None else asdict(shape.mould),
        tab=None if shape.tab is None else asdict(shape.tab),
    )

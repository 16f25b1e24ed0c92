"""Making a whole list on several cores, from bytes to files in a folder."""

from __future__ import annotations

import json
from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from typing import Any

from kizami.artwork.shelf import EMPTY_SHELF, Shelf
from kizami.as_made.treatment import Scored
from kizami.drawing.unrolled import unrolled_file
from kizami.errors import RowError
from kizami.formats.glb import glb_bytes
from kizami.formats.stl import stl_bytes
from kizami.formats.three_mf import three_mf_bytes
from kizami.formats.toolpaths import flat_work_dxf, flat_work_svg
from kizami.pieces.building import fine_body
from kizami.pieces.inputs import Inputs
from kizami.pieces.laying_out import LaidOut
from kizami.pieces.lines import Line, piece_name, resolve_row
from kizami.pieces.make import Made, make_piece
from kizami.pieces.reports import piece_record, report_csv, report_json
from kizami.pieces.sets import with_set_heights
from kizami.pieces.sharing import in_good_order, work_shared
from kizami.products.product import Catalogue
from kizami.solids.flat_work import flat_work
from kizami.solids.pattern import pattern_of
from kizami.wording.no_words import Pointing, points_elsewhere
from kizami.wording.order_list import OrderList, SetAside, read_order_list

__all__ = ["Progress", "Summary", "make_list", "piece_files", "resolve_list", "resolve_rows"]

Progress = Callable[[int, int, int], None]


@dataclass(frozen=True, kw_only=True, slots=True)
class Summary:
    """Counts of a finished list, and what was decided or left out in reading it."""

    ready: int
    held: int
    set_aside: int
    notes: tuple[str, ...] = ()


def resolve_list(
    data: bytes, catalogue: Catalogue, *, logos: Shelf = EMPTY_SHELF
) -> tuple[list[Line], list[SetAside]]:
    """Read a list and resolve its rows; what can't be read or resolved is set aside, in row order.

    Raises
    ------
    OrderListError : the list as a whole can't be used
    """
    order_list = read_order_list(data, is_product=catalogue.knows)
    return resolve_rows(order_list, catalogue, logos=logos)


def resolve_rows(
    order_list: OrderList,
    catalogue: Catalogue,
    *,
    logos: Shelf | None = EMPTY_SHELF,
    leave: Collection[int] = frozenset(),
) -> tuple[list[Line], list[SetAside]]:
    """Resolve the rows of a list that was read; what can't be resolved joins what was set aside.

    Parameters
    ----------
    logos : see `resolve_row`
    leave : numbers of rows that are known and need not be resolved
    """
    lines: list[Line] = []
    aside = [_with_more_faults(row, catalogue, logos) for row in order_list.set_aside]
    above = _words_above(order_list)
    for row in order_list.rows:
        if row.row in leave:
            continue
        try:
            lines.append(resolve_row(row, catalogue, logos=logos, above=above.get(row.row, "")))
        except RowError as error:
            aside.append(SetAside(row=row.row, reason=str(error), cells=row.cells, columns=error.columns))
    return lines, sorted(aside, key=lambda s: s.row)


def _words_above(order_list: OrderList) -> dict[int, str]:
    """For each row that only points to the row above, by its number, the words that it points to."""
    rows = [*order_list.rows, *(aside.rest for aside in order_list.set_aside if aside.rest is not None)]
    found: dict[int, str] = {}
    words = ""
    for row in sorted(rows, key=lambda row: row.row):
        if points_elsewhere(row.wording) is Pointing.ABOVE:
            found[row.row] = words
        else:
            words = row.wording
    return found


def _with_more_faults(aside: SetAside, catalogue: Catalogue, logos: Shelf | None) -> SetAside:
    """What else is wrong with a row that could not be read, so that all of it is put right at once."""
    if aside.rest is None or not aside.rest.product:
        return aside
    try:
        resolve_row(aside.rest, catalogue, logos=logos)
    except RowError as fault:
        columns = tuple(dict.fromkeys((*aside.columns, *fault.columns)))
        return replace(aside, reason=f"{aside.reason} {fault}", columns=columns)
    return aside


def piece_files(made: Made, *, title: str) -> dict[str, bytes]:
    """The files of a piece by extension; without a solid only the drawing.

    STL and 3MF are patterns where the product has an allowance, and say so; drawings and GLB show the piece
    as it will be.

    Two colours are kept in 3MF and GLB; a piece that is cut from a flat sheet has what is cut, engraved and
    scored as DXF and SVG.
    """
    laid_out, product = made.laid_out, made.laid_out.inputs.product
    title = title.replace("\n", " / ")
    files = {
        _extension(part, laid_out): unrolled_file(
            part.area, part.layout, part.findings_here(made.findings), title=title
        )
        for part in laid_out.every_area
    }
    if made.solid is None:
        return files
    colours = {"body": product.body_colour, "lettering": product.lettering_colour}
    pattern, named = pattern_of(made.solid, product.allowance_percent), title
    if product.allowance_percent:
        named = f"{title} · pattern, {product.allowance_percent:g} % larger"
    files["stl"] = stl_bytes(pattern, title=named)
    files["3mf"] = three_mf_bytes(pattern, title=named, **colours)
    if product.lettering_colour:
        files["glb"] = glb_bytes(made.solid, title=title, **colours)
    if product.process.is_flat or isinstance(product.treatment, Scored):
        work = flat_work(fine_body(laid_out), [part.made for part in laid_out.every_area])
        if work is not None:
            files["cut.svg"] = flat_work_svg(work, title=title)
            files["dxf"] = flat_work_dxf(work)
    return files


def _extension(part: LaidOut, whole: LaidOut) -> str:
    """The drawing of a further area bears its name."""
    return "svg" if part is whole else f"{part.area.name.replace(' ', '-')}.svg"


def make_list(
    data: bytes,
    catalogue: Catalogue,
    out: Path,
    *,
    logos: Shelf = EMPTY_SHELF,
    jobs: int = 1,
    encoding: str = "",
    columns: Mapping[str, str] | None = None,
    accept_guess: bool = False,
    progress: Progress | None = None,
    make: Callable[[Inputs], Made] = make_piece,
) -> Summary:
    """Make every piece of a list and write its files and reports below `out`.

    Ready pieces go to `out/pieces`, held ones to `out/held`, so that nothing that failed a check
    reaches a machine by being in the folder. Files of an earlier run are cleared first.

    Parameters
    ----------
    encoding : see `kizami.wording.letters.ENCODINGS`; "" to tell it from the file
    columns : field code -> column name, for columns that are not called as usual
    accept_guess : letters and columns that are not sure are taken as they were guessed
    make : makes a piece from its inputs; a function of a module, as other processes call it too

    Raises
    ------
    OrderListError : the list as a whole can't be used, or its columns are not sure; nothing is written then
    """
    read = read_order_list(data, encoding=encoding, remembered=columns, is_product=catalogue.knows)
    if not accept_guess:
        read.confirm()
    lines, aside = resolve_rows(read, catalogue, logos=logos)
    lines = with_set_heights(lines)
    _clear_earlier(out)
    for folder in ("pieces", "held"):
        (out / folder).mkdir(parents=True, exist_ok=True)
    records: dict[int, list[dict[str, Any]]] = {}
    done = held = 0
    total = sum(line.row.quantity for line in lines)
    tell = progress or _tell_nobody
    tell(0, total, 0)
    for number, group in _made(lines, out, jobs, make):
        records[number] = group
        done += len(group)
        held += sum(1 for r in group if r["stage"] == "held")
        tell(done, total, held)
    pieces = [piece for number in range(len(lines)) for piece in records[number]]
    _write(out / "report.json", report_json(pieces, aside, notes=read.told))
    _write(out / "report.csv", report_csv(pieces, aside))
    return Summary(ready=done - held, held=held, set_aside=len(aside), notes=read.told)


def _tell_nobody(done: int, total: int, held: int) -> None:
    """Progress for a caller who does not want any."""


def _made(
    lines: Sequence[Line], out: Path, jobs: int, make: Callable[[Inputs], Made]
) -> Iterator[tuple[int, list[dict[str, Any]]]]:
    """The number of each line with the records of its pieces, as they are made."""
    work = partial(_make_line, out=out, make=make)
    if jobs > 1 and len(lines) > 1:
        yield from work_shared(lines, work, jobs=jobs)
        return
    for number in in_good_order(lines):
        yield number, work(lines[number])


def _make_line(line: Line, out: Path, make: Callable[[Inputs], Made]) -> list[dict[str, Any]]:
    """Make a line once and write it as often as it was ordered."""
    made = make(line.inputs)
    record = piece_record(line, made)
    folder = "pieces" if made.stage == "ready" else "held"
    # Named after the line, not the piece: every piece of it is the same file.
    files = piece_files(made, title=f"{line.row.order}-{line.row.line} {line.wording.text}")
    records = []
    for number in range(1, line.row.quantity + 1):
        name = piece_name(line.row.order, line.row.line, number)
        paths = [f"{folder}/{name}.{extension}" for extension in files]
        for path, content in zip(paths, files.values(), strict=True):
            _write(out / path, content)
        records.append({**record, "piece": number, "files": paths})
    return records


def _write(path: Path, content: bytes) -> None:
    """Whole or not at all: a stopped run leaves no half file."""
    part = path.with_name(path.name + ".part")
    part.write_bytes(content)
    part.replace(path)


def _clear_earlier(out: Path) -> None:
    report = out / "report.json"
    if not report.exists():
        return
    try:
        pieces = json.loads(report.read_bytes())["pieces"]
        names = [name for piece in pieces for name in piece["files"]]
    except (ValueError, KeyError, TypeError):
        return
    for name in names:
        path = out / name
        # Only what such a report can name: a file directly in one of our two folders.
        if path.parent in (out / "pieces", out / "held"):
            path.unlink(missing_ok=True)
    report.unlink()

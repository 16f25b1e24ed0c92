"""The command line: `kizami make`, `kizami forecast`, `kizami wall`, `kizami spacing`,
`kizami pack`, `kizami check-file`, `kizami score`."""

from __future__ import annotations

import argparse
import datetime as dt
import os
import sys
import time
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path, PurePosixPath
from typing import Any, TextIO

import kizami
from kizami.artwork.shelf import EMPTY_SHELF, MOST_FILES, Shelf, unpack_logos
from kizami.drawing.wall import wall_picture, wall_svg
from kizami.errors import (
    CatalogueError,
    KizamiError,
    OrderListError,
    RunError,
    SurfaceError,
    TypefaceError,
)
from kizami.formats.body_files import LARGEST_BODY_BYTES, bodies_in
from kizami.formats.toolpaths import toolpath_dxf, toolpath_svg
from kizami.lettering.optical import evenings
from kizami.lettering.shipped import shipped_typeface
from kizami.lettering.single_stroke import shipped_single_stroke, single_stroke_codes
from kizami.lettering.typeface import Style
from kizami.pieces.batch import make_list
from kizami.pieces.forecast import MOST_NAMES, forecast, shipped_names
from kizami.pieces.lines import nearest_codes
from kizami.pieces.walls import MOST_ON_WALL, wall_of
from kizami.products.product import Catalogue, Product
from kizami.products.product_file import read_catalogue
from kizami.remedies.by_itself import cured_by_itself, make_by_itself
from kizami.runs.machine import read_machines, shipped_machines
from kizami.standards import shipped_standards
from kizami.wording.columns import FIELDS
from kizami.wording.order_list import LARGEST_CELL_CHARACTERS, LARGEST_LIST_BYTES

__all__ = ["catalogue_at", "main"]

EXIT_READY, EXIT_UNUSABLE, EXIT_HELD = 0, 2, 3


def main(argv: Sequence[str] | None = None) -> int:
    """Run a command.

    Returns
    -------
    0 when all pieces are ready, 3 when some are held or set aside, 2 when the input can't be used
    """
    parser = argparse.ArgumentParser(prog="kizami", description="From order lists to checked pieces.")
    parser.add_argument("--version", action="version", version=f"kizami {kizami.__version__}")
    commands = parser.add_subparsers(dest="command", required=True)
    make = commands.add_parser("make", help="make every piece of an order list")
    make.add_argument("orders", type=Path, help="order list, CSV or XLSX")
    make.add_argument("--products", type=Path, required=True, help="products file, TOML")
    make.add_argument("--out", type=Path, required=True, help="folder for pieces and reports")
    make.add_argument("--logos", type=Path, help="folder or zip with the logo files that the list names")
    make.add_argument(
        "--columns", default="", help="columns that are not called as usual: wording=Gravur,order=Nr"
    )
    make.add_argument("--encoding", default="", help="of the list's letters, where that can't be told")
    make.add_argument(
        "--accept-guess", action="store_true", help="take letters and columns as guessed where not sure"
    )
    make.add_argument("--jobs", type=int, default=os.cpu_count() or 1, help="pieces made at once")
    make.set_defaults(run=_make)
    look = commands.add_parser("forecast", help="tell how many of many names fit a product")
    look.add_argument("product", help="its code")
    look.add_argument("--products", type=Path, required=True, help="products file, TOML")
    look.add_argument("--names", type=Path, help="names, one a line; without it a thousand that ship")
    look.add_argument("--size", default="", help="ring size; without it a usual one")
    look.add_argument("--jobs", type=int, default=os.cpu_count() or 1, help="names tried at once")
    look.set_defaults(run=_forecast)
    wall = commands.add_parser("wall", help="draw names on products side by side, at one scale")
    wall.add_argument("product", nargs="+", help="codes of one or more products")
    wall.add_argument("--products", type=Path, required=True, help="products file, TOML")
    wall.add_argument("--names", type=Path, help="names, one a line; without it some that ship")
    wall.add_argument("--typefaces", default="", help="set in each of these, by code: pacifico,sacramento")
    wall.add_argument("--columns", type=int, default=5, help="pieces side by side")
    wall.add_argument("--scale", type=float, default=10.0, help="of a picture, pixels a mm")
    wall.add_argument("--finished", action="store_true", help="as finished pieces instead of flat drawings")
    wall.add_argument("--jobs", type=int, default=os.cpu_count() or 1, help="pieces made at once")
    wall.add_argument("--out", type=Path, required=True, help="file to write, .svg or .png")
    wall.set_defaults(run=_wall)
    spacing = commands.add_parser(
        "spacing", help="tell the white between neighbouring letters, before and after"
    )
    spacing.add_argument("text", nargs="+", help="words whose neighbours are measured")
    spacing.add_argument("--typeface", required=True, help="code of a typeface")
    spacing.set_defaults(run=_spacing)
    _add_runs(commands)
    score = commands.add_parser("score", help="write single-stroke lettering as open paths")
    score.add_argument("text", help="one line of text")
    score.add_argument("--height", type=float, default=5.0, help="height of the capitals, mm")
    score.add_argument(
        "--tracking", type=float, default=0.0, help="added between letters, share of the height"
    )
    score.add_argument("--typeface", default=single_stroke_codes()[0], choices=single_stroke_codes())
    score.add_argument("--out", type=Path, required=True, help="file to write, .svg or .dxf")
    score.set_defaults(run=_score)
    args = parser.parse_args(argv)
    try:
        return int(args.run(args))
    except (KizamiError, OSError) as error:
        print(f"kizami: {error}", file=sys.stderr)
        return EXIT_UNUSABLE


def _add_runs(commands: Any) -> None:
    """The commands for runs and their files."""
    pack = commands.add_parser(
        "pack", help="lay ready pieces on plates, sheets or trees and release their files"
    )
    pack.add_argument("folder", type=Path, help="folder that “kizami make” wrote")
    pack.add_argument("--station", required=True, help="code of a station")
    pack.add_argument("--stations", type=Path, help="stations file, TOML; without it those that ship")
    pack.add_argument("--out", type=Path, required=True, help="folder that gets a folder for each run")
    pack.add_argument("--seconds", type=float, default=0.0, help="spent on looking for denser beds")
    pack.add_argument("--seed", type=int, default=0, help="of that search")
    pack.set_defaults(run=_pack)
    check = commands.add_parser("check-file", help="measure any STL, 3MF, SVG or DXF against a process")
    check.add_argument("file", type=Path)
    check.add_argument("--process", required=True, choices=sorted(shipped_standards().processes))
    check.add_argument("--unit", default="mm", help="of an STL: mm, cm, m, in, ft")
    check.set_defaults(run=_check_file)


def catalogue_at(path: Path) -> Catalogue:
    """A products file with the shapes that lie beside it."""
    folder = path.parent

    def read(name: str) -> bytes:
        inside = PurePosixPath(name)
        if inside.is_absolute() or ".." in inside.parts or not (folder / inside).is_file():
            raise SurfaceError(f"There is no file “{name}” beside {path.name}.")
        with (folder / inside).open("rb") as file:
            return file.read(LARGEST_BODY_BYTES + 1)

    return read_catalogue(path.read_text("utf-8"), bodies=bodies_in(read))


def _make(args: argparse.Namespace) -> int:
    catalogue = catalogue_at(args.products)
    # One byte more than can be used is enough to know that the list is too large.
    with args.orders.open("rb") as file:
        data = file.read(LARGEST_LIST_BYTES + 1)
    line = _ProgressLine(sys.stderr)
    summary = make_list(
        data, catalogue, args.out, logos=_logos(args.logos), jobs=args.jobs, encoding=args.encoding,
        columns=_columns(args.columns),
        accept_guess=args.accept_guess, progress=line.show,
        make=make_by_itself,
    )  # fmt: skip
    line.finish()
    for note in summary.notes:
        print(f"kizami: {note}", file=sys.stderr)
    print(
        f"{summary.ready} ready, {summary.held} held, {summary.set_aside} rows set aside; "
        f"see {args.out / 'report.csv'}"
    )
    return EXIT_HELD if summary.held or summary.set_aside else EXIT_READY


def _columns(text: str) -> dict[str, str]:
    """“wording=Gravur,order=Nr” as field codes and column names."""
    found = {}
    codes = [field.code for field in FIELDS]
    for part in filter(None, text.split(",")):
        code, _, name = part.partition("=")
        if code.strip() not in codes:
            raise OrderListError(f"There is no field “{code.strip()}”; fields are {', '.join(codes)}.")
        found[code.strip()] = name.strip()
    return found


def _forecast(args: argparse.Namespace) -> int:
    product = _product(args.product, catalogue_at(args.products))
    names = shipped_names() if args.names is None else _names(args.names)
    if not names or len(names) > MOST_NAMES:
        raise CatalogueError(f"A forecast takes from 1 to {MOST_NAMES} names, not {len(names)}.")
    line = _ProgressLine(sys.stderr, what="names", held="do not fit")
    found = forecast(
        product, names, size=args.size, cured=cured_by_itself, jobs=args.jobs, progress=line.show
    )
    line.finish()
    for misfit in found.misfits:
        print(f"{misfit.name}\t{misfit.code}\t{misfit.message}")
    for lost in found.never:
        print(f"{lost.letter} is never held, {lost.height_mm:.2f} mm high: {lost.message}")
    print(f"{found.share * 100:.1f} % of {found.count} names fit {product.code} with no hand work")
    return EXIT_READY if not found.misfits else EXIT_HELD


def _product(code: str, catalogue: Catalogue) -> Product:
    product = catalogue.find(code)
    if product is None:
        near = nearest_codes(code, catalogue)
        raise CatalogueError(f"There is no product “{code}”. Did you mean {' or '.join(near)}?")
    return product


def _names(path: Path) -> tuple[str, ...]:
    """Names, one a line."""
    return tuple(filter(None, (line.strip() for line in path.read_text("utf-8").splitlines())))


def _wall(args: argparse.Namespace) -> int:
    kind = args.out.suffix.lower()
    if kind not in (".svg", ".png"):
        raise CatalogueError(f"“{args.out.name}” must end in .svg or .png.")
    if not 1 <= args.columns <= _MOST_COLUMNS or not 1 <= args.scale <= _FINEST_PX_A_MM:
        raise CatalogueError(
            f"A wall has from 1 to {_MOST_COLUMNS} columns and from 1 to {_FINEST_PX_A_MM} pixels a mm."
        )
    catalogue = catalogue_at(args.products)
    products = [_product(code, catalogue) for code in args.product]
    faces = tuple(filter(None, args.typefaces.split(",")))
    for code in faces:
        shipped_typeface(code)
    if faces:
        products = [replace(product, typeface=code) for product in products for code in faces]
    names = shipped_names()[:_NAMES_ON_WALL] if args.names is None else _names(args.names)
    asked = [(product, name) for product in products for name in names]
    if not 1 <= len(asked) <= MOST_ON_WALL:
        raise CatalogueError(f"A wall takes from 1 to {MOST_ON_WALL} pieces, not {len(asked)}.")
    line = _ProgressLine(sys.stderr)
    pieces = wall_of(asked, jobs=args.jobs, px_a_mm=args.scale if args.finished else None, progress=line.show)
    line.finish()
    args.out.write_bytes(
        wall_svg(pieces, columns=args.columns, title=", ".join(args.product))
        if kind == ".svg"
        else wall_picture(pieces, columns=args.columns, px_a_mm=args.scale)
    )
    held = sum(bool(piece.held) for piece in pieces)
    print(f"{len(pieces) - held} ready, {held} held; see {args.out}")
    return EXIT_HELD if held else EXIT_READY


_MOST_COLUMNS, _FINEST_PX_A_MM, _NAMES_ON_WALL = 50, 100, 25


def _spacing(args: argparse.Namespace) -> int:
    typeface = shipped_typeface(args.typeface)
    print(f"{'pair':8}{'usual':>8}{'before':>8}{'after':>8}   white in heights of a capital")
    for text in args.text:
        for pair in evenings(text[:LARGEST_CELL_CHARACTERS], typeface, Style(evened=True)):
            letters = text[pair.left : pair.right + 1]
            print(f"{letters:8}{pair.usual:8.3f}{pair.white:8.3f}{pair.white + pair.move:8.3f}")
    return EXIT_READY


def _pack(args: argparse.Namespace) -> int:
    # What reads files back takes a second to load, which the other commands need not wait for.
    from kizami.runs.folder import pack_folder

    machines = (
        shipped_machines() if args.stations is None else read_machines(args.stations.read_text("utf-8"))
    )
    machine = machines.get(args.station)
    if machine is None:
        raise RunError(f"There is no station “{args.station}”; there are {', '.join(machines)}.")
    if not 0.0 <= args.seconds <= _LONGEST_SEARCH_S:
        raise RunError(f"A search takes from 0 to {_LONGEST_SEARCH_S} seconds.")
    line = _ProgressLine(sys.stderr)
    packed = pack_folder(
        args.folder, machine, args.out, seconds=args.seconds, seed=args.seed, today=dt.date.today(),
        step=lambda done, total, said, _=None: line.say(f"{said}, {done} of {total}"),
    )  # fmt: skip
    line.finish()
    for said in packed.told:
        print(said)
    for waits in packed.waiting:
        print(f"{waits.key} waits: {waits.why}")
    for code, released in packed.runs:
        for difference in released.differences:
            print(f"{code} is not released: {difference.file}, {difference.key}: {difference.message}")
    held = [code for code, released in packed.runs if not released.whole]
    print(f"{len(packed.runs) - len(held)} runs released, {len(held)} not, {len(packed.waiting)} pieces wait")
    return EXIT_HELD if held or packed.waiting else EXIT_READY


_LONGEST_SEARCH_S = 3600


def _check_file(args: argparse.Namespace) -> int:
    from kizami.runs.check_file import LARGEST_FILE_BYTES, measure_file

    with args.file.open("rb") as file:
        data = file.read(LARGEST_FILE_BYTES + 1)
    measures = measure_file(
        data, name=args.file.name, process=shipped_standards().processes[args.process], unit=args.unit
    )
    for measure in measures:
        print(f"{'holds' if measure.holds else 'FAILS'}\t{measure.code}\t{measure.said}")
    return EXIT_READY if all(measure.holds for measure in measures) else EXIT_HELD


def _score(args: argparse.Namespace) -> int:
    kind = args.out.suffix.lower()
    if kind not in (".svg", ".dxf"):
        raise TypefaceError(f"“{args.out.name}” must end in .svg or .dxf.")
    if not 0.5 <= args.height <= _HIGHEST_MM or not -0.2 <= args.tracking <= 1.0:
        raise TypefaceError(
            f"The height must be from 0.5 to {_HIGHEST_MM:g} mm, the spacing between letters from -0.2 to 1."
        )
    if len(args.text) > LARGEST_CELL_CHARACTERS:
        raise TypefaceError(f"The text may have {LARGEST_CELL_CHARACTERS} characters.")
    line = shipped_single_stroke(args.typeface).set_line(
        args.text, height_mm=args.height, tracking=args.tracking
    )
    if not line.strokes:
        raise TypefaceError("There is nothing to score in this text.")
    # A margin of one height all round, so that no machine starts on the very edge of its sheet.
    low_x, low_y, high_x, high_y = line.bounds
    width, height = high_x - low_x + 2 * args.height, high_y - low_y + 2 * args.height
    paths = [s.points for s in line.centred(width / 2.0, height / 2.0).strokes]
    args.out.write_bytes(
        toolpath_svg(paths, size_mm=(width, height), title=args.text)
        if kind == ".svg"
        else toolpath_dxf(paths)
    )
    print(f"{len(paths)} paths, {line.length_mm:.1f} mm to score; see {args.out}")
    return EXIT_READY


_HIGHEST_MM = 200.0


def _logos(path: Path | None) -> Shelf:
    if path is None:
        return EMPTY_SHELF
    if path.is_dir():
        found = sorted(p for p in path.iterdir() if p.is_file() and not p.name.startswith("."))
        return Shelf.of({p.name: p.read_bytes() for p in found[:MOST_FILES]})
    parcel = unpack_logos(path.read_bytes(), name=path.name)
    for name, why in parcel.refused.items():
        print(f"kizami: {name} {why}; it was left out", file=sys.stderr)
    return Shelf.of(parcel.files)


class _ProgressLine:
    """One line that rewrites itself on a terminal, and nothing elsewhere."""

    def __init__(self, stream: TextIO, *, what: str = "pieces", held: str = "held") -> None:
        self._stream, self._what, self._held = stream, what, held
        self._shown = stream.isatty()
        self._start = time.monotonic()

    def show(self, done: int, total: int, held: int) -> None:
        spent = time.monotonic() - self._start
        left = f", {spent / done * (total - done):.0f} s left" if done else ""
        self.say(f"{done} of {total} {self._what}, {held} {self._held}{left}")

    def say(self, said: str) -> None:
        if self._shown:
            self._stream.write(f"\r\x1b[K{said}")
            self._stream.flush()

    def finish(self) -> None:
        if self._shown:
            self._stream.write("\n")


if __name__ == "__main__":
    sys.exit(main())

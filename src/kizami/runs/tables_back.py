"""Maps and tables of a run read back."""

from __future__ import annotations

import csv
from collections.abc import Sequence
from pathlib import Path
from xml.etree.ElementTree import ParseError

import openpyxl
import svgelements as se
from defusedxml.ElementTree import parse

from kizami.runs.place_map import Marked
from kizami.runs.reading_back import Difference

__all__ = ["differences_csv", "differences_settings", "differences_svg_map", "differences_xlsx"]

_SVG = "{http://www.w3.org/2000/svg}"
_OFF_MM = 0.02


def differences_csv(path: Path, keys: Sequence[str]) -> list[Difference]:
    """Every piece has its row, in its order."""
    with path.open(encoding="utf-8-sig", newline="") as file:
        found = [row[1].lstrip("'") for row in csv.reader(file)][1:]
    return _listed(path, found, keys)


def differences_settings(path: Path, rows: Sequence[Sequence[object]]) -> list[Difference]:
    """Every operation has its row, with its settings and lengths."""
    with path.open(encoding="utf-8-sig", newline="") as file:
        found = list(csv.reader(file))[1:]
    if [[cell.lstrip("'") for cell in row] for row in found] == [
        ["" if cell is None else str(cell) for cell in row] for row in rows
    ]:
        return []
    return [Difference(file=path.name, key="", message="the settings in it are others")]


def differences_xlsx(path: Path, keys: Sequence[str]) -> list[Difference]:
    """Every piece has its row, in its order."""
    book = openpyxl.load_workbook(path, read_only=True)
    found = [str(row[1]) for row in book.worksheets[0].iter_rows(min_row=2, values_only=True)]
    book.close()
    return _listed(path, found, keys)


def _listed(path: Path, found: Sequence[str], keys: Sequence[str]) -> list[Difference]:
    if list(found) == list(keys):
        return []
    odd = sorted(set(found) ^ set(keys))
    return [Difference(file=path.name, key=odd[0] if odd else "", message="the pieces in it are others")]


def differences_svg_map(
    path: Path, marked: Sequence[Marked], size_mm: tuple[float, float]
) -> list[Difference]:
    """The map is in mm, and every piece lies where it is said to lie."""
    try:
        root = parse(path).getroot()
    except ParseError as error:
        return [Difference(file=path.name, key="", message=f"it can't be read: {error}")]
    said: list[Difference] = []
    width, depth = size_mm
    if (root.get("width"), root.get("height")) != (f"{width:g}mm", f"{depth:g}mm"):
        said.append(Difference(file=path.name, key="", message="it is not drawn in mm"))
    groups = {group.get("id"): group for group in root.iter(f"{_SVG}g")}
    for piece in marked:
        group = groups.get(piece.key)
        drawn = None if group is None else group.find(f"{_SVG}path")
        if drawn is None:
            said.append(Difference(file=path.name, key=piece.key, message="it is missing"))
            continue
        box = se.Path(drawn.get("d")).bbox()
        low_x, low_y, high_x, high_y = piece.outline.bounds
        expected = (low_x, depth - high_y, high_x, depth - low_y)
        off = max(abs(a - b) for a, b in zip(box, expected, strict=True))
        if off > _OFF_MM:
            said.append(Difference(file=path.name, key=piece.key, message=f"it lies {off:.2f} mm elsewhere"))
    return said

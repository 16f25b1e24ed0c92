"""The map on paper read back: drawn by another renderer and measured on the picture."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np
import numpy.typing as npt
import pypdfium2
import shapely
from PIL import Image, ImageDraw
from scipy import ndimage

from kizami.runs.place_map import BAR_MM, RIM_MM, Mark, Marked, map_page_mm, said_of
from kizami.runs.reading_back import Difference

__all__ = ["differences_pdf"]

_MM = 72.0 / 25.4
#: As fine as the picture is at most, px a mm, and as large, px.
_FINEST, _MOST_PX = 4.0, 2e6
#: Paper is white; the bed's own edge, pieces and words are darker than this.
_LIGHT = 250
#: About an edge may be either: half a drawn line, mm, and what a renderer makes of it, px.
_LINE_MM, _EDGE_PX = 0.1, 2.0


def differences_pdf(
    path: Path,
    marked: Sequence[Marked],
    marks: Sequence[Mark],
    size_mm: tuple[float, float],
    *,
    facts: int = 0,
    taken: shapely.Geometry | None = None,
) -> list[Difference]:
    """One page at 1:1: its bar measures what it says, what is dark is where pieces lie, every code is there.

    Parameters
    ----------
    marks : see `kizami.runs.place_map.marks_of`
    facts : lines under the title
    taken : what is used up of the bed, which is drawn too
    """
    said: list[Difference] = []

    def differs(key: str, message: str) -> None:
        said.append(Difference(file=path.name, key=key, message=message))

    try:
        document = pypdfium2.PdfDocument(path)
    except pypdfium2.PdfiumError as error:
        return [Difference(file=path.name, key="", message=f"it can't be read: {error}")]
    with document:
        if len(document) != 1:
            return [Difference(file=path.name, key="", message=f"it has {len(document)} pages instead of 1")]
        page = document[0]
        expected = map_page_mm(size_mm, facts)
        found = (page.get_width() / _MM, page.get_height() / _MM)
        if max(abs(a - b) for a, b in zip(expected, found, strict=True)) > 0.05:
            differs("", f"it is {found[0]:.1f} by {found[1]:.1f} mm instead of 1:1 on its paper")
            return said
        scale = min(_FINEST, math.sqrt(_MOST_PX / (expected[0] * expected[1])))
        picture = page.render(scale=scale / _MM, grayscale=True).to_pil()
        bar = _bar_mm(page, size_mm)
        if abs(bar - BAR_MM) > 0.4:
            differs("", f"its bar of {BAR_MM:g} mm measures {bar:.2f} mm")
        drawn = (
            [piece.outline for piece in marked] if taken is None else [*(p.outline for p in marked), taken]
        )
        if _strays(picture, scale, drawn, [shape for mark in marks for shape in mark.shapes], size_mm):
            differs("", "what is drawn in it lies elsewhere")
        _codes(page.get_textpage(), marked, differs)
    return said


#: The bar is looked at more closely, px a mm.
_CLOSE = 10.0


def _bar_mm(page: pypdfium2.PdfPage, size_mm: tuple[float, float]) -> float:
    """How long the bar is that stands above the bed's left end."""
    y = RIM_MM + size_mm[1] + 3.5
    left, bottom, right, top = RIM_MM - 1.0, y - 0.3, RIM_MM + BAR_MM + 1.0, y + 0.3
    width, height = page.get_size()
    beyond = (left * _MM, bottom * _MM, width - right * _MM, height - top * _MM)
    strip = np.asarray(page.render(scale=_CLOSE / _MM, crop=beyond, grayscale=True).to_pil())
    dark = np.flatnonzero((strip < _LIGHT).any(axis=0))
    return float(dark[-1] - dark[0] + 1) / _CLOSE if len(dark) else 0.0


def _strays(
    picture: Image.Image,
    scale: float,
    outlines: Sequence[shapely.Geometry],
    words: Sequence[shapely.Geometry],
    size_mm: tuple[float, float],
) -> bool:
    """Whether a piece is not painted, or paint lies where there is none; edges count for neither."""
    edge = math.ceil(_LINE_MM * scale + _EDGE_PX)
    expected = Image.new("L", picture.size, 0)
    pen = ImageDraw.Draw(expected)

    def on_picture(points: npt.NDArray[np.float64]) -> list[tuple[float, float]]:
        return [(x * scale, picture.height - y * scale) for x, y in (points + RIM_MM).tolist()]

    # What lies in the hole of another is smaller, and is painted after it.
    parts = [part for outline in outlines for part in shapely.get_parts(outline)]
    for part in sorted(parts, key=lambda part: -shapely.Polygon(part.exterior).area):
        for ring, paint in ((part.exterior, 255), *((hole, 0) for hole in part.interiors)):
            pen.polygon(on_picture(np.asarray(ring.coords)), fill=paint)
    painted = ndimage.minimum_filter(np.asarray(expected), size=2 * edge + 1) > 0
    for shape in words:
        # The words of a small piece are larger than it is.
        low_x, low_y, high_x, high_y = shape.bounds
        (left, bottom), (right, top) = on_picture(np.array([[low_x, low_y], [high_x, high_y]]))
        pen.rectangle((left, top, right, bottom), fill=255)
    # Beyond the bed stand its edge, the bar and the title.
    (left, bottom), (right, top) = on_picture(np.array([[0.0, 0.0], list(size_mm)]))
    for beyond in (
        (0, 0, picture.width, top + edge),
        (0, bottom - edge, picture.width, picture.height),
        (0, 0, left + edge, picture.height),
        (right - edge, 0, picture.width, picture.height),
    ):
        pen.rectangle(beyond, fill=255)
    may_be = ndimage.maximum_filter(np.asarray(expected), size=2 * edge + 1) > 0
    dark = np.asarray(picture) < _LIGHT
    return bool((painted & ~dark).any() or (dark & ~may_be).any())


def _codes(
    words: pypdfium2.PdfTextPage, marked: Sequence[Marked], differs: Callable[[str, str], None]
) -> None:
    for piece in marked:
        said = said_of(piece.key)
        if said is None:
            continue
        at = words.search(said, match_case=True).get_next()
        if at is None:
            differs(piece.key, "its code is missing")
            continue
        left, bottom, _, _ = words.get_charbox(at[0])
        low_x, low_y, high_x, high_y = (length + RIM_MM for length in piece.outline.bounds)
        if not (low_x <= left / _MM <= high_x and low_y <= bottom / _MM + 0.5 <= high_y + 1.0):
            differs(piece.key, "its code stands on another piece")

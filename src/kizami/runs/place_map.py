"""The place map: which piece lies where, to scale, on screen, as SVG, as PDF at 1:1 and as the small picture
in a file. One drawing for all of them."""

from __future__ import annotations

import io
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from xml.sax.saxutils import escape

import numpy as np
import shapely
from PIL import Image, ImageDraw
from reportlab import rl_config
from reportlab.pdfgen.canvas import Canvas

from kizami.drawing.paths import path_data
from kizami.runs.labels import label, label_width

__all__ = [
    "BAR_MM",
    "RIM_MM",
    "Mark",
    "Marked",
    "map_page_mm",
    "map_pdf",
    "map_png",
    "map_svg",
    "marks_of",
    "said_of",
]

# Seven-bit streams are of a time when mail carried files; they are a quarter larger and slow to write.
rl_config.useA85 = 0

_INK, _SLATE, _EDGE, _GROUND, _PIECE = "#16201c", "#4a5852", "#b3bfb9", "#f5f7f6", "#d3dad6"
#: Around the bed on paper, and above it for the words.
RIM_MM = 10.0
_HEAD_MM = 16.0
_MM = 72.0 / 25.4
_HIGHEST_MM, _LOWEST_MM = 3.2, 0.8
#: Length of the bar on paper that proves its scale.
BAR_MM = 50.0


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Marked:
    """A piece on a map.

    Attributes
    ----------
    key, wording : its code and what stands on it
    outline : where it lies, mm from the bed's lower left corner
    number : its place in the run, where that stands on the piece instead of its code; ""
    """

    key: str
    wording: str
    outline: shapely.Geometry
    number: str = ""


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Mark:
    """Where a piece's code and wording stand on it, as outlines.

    Attributes
    ----------
    key : whose
    shapes : of code and words
    """

    key: str
    shapes: tuple[shapely.MultiPolygon, ...]


def marks_of(marked: Sequence[Marked]) -> Iterator[Mark]:
    """Code above wording in the middle of each piece, as large as it has room for."""
    for piece in marked:
        at = shapely.maximum_inscribed_circle(piece.outline, tolerance=0.5) if piece.outline.area else None
        middle = piece.outline.representative_point() if at is None else at.centroid
        low_x, low_y, high_x, high_y = piece.outline.bounds
        room = 0.92 * 2.0 * min(middle.x - low_x, high_x - middle.x)
        high = min(_HIGHEST_MM, 0.3 * 2.0 * min(middle.y - low_y, high_y - middle.y))
        shapes = []
        code = f"{piece.number} {piece.key}".strip()
        for number, (text, share) in enumerate(((code, 1.0), (piece.wording, 0.8))):
            width = label_width(text, height_mm=1.0, bold=not number)
            if not width:
                continue
            height = max(_LOWEST_MM * 0.5, min(high * share, room / width))
            y = middle.y + 0.25 * high if not number else middle.y - 0.25 * high - height
            shapes.append(
                label(text, height_mm=height, x_mm=middle.x - width * height / 2.0, y_mm=y, bold=not number)
            )
        yield Mark(key=piece.key, shapes=tuple(shapes))


def map_svg(
    marked: Sequence[Marked],
    marks: Sequence[Mark],
    *,
    size_mm: tuple[float, float],
    title: str,
    taken: shapely.Geometry | None = None,
) -> bytes:
    """The map at true size in mm; words are drawn, and said once more as title of each piece.

    Parameters
    ----------
    marks : see `marks_of`
    """
    width, depth = size_mm
    top = depth
    drawn = [f'<path fill="{_GROUND}" stroke="{_INK}" stroke-width=".3" d="M0 0H{width:g}V{depth:g}H0Z"/>']
    if taken is not None and not taken.is_empty:
        drawn.append(f'<path fill="{_EDGE}" d="{path_data(taken, top_mm=top)}"/>')
    for piece, mark in zip(marked, marks, strict=True):
        words = "".join(path_data(shape, top_mm=top, decimals=2) for shape in mark.shapes)
        drawn.append(
            f'<g id="{escape(piece.key, _QUOTES)}"><title>{escape(f"{piece.key} {piece.wording}")}</title>'
            f'<path fill="{_PIECE}" fill-rule="evenodd" stroke="{_SLATE}" stroke-width=".2" '
            f'd="{path_data(piece.outline, top_mm=top)}"/><path fill="{_INK}" d="{words}"/></g>'
        )
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}mm" height="{depth:g}mm" '
        f'viewBox="0 0 {width:g} {depth:g}"><title>{escape(title)}</title>{"".join(drawn)}</svg>\n'
    ).encode()


_QUOTES = {'"': "&quot;"}


def map_page_mm(size_mm: tuple[float, float], facts: int) -> tuple[float, float]:
    """Width and height of the paper of a map with so many lines under its title."""
    return (max(size_mm[0], 120.0) + 2 * RIM_MM, size_mm[1] + 2 * RIM_MM + _HEAD_MM + 4.0 * facts)


def map_pdf(
    marked: Sequence[Marked],
    marks: Sequence[Mark],
    *,
    size_mm: tuple[float, float],
    title: str,
    facts: Sequence[str] = (),
    taken: shapely.Geometry | None = None,
) -> bytes:
    """The map on one sheet of paper at 1:1, with a bar of 50 mm to prove it. Holds no time.

    Parameters
    ----------
    marks : see `marks_of`
    facts : lines under the title
    """
    width, depth = size_mm
    out = io.BytesIO()
    page = map_page_mm(size_mm, len(facts))
    canvas = Canvas(out, pagesize=(page[0] * _MM, page[1] * _MM), invariant=1, pageCompression=1)
    canvas.setTitle(title)
    canvas.scale(_MM, _MM)
    canvas.setLineWidth(0.2)
    canvas.setLineJoin(1)
    y = page[1] - RIM_MM - 5.0
    _fill(canvas, label(title, height_mm=4.0, x_mm=RIM_MM, y_mm=y, bold=True), _INK)
    for fact in facts:
        y -= 4.0
        _fill(canvas, label(fact, height_mm=2.2, x_mm=RIM_MM, y_mm=y), _SLATE)
    y = RIM_MM + depth + 3.5
    canvas.setStrokeColor(_INK)
    canvas.lines(
        [
            (RIM_MM, y, RIM_MM + BAR_MM, y),
            (RIM_MM, y - 1, RIM_MM, y + 1),
            (RIM_MM + BAR_MM, y - 1, RIM_MM + BAR_MM, y + 1),
        ]
    )
    _fill(canvas, label("50 mm", height_mm=1.8, x_mm=RIM_MM + BAR_MM + 2, y_mm=y - 0.9), _SLATE)
    canvas.translate(RIM_MM, RIM_MM)
    canvas.rect(0, 0, width, depth)
    if taken is not None and not taken.is_empty:
        _fill(canvas, taken, _EDGE)
    for piece, mark in zip(marked, marks, strict=True):
        _fill(canvas, piece.outline, _PIECE, edge=_SLATE)
        for shape in mark.shapes:
            _fill(canvas, shape, _INK)
        _say(canvas, piece)
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def said_of(key: str) -> str | None:
    """A code as it stands in a map to be searched for; None where paper's own typefaces lack a letter."""
    try:
        key.encode("latin-1")
    except UnicodeEncodeError:
        return None
    return f"[{key}]"


def _say(canvas: Canvas, piece: Marked) -> None:
    """Its code as unseen text in its middle, for those who search a map, and for reading it back."""
    said = said_of(piece.key)
    if said is None:
        return
    middle = piece.outline.representative_point()
    words = canvas.beginText(middle.x, middle.y)
    words.setFont("Helvetica", _LOWEST_MM)
    words.setTextRenderMode(3)
    words.textOut(said)
    canvas.drawText(words)


def _fill(canvas: Canvas, shape: shapely.Geometry, colour: str, *, edge: str = "") -> None:
    path = canvas.beginPath()
    for part in shapely.get_parts(shape):
        if not isinstance(part, shapely.Polygon):
            continue
        for ring in (part.exterior, *part.interiors):
            points = np.asarray(ring.coords)[:-1].tolist()
            path.moveTo(*points[0])
            for point in points[1:]:
                path.lineTo(*point)
            path.close()
    canvas.setFillColor(colour)
    if edge:
        canvas.setStrokeColor(edge)
    canvas.drawPath(path, stroke=int(bool(edge)), fill=1, fillMode=0)


def map_png(marked: Sequence[Marked], *, size_mm: tuple[float, float], longest_px: int = 256) -> bytes:
    """The map as a small picture, without words."""
    scale = 4.0 * longest_px / max(size_mm)
    width, depth = (max(4, round(length * scale)) for length in size_mm)
    picture = Image.new("RGB", (width, depth), _GROUND)
    pen = ImageDraw.Draw(picture)
    for piece in marked:
        for part in shapely.get_parts(piece.outline):
            points = np.asarray(part.exterior.coords) * scale
            pen.polygon([(x, depth - y) for x, y in points.tolist()], fill=_SLATE)
    small = picture.resize((max(1, width // 4), max(1, depth // 4)), Image.Resampling.LANCZOS)
    out = io.BytesIO()
    small.save(out, "PNG", optimize=False)
    return out.getvalue()

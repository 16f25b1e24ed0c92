"""A wall: many pieces side by side at one scale, each with what was done to it, as SVG or as a picture."""

from __future__ import annotations

import base64
import io
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from xml.sax.saxutils import escape

import numpy as np
import shapely
from PIL import Image, ImageDraw, ImageFont

from kizami.drawing.paths import number, path_data
from kizami.lettering.shipped import shipped_typeface, shipped_typefaces

__all__ = ["MOST_PIXELS", "OnWall", "wall_picture", "wall_svg"]

#: Between pieces, and of the words below each, mm at the wall's own scale.
_BETWEEN_SHARE, _WORDS_SHARE = 0.06, 0.05
#: Lines of words below a piece: its name, what was done, what holds it.
_LINES = 3
#: Times finer that a picture is drawn before it is made small, so that its edges are smooth.
_FINER = 3
#: Of a picture, so that none takes more memory than a list.
MOST_PIXELS = 40_000_000
_INK, _GROUND, _EDGE, _VERMILION, _SLATE = "#1c2621", "#f4f6f4", "#9aa7a0", "#c0341d", "#55635b"


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class OnWall:
    """One piece on a wall.

    Attributes
    ----------
    name : what stands on it
    said : what was done to it, in a few words
    held : why it is held, or ""
    ground : what the lettering stands on or is cut from, unrolled mm; empty for a name piece
    letters : the lettering with all that ties it, unrolled mm
    seen : the finished piece as a picture with a clear background, or None; it then takes the drawing's place
    seen_mm : how wide and high that is
    """

    name: str
    said: str
    held: str
    ground: shapely.Geometry
    letters: shapely.Geometry
    seen: bytes | None = None
    seen_mm: tuple[float, float] = (0.0, 0.0)

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """Of all that is drawn, (0, 0, 0, 0) where there is nothing."""
        if self.seen is not None:
            return (0.0, 0.0, *self.seen_mm)
        both = [shape for shape in (self.ground, self.letters) if not shape.is_empty]
        if not both:
            return (0.0, 0.0, 0.0, 0.0)
        low_u, low_v, high_u, high_v = shapely.total_bounds(np.array(both, dtype=object)).tolist()
        return (low_u, low_v, high_u, high_v)


@dataclass(frozen=True, kw_only=True, slots=True)
class _Grid:
    """Cells of one size, mm."""

    columns: int
    rows: int
    width_mm: float
    height_mm: float
    between_mm: float
    text_mm: float

    @classmethod
    def of(cls, pieces: Sequence[OnWall], columns: int) -> _Grid:
        boxes = np.array([piece.bounds for piece in pieces]) if pieces else np.zeros((1, 4))
        width, height = (boxes[:, 2:] - boxes[:, :2]).max(axis=0).tolist()
        width = max(width, height, 1.0)
        text = _WORDS_SHARE * width
        between = _BETWEEN_SHARE * width
        return cls(
            columns=columns,
            rows=math.ceil(len(pieces) / columns),
            width_mm=width + between,
            height_mm=height + between + (_LINES + 0.5) * 1.25 * text,
            between_mm=between,
            text_mm=text,
        )

    def corner(self, place: int) -> tuple[float, float]:
        """Upper left corner of a cell, mm from the wall's own."""
        return place % self.columns * self.width_mm, place // self.columns * self.height_mm

    @property
    def size_mm(self) -> tuple[float, float]:
        return self.columns * self.width_mm, self.rows * self.height_mm

    def foot_mm(self) -> float:
        """From the top of a cell to the lowest line of its piece."""
        return self.height_mm - (_LINES + 0.5) * 1.25 * self.text_mm - self.between_mm / 2.0


def _lines(piece: OnWall, grid: _Grid) -> list[tuple[str, str]]:
    """Words below a piece, with their colours."""
    share = (grid.width_mm - grid.between_mm / 2.0) / grid.text_mm
    said = [(piece.name, _INK), (piece.said, _SLATE), (piece.held, _VERMILION)]
    return [(_cut_short(text, share), colour) for text, colour in said if text]


def _cut_short(text: str, share: float) -> str:
    """Words that stay within their cell, which is so many times as wide as they are high."""
    font = _font(_MEASURED_PX, _face_for(text))
    if font.getlength(text) <= share * _MEASURED_PX:
        return text
    low, high = 0, len(text)
    while high - low > 1:
        middle = (low + high) // 2
        if font.getlength(text[:middle] + "…") <= share * _MEASURED_PX:
            low = middle
        else:
            high = middle
    return text[:low] + "…"


_MEASURED_PX = 40


def wall_svg(pieces: Sequence[OnWall], *, columns: int, title: str) -> bytes:
    """The wall as an SVG file at true size.

    >>> b"<svg" in wall_svg([], columns=4, title="None")
    True
    """
    grid = _Grid.of(pieces, columns)
    width, height = grid.size_mm
    parts = []
    for place, piece in enumerate(pieces):
        left, top = grid.corner(place)
        low_u, _, high_u, _ = piece.bounds
        across = left + (grid.width_mm - (high_u - low_u)) / 2.0 - low_u
        foot = top + grid.foot_mm()
        words = "".join(
            f'<text x="{number(left + grid.width_mm / 2.0)}" '
            f'y="{number(foot + grid.between_mm / 2.0 + (line + 0.8) * 1.25 * grid.text_mm)}" '
            f'font-size="{number(grid.text_mm)}" fill="{colour}">{escape(text)}</text>'
            for line, (text, colour) in enumerate(_lines(piece, grid))
        )
        parts.append(f'<g transform="translate({number(across)} {number(foot)})">{_drawn(piece)}</g>{words}')
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{number(width)}mm" height="{number(height)}mm" '
        f'viewBox="0 0 {number(width)} {number(height)}" font-family="sans-serif" text-anchor="middle">'
        f"<title>{escape(title)}</title>{''.join(parts)}</svg>\n"
    ).encode()


def _drawn(piece: OnWall) -> str:
    """A piece in SVG, its foot at 0."""
    _, low_v, wide, high = piece.bounds
    if piece.seen is not None:
        data = base64.b64encode(piece.seen).decode()
        return (
            f'<image width="{number(wide)}" height="{number(high)}" y="{number(-high)}" '
            f'href="data:image/png;base64,{data}"/>'
        )
    return (
        f'<path fill="{_GROUND}" stroke="{_EDGE}" stroke-width=".15" '
        f'd="{path_data(piece.ground, top_mm=low_v)}"/>'
        f'<path fill="{_INK}" d="{path_data(piece.letters, top_mm=low_v)}"/>'
    )


def wall_picture(pieces: Sequence[OnWall], *, columns: int, px_a_mm: float) -> bytes:
    """The wall as a PNG; made smaller where it would have more than `MOST_PIXELS`."""
    grid = _Grid.of(pieces, columns)
    width, height = grid.size_mm
    scale = min(px_a_mm, math.sqrt(MOST_PIXELS / (_FINER**2 * max(width * height, 1e-9))))
    size = (max(1, round(width * scale)), max(1, round(height * scale)))
    picture = Image.new("RGB", size, "white")
    pen = ImageDraw.Draw(picture)
    size_px = max(6, round(grid.text_mm * scale))
    for place, piece in enumerate(pieces):
        left, top = (side * scale for side in grid.corner(place))
        cell = _cell(piece, grid, scale)
        picture.paste(cell, (round(left), round(top)))
        foot = top + (grid.foot_mm() + grid.between_mm / 2.0) * scale
        for line, (text, colour) in enumerate(_lines(piece, grid)):
            at = (left + grid.width_mm * scale / 2.0, foot + line * 1.25 * grid.text_mm * scale)
            pen.text(at, text, fill=colour, font=_font(size_px, _face_for(text)), anchor="ma")
    out = io.BytesIO()
    picture.save(out, "PNG", optimize=True)
    return out.getvalue()


def _cell(piece: OnWall, grid: _Grid, scale: float) -> Image.Image:
    """A cell without its words."""
    fine = scale * _FINER
    wide, high = max(1, round(grid.width_mm * scale)), max(1, round(grid.foot_mm() * scale))
    low_u, low_v, high_u, _ = piece.bounds
    origin = np.array(
        [(grid.width_mm - (high_u - low_u)) / 2.0 - low_u, grid.foot_mm() - grid.between_mm / 4.0 + low_v]
    )
    cell = Image.new("RGB", (wide, high), "white")
    if piece.seen is not None:
        size = tuple(max(1, round(side * scale)) for side in piece.seen_mm)
        with Image.open(io.BytesIO(piece.seen)) as seen:
            fitted = seen.resize((size[0], size[1]), Image.Resampling.LANCZOS)
        cell.paste(fitted, ((wide - size[0]) // 2, max(high - size[1], 0)), fitted)
        return cell
    for shape, colour in ((piece.ground, _GROUND), (piece.letters, _INK)):
        mask = Image.new("L", (wide * _FINER, high * _FINER), 0)
        pen = ImageDraw.Draw(mask)
        bodies = [b for b in shapely.get_parts(shape) if isinstance(b, shapely.Polygon) and not b.is_empty]
        # Bodies do not overlap: what stands inside of another's middle is smaller, and is drawn after it.
        for body in sorted(bodies, key=lambda body: -shapely.Polygon(body.exterior).area):
            for ring, ink in ((body.exterior, 255), *((hole, 0) for hole in body.interiors)):
                at = (np.asarray(ring.coords) * (1.0, -1.0) + origin) * fine
                pen.polygon([tuple(point) for point in at.tolist()], fill=ink)
        cell.paste(
            Image.new("RGB", (wide, high), colour), (0, 0), mask.resize((wide, high), Image.Resampling.BOX)
        )
    return cell


def _face_for(text: str) -> str:
    """Code of the typeface that words below a piece are set in: the plainest that has all their letters."""
    wanted = {ord(character) for character in text if not character.isspace()}
    return next((code for code in _FACES if wanted <= shipped_typeface(code).characters), _FACES[0])


#: By what they are tried in: most names need the first alone.
_FACES = ("noto-sans", "noto-kufi-arabic-bold", "noto-sans-hebrew-bold", "m-plus-rounded-bold")


@cache
def _font(size_px: int, code: str) -> ImageFont.FreeTypeFont:
    row = shipped_typefaces()[code]
    return ImageFont.truetype(
        io.BytesIO((files("kizami") / "data" / "typefaces" / row.file).read_bytes()), size_px
    )

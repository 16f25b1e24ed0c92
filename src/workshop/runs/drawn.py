"""A run as its page draws it: every piece once as a shape, placed as often as it is needed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import shapely

from kizami.drawing.paths import number, path_data
from workshop.runs.models import Placement, Run
from workshop.runs.rows import outline_on_map
from workshop.runs.taking_up import core_shape

__all__ = ["DrawnPiece", "DrawnRun", "drawn_run"]

_HIGHEST_MM, _SHARE = 4.0, 0.52
#: A letter of the page's typeface is about so wide, in its height.
_LETTER = 0.5


@dataclass(frozen=True, kw_only=True, slots=True)
class DrawnPiece:
    """A piece on the drawing, y down.

    Attributes
    ----------
    placement : with piece and line
    shape : name of its shape, "" for a tree, whose pieces are drawn one by one; x, y, turn : its place
    path : of a tree's piece
    text_x, text_y, code_mm, words_mm : where its words stand and how large
    """

    placement: Placement
    shape: str
    x: str
    y: str
    turn: str
    path: str
    text_x: str
    code_y: str
    words_y: str
    code_mm: str
    words_mm: str


@dataclass(frozen=True, kw_only=True, slots=True)
class DrawnRun:
    """All of it.

    Attributes
    ----------
    width, depth : of the map, mm
    shapes : name and path of each shape
    pieces : in their order
    ticks : along the rule, mm: place, and the number that stands there or ""
    """

    width: float
    depth: float
    shapes: tuple[tuple[str, str], ...]
    pieces: tuple[DrawnPiece, ...]
    ticks: tuple[tuple[float, str], ...]
    margin: float

    @property
    def view_box(self) -> str:
        """With room for the rule below."""
        return f"-1 -1 {self.width + 2:g} {self.depth + 6 + self.number_mm:g}"

    @property
    def number_mm(self) -> float:
        """Height of the numbers on the rule: as large on the screen for every bed."""
        return max(1.6, self.width / 70.0)

    @property
    def number_y(self) -> float:
        """Base line of the numbers, below the bed."""
        return 3.4 + 0.8 * self.number_mm

    @property
    def inner(self) -> tuple[float, float]:
        """Width and depth within the margin."""
        return (self.width - 2 * self.margin, self.depth - 2 * self.margin)


def drawn_run(run: Run, placements: Sequence[Placement]) -> DrawnRun:
    """The drawing of a run.

    Parameters
    ----------
    placements : with pieces, lines and shapes
    """
    width, depth = (float(x) for x in run.facts["map_mm"])
    shapes: dict[str, str] = {}
    pieces = []
    for row in placements:
        outline = outline_on_map(run, row)
        name = ""
        if not run.is_tree:
            name = f"s{row.shape_id[:12]}"
            if name not in shapes:
                shapes[name] = path_data(core_shape(row.shape).rough, top_mm=0.0, decimals=2)
        pieces.append(_drawn(row, outline, name, depth))
    step = 10 if width <= 300 else 20
    ticks = [(float(at), str(at) if at % (5 * step) == 0 else "") for at in range(0, int(width) + 1, step)]
    if run.is_tree:
        # Right round, by degrees from the notch.
        ticks = [(width * at / 360.0, f"{at}°" if at % 90 == 0 else "") for at in range(0, 361, 15)]
    return DrawnRun(
        width=width,
        depth=depth,
        shapes=tuple(shapes.items()),
        pieces=tuple(pieces),
        ticks=tuple(ticks),
        margin=0.0 if run.is_tree else float(run.machine["margin_mm"]),
    )


def _drawn(row: Placement, outline: shapely.Geometry, shape: str, depth: float) -> DrawnPiece:
    low_x, low_y, high_x, high_y = outline.bounds
    # In the middle of where it is widest.
    middle = shapely.Point(shapely.maximum_inscribed_circle(outline, tolerance=1.0).coords[0])
    words = row.piece.line.wording.replace("\n", " ")
    room_x = 2.0 * min(middle.x - low_x, high_x - middle.x) * 0.94
    high = min(_HIGHEST_MM, _SHARE * min(high_y - low_y, 2.0 * min(middle.y - low_y, high_y - middle.y)))
    code = min(high, room_x / (_LETTER * max(len(row.key), 1)))
    said = min(high * 0.9, room_x / (_LETTER * max(len(words), 1)))
    return DrawnPiece(
        placement=row,
        shape=shape,
        x=number(row.x_mm),
        y=number(depth - row.y_mm),
        turn=number(-row.turn_deg),
        path="" if shape else path_data(outline, top_mm=depth, decimals=2),
        text_x=number(middle.x),
        code_y=number(depth - middle.y - 0.15 * code),
        words_y=number(depth - middle.y + said),
        code_mm=number(code),
        words_mm=number(said),
    )

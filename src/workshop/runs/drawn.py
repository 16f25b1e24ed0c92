"""A run as its page draws it: every piece once as a shape, placed as often as it is needed."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import shapely
from django.utils.html import format_html
from django.utils.safestring import SafeString

from kizami.drawing.paths import number, path_data
from kizami.runs.laying import Shape
from workshop.drawing.templatetags.marks import in_one_line
from workshop.runs.models import Placement, Run, Standing
from workshop.runs.rows import outline_on_map
from workshop.runs.taking_up import core_shape

__all__ = ["DrawnPiece", "DrawnRun", "drawn_run"]

_HIGHEST_MM, _OF_WIDTH, _SHARE = 4.0, 0.0135, 0.52
#: So many times as high as it is wide, a piece has its words upright.
_UPRIGHT = 1.5
#: A letter of the page's typeface is about so wide, in its height.
_LETTER, _CAPITAL = 0.5, 0.62


@dataclass(frozen=True, kw_only=True, slots=True)
class DrawnPiece:
    """A piece as the page shows it: written here, as a template takes several times as long for hundreds.

    Attributes
    ----------
    placement : with piece and line
    markup : its drawing with code and wording
    row : of the table of all pieces
    """

    placement: Placement
    markup: SafeString
    row: SafeString


@dataclass(frozen=True, kw_only=True, slots=True)
class DrawnRun:
    """All of it.

    Attributes
    ----------
    width, depth : of the map, mm
    shapes : name and path of each shape
    pieces : in their order
    ticks : along the rule, mm: place, and the number that stands there or ""
    taken : path of what is no longer there of a used sheet
    """

    width: float
    depth: float
    shapes: tuple[tuple[str, str], ...]
    pieces: tuple[DrawnPiece, ...]
    ticks: tuple[tuple[float, str], ...]
    margin: float
    taken: str = ""

    @property
    def view_box(self) -> str:
        """With room for the rule below."""
        side = 1.2 * self.number_mm
        return f"{-side:g} -1 {self.width + 2 * side:g} {self.depth + 6 + self.number_mm:g}"

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
    drawn = _Shapes()
    pieces = []
    for row in placements:
        name = ""
        if not run.is_tree:
            name = f"s{row.shape_id[:12]}"
            if name not in shapes:
                shapes[name] = path_data(drawn.of(row).rough, top_mm=0.0, decimals=2)
        pieces.append(_drawn(run, row, drawn, name, depth))
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
        taken=path_data(run.remnant.shape, top_mm=depth, decimals=2) if run.remnant is not None else "",
    )


class _Shapes:
    """Shapes of a run, each looked at once however many pieces have it."""

    def __init__(self) -> None:
        self._shapes: dict[str, Shape] = {}
        self._middles: dict[str, tuple[float, float]] = {}

    def of(self, row: Placement) -> Shape:
        """As the core has it."""
        if row.shape_id not in self._shapes:
            self._shapes[row.shape_id] = core_shape(row.shape)
        return self._shapes[row.shape_id]

    def label(self, row: Placement) -> tuple[tuple[float, float], tuple[float, float, float, float]]:
        """Where it is widest, and its bounds, on the bed."""
        shape = self.of(row)
        if row.shape_id not in self._middles:
            self._middles[row.shape_id] = _widest(shape.rough)
        x, y = self._middles[row.shape_id]
        a = math.radians(row.turn_deg)
        middle = (
            row.x_mm + x * math.cos(a) - y * math.sin(a),
            row.y_mm + x * math.sin(a) + y * math.cos(a),
        )
        low_x, low_y, high_x, high_y = shape.turned(row.turn_deg).bounds
        return middle, (low_x + row.x_mm, low_y + row.y_mm, high_x + row.x_mm, high_y + row.y_mm)


def _widest(outline: shapely.Geometry) -> tuple[float, float]:
    """The middle of the largest circle within an outline; its own middle where that is nearly as wide."""
    radius = shapely.maximum_inscribed_circle(outline, tolerance=1.0)
    middle = outline.centroid
    if outline.contains(middle) and middle.distance(outline.boundary) >= 0.8 * radius.length:
        return (middle.x, middle.y)
    x, y = radius.coords[0]
    return (float(x), float(y))


def _drawn(run: Run, row: Placement, shapes: _Shapes, shape: str, depth: float) -> DrawnPiece:
    if shape:
        (x, y), (low_x, low_y, high_x, high_y) = shapes.label(row)
        path = ""
    else:
        outline = outline_on_map(run, row)
        (x, y), (low_x, low_y, high_x, high_y) = _widest(outline), outline.bounds
        path = path_data(outline, top_mm=depth, decimals=2)
    line = row.piece.line
    words = in_one_line(line.wording)
    across, along = 2.0 * min(x - low_x, high_x - x), 2.0 * min(y - low_y, high_y - y)
    # What is tall and narrow has its words upright.
    upright = along > _UPRIGHT * across
    if upright:
        across, along = along, across
    room = 0.94 * across
    # On a wide bed words are larger, so that they are as large on the screen.
    largest = max(_HIGHEST_MM, float(run.facts["map_mm"][0]) * _OF_WIDTH)
    high = min(largest, _SHARE * along)
    code = min(high, room / _width_of(row.key))
    said = min(high * 0.9, room / _width_of(words))
    if shape:
        at = f"translate({number(row.x_mm)} {number(depth - row.y_mm)}) rotate({number(-row.turn_deg)})"
        body = format_html('<use href="#{}" transform="{}"/>', shape, at)
    else:
        body = format_html('<path d="{}"/>', path)
    turn = format_html(' transform="rotate(-90 {} {})"', number(x), number(depth - y)) if upright else ""
    markup = format_html(
        '<g class="k-piece" data-piece="{}" tabindex="0" role="checkbox" aria-checked="false" '
        'aria-label="{}">{}<g{}><text class="k-code" x="{}" y="{}" font-size="{}">{}</text>'
        '<text class="k-words" x="{}" y="{}" font-size="{}">{}</text></g></g>',
        row.pk, f"{row.key} {words}{', rush' if line.rush else ''}", body, turn,
        number(x), number(depth - y - 0.15 * code), number(code), row.key,
        number(x), number(depth - y + said), number(said), words,
    )  # fmt: skip
    return DrawnPiece(placement=row, markup=markup, row=_table_row(run, row, words))


def _table_row(run: Run, row: Placement, words: str) -> SafeString:
    line = row.piece.line
    if run.is_tree:
        at = f"{int((row.hanging or {}).get('level', 0)) + 1}, {row.turn_deg:.0f}°"
    else:
        at = f"{row.x_mm:.1f}, {row.y_mm:.1f}, {row.turn_deg:.0f}°"
    due = ("rush " if line.rush else "") + (line.due.isoformat() if line.due else "")
    late = "text-brass font-semibold" if line.is_late else ""
    outcome = ""
    if run.standing == Standing.MADE:
        why = f": {row.why}" if row.why else ""
        outcome = format_html("<td>{}{}</td>", row.get_outcome_display(), why)
    return format_html(
        '<tr class="border-b border-hair" data-listed="{}"><td><input type="checkbox" name="piece" '
        'value="{}" aria-label="{}" data-choose-piece></td><td>{}</td><td class="whitespace-nowrap">{}</td>'
        '<td class="max-w-48 truncate"><a href="{}" dir="auto">{}</a></td><td>{}</td>'
        '<td class="whitespace-nowrap {}">{}</td><td class="text-right whitespace-nowrap">{}</td>{}</tr>',
        row.pk, row.pk, row.key, row.place, row.key, line.get_absolute_url(), words, line.product.code,
        late, due, at, outcome,
    )  # fmt: skip


def _width_of(words: str) -> float:
    """About how wide words are in the page's typeface, in their height."""
    return max(0.5, sum(_CAPITAL if letter.isupper() else _LETTER for letter in words))

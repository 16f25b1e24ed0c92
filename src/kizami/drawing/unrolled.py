"""The unrolled view: an area laid flat on its millimetre rule, with findings at their spots.

Colours come from the style sheet by class; a file on its own carries the same rules in itself.
"""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from xml.sax.saxutils import escape

import shapely

from kizami.blanks.area import Area
from kizami.checks.finding import Finding, said
from kizami.drawing.paths import number, path_data
from kizami.lettering.layout import Layout
from kizami.outlines.boxed import boxed
from kizami.surfaces.protocol import FloatArray

__all__ = ["STANDALONE_STYLE", "Drawing", "unrolled_drawing", "unrolled_file"]

STANDALONE_STYLE = (
    ".k-area{fill:#f4f6f4;stroke:#1c2621;stroke-width:.12}"
    ".k-keep-out{fill:#d5dbd7;stroke:#6b7a72;stroke-width:.1;stroke-dasharray:.6 .4}"
    ".k-standing{fill:#d5dbd7;stroke:#1c2621;stroke-width:.1}"
    ".k-letters{fill:#1c2621}"
    ".k-rule{stroke:#1c2621;stroke-width:.1}"
    ".k-number{fill:#1c2621;font-family:sans-serif}"
    ".k-spot{fill:none;stroke:#2f7d6b;stroke-width:.16}"
    ".k-leader{fill:none;stroke:#2f7d6b;stroke-width:.08}"
    ".k-label{fill:#1c2621;font-family:sans-serif;paint-order:stroke;stroke:#fff;stroke-width:.4em}"
    ".k-close .k-spot,.k-close .k-leader{stroke:#8a6412}"
    ".k-fails .k-spot,.k-fails .k-leader{stroke:#c0341d}"
    ".k-fails .k-label{fill:#c0341d}"
)


@dataclass(frozen=True, kw_only=True, slots=True)
class Drawing:
    """SVG content without its outer element.

    Attributes
    ----------
    view_box : x, y, width, height, mm
    content : SVG elements
    """

    view_box: tuple[float, float, float, float]
    content: str

    @property
    def view_box_text(self) -> str:
        """The viewBox attribute."""
        return " ".join(number(v) for v in self.view_box)


def unrolled_drawing(
    area: Area,
    layout: Layout,
    findings: Sequence[Finding],
    *,
    text_mm: float | None = None,
    grid: Sequence[FloatArray] = (),
) -> Drawing:
    """Draw an area with its wording, rule and measured spots.

    Parameters
    ----------
    grid : lines of a millimetre grid, (n, 2) unrolled mm each
    text_mm : height of the figures; by default a 75th of the drawing's width, which is a
        readable size when the drawing fills a screen
    """
    low_u, low_v, high_u, high_v = area.bounds
    width, height = high_u - low_u, high_v - low_v
    text = text_mm if text_mm is not None else width / 75.0
    foot = text * 2.6
    side = text * 0.8
    # Labels stand above all that is drawn, lettering that runs off the area among it.
    top = 0.0 if layout.is_empty else max(0.0, layout.ink_bounds[3] - high_v)
    marks = _marks(findings)
    flags = _flags(marks, text, low_u - side, high_u + side)
    head = top + (text * (1.85 + 1.45 * max(flag.shelf for flag in flags)) if flags else text * 0.6)
    parts = [
        f'<path class="k-area" d="{path_data(area.outline, top_mm=high_v)}"/>',
        *(
            f'<path class="k-keep-out" d="{path_data(k.outline, top_mm=high_v)}">'
            f"<title>{escape(k.name)}</title></path>"
            for k in area.spots
        ),
        _standing(area, high_v),
        _grid(grid, high_v),
        f'<path class="k-letters" d="{path_data(layout.outlines, top_mm=high_v)}"/>',
        _rule(low_u, high_u, height, text),
        _spots(marks, flags, layout.outlines, high_v=high_v, top=top, text=text),
    ]
    # Lettering that runs off the area must be seen doing so.
    if not layout.is_empty:
        ink_low, _, ink_high, _ = layout.ink_bounds
        side = max(side, low_u - ink_low + text, ink_high - high_u + text)
    return Drawing(
        view_box=(low_u - side, -head, width + 2 * side, head + height + foot), content="".join(parts)
    )


def unrolled_file(
    area: Area, layout: Layout, findings: Sequence[Finding], *, title: str, text_mm: float = 1.6
) -> bytes:
    """The unrolled view as an SVG file at true size: user unit, viewBox and page are all in mm."""
    drawing = unrolled_drawing(area, layout, findings, text_mm=text_mm)
    _, _, width, height = drawing.view_box
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{number(width)}mm" height="{number(height)}mm" '
        f'viewBox="{drawing.view_box_text}"><title>{escape(title)}</title>'
        f"<style>{STANDALONE_STYLE}</style>{drawing.content}</svg>\n"
    ).encode()


def _standing(area: Area, high_v: float) -> str:
    """What of the blank stands around letters that are cut with it."""
    if area.standing is None:
        return ""
    return f'<path class="k-standing" fill-rule="evenodd" d="{path_data(area.standing, top_mm=high_v)}"/>'


def _grid(lines: Sequence[FloatArray], high_v: float) -> str:
    """Each line by its ends, as grid lines are straight where they are unrolled."""
    ends = ((line[0], line[-1]) for line in lines)
    data = "".join(
        f"M{number(a[0])} {number(high_v - a[1])}L{number(b[0])} {number(high_v - b[1])}" for a, b in ends
    )
    return f'<path class="k-grid" d="{data}"/>' if data else ""


def _rule(low_u: float, high_u: float, base: float, text: float) -> str:
    """A steel rule along the lower edge: a tick a millimetre, longer at 5, numbered at 10."""
    top = base + text * 0.35
    ticks = []
    numbers = []
    for mm in range(int(high_u - low_u) + 1):
        length = text * (0.9 if mm % 10 == 0 else 0.6 if mm % 5 == 0 else 0.35)
        ticks.append(f"M{number(low_u + mm)} {number(top)}v{number(length)}")
        if mm % 10 == 0:
            numbers.append(
                f'<text class="k-number" x="{number(low_u + mm)}" y="{number(top + text * 1.8)}" '
                f'font-size="{number(text * 0.9)}" text-anchor="middle">{mm}</text>'
            )
    line = f"M{number(low_u)} {number(top)}H{number(high_u)}"
    return f'<path class="k-rule" fill="none" d="{line}{"".join(ticks)}"/>{"".join(numbers)}'


@dataclass(frozen=True, kw_only=True, slots=True)
class _Flag:
    """A label on a pole: the pole stands at x, the label runs from `start` to `end` on a shelf."""

    x: float
    start: float
    end: float
    shelf: int


#: More labels than this only hide each other.
_MOST_LABELS = 4


@dataclass(frozen=True, kw_only=True, slots=True)
class _Mark:
    """A finding with its place in the area and its words."""

    finding: Finding
    u: float
    v: float
    label: str


def _marks(findings: Sequence[Finding]) -> list[_Mark]:
    """Lengths with a place in the area: what fails first, the worst of every check before the next of any."""
    marks: list[tuple[int, int, _Mark]] = []
    seen: Counter[tuple[int, str]] = Counter()
    for f in findings:
        if f.spot is None or f.spot.u_mm is None or f.spot.v_mm is None or f.unit != "mm":
            continue
        label = f"{f.title.lower()} {said(f.measured, f.limit)} {f.unit}"
        kind = f.level.rank, f.code
        marks.append((f.level.rank, seen[kind], _Mark(finding=f, u=f.spot.u_mm, v=f.spot.v_mm, label=label)))
        seen[kind] += 1
    return [mark for _, _, mark in sorted(marks, key=lambda one: one[:2])[:_MOST_LABELS]]


def _flags(marks: Sequence[_Mark], text: float, left: float, right: float) -> list[_Flag]:
    """Labels of the first marks, as many as can stand without a pole through one of them."""
    # A sans serif is about half as wide as it is high.
    widths = [(len(mark.label) + 1) * text * 0.53 for mark in marks]
    xs = [mark.u for mark in marks]
    for count in range(len(marks), 0, -1):
        flags = _arrange(xs[:count], widths[:count], left, right)
        if not any(_crosses(one, other) for one, other in itertools.combinations(flags, 2)):
            return flags
    return []


def _spots(
    marks: Sequence[_Mark],
    flags: Sequence[_Flag],
    lettering: shapely.Geometry,
    *,
    high_v: float,
    top: float,
    text: float,
) -> str:
    """Rings round the spots, with poles up to labels; poles pass behind lettering and other rings."""
    parts = []
    radius = text * 0.55
    shown = list(zip(marks, flags, strict=False))
    rings = [shapely.Point(mark.u, mark.v).buffer(radius) for mark, _ in shown]
    for number_of, (mark, flag) in enumerate(shown):
        x, y = mark.u, high_v - mark.v
        base = -top - text * (0.75 + 1.45 * flag.shelf)
        pole = shapely.LineString([(x, mark.v + radius), (x, high_v - base - text * 0.35)])
        others = shapely.union_all([*rings[:number_of], *rings[number_of + 1 :]])
        # Of the lettering only what stands beside the pole can hide it.
        keeps = text * _BEHIND
        beside = boxed(lettering, pole, room=2.0 * keeps)
        free = pole.difference(beside.buffer(keeps)).difference(others)
        seen = [part for part in shapely.get_parts(free) if part.length > 0]
        data = "".join(
            f"M{number(x)} {number(high_v - part.bounds[1])}V{number(high_v - part.bounds[3])}"
            for part in seen
        )
        parts.append(
            f'<g class="k-{mark.finding.level.value}" data-code="{mark.finding.code}">'
            f'<path class="k-leader" d="{data}"/>'
            f'<circle class="k-spot" cx="{number(x)}" cy="{number(y)}" r="{number(radius)}"/>'
            f'<text class="k-label" x="{number((flag.start + flag.end) / 2)}" y="{number(base)}" '
            f'font-size="{number(text)}" text-anchor="middle">{escape(mark.label)}</text></g>'
        )
    return "".join(parts)


#: A pole ends so far from lettering that it passes behind, as a share of the height of figures.
_BEHIND = 0.12


def _arrange(xs: Sequence[float], widths: Sequence[float], left: float, right: float) -> list[_Flag]:
    """Place a few labels so that none overlaps another and no pole crosses one: the lowest stack wins.

    Label after label is put on the lowest shelf that is free, in every order and on every side of its pole. A
    way that can't become better than the best one is left, as is one that was met in another order.
    """
    stands = [
        stand
        for i, (x, w) in enumerate(zip(xs, widths, strict=True))
        for stand in _stands_of(i, x, w, left, right)
    ]
    # What two places are to each other is asked at every step of the search, and worked out once here.
    over = [[one.start < other.end and one.end > other.start for other in stands] for one in stands]
    pole_in = [[other.start < one.x < other.end for other in stands] for one in stands]
    least = 10.0 * _least_shelves(widths, right - left)
    best: frozenset[tuple[int, int]] = frozenset()
    best_cost = float("inf")
    met: set[frozenset[tuple[int, int]]] = set()

    def place(placed: frozenset[tuple[int, int]], waiting: frozenset[int], stack: float, lean: float) -> None:
        nonlocal best, best_cost
        met.add(placed)
        if not waiting:
            best, best_cost = placed, stack + lean
            return
        for at, stand in enumerate(stands):
            if stand.number not in waiting:
                continue
            taken = [shelf for other, shelf in placed if over[at][other]]
            shelf = 0
            while shelf in taken:
                shelf += 1
            higher, leaning = stack + 10.0 * shelf, lean + stand.lean
            for other, below in placed:
                if below != shelf and (pole_in[at][other] if below < shelf else pole_in[other][at]):
                    leaning += 100.0
            if max(higher, least) + leaning < best_cost:
                now = placed | {(at, shelf)}
                if now not in met:
                    place(now, waiting - {stand.number}, higher, leaning)

    place(frozenset(), frozenset(range(len(xs))), 0.0, 0.0)
    return [
        _Flag(x=stands[at].x, start=stands[at].start, end=stands[at].end, shelf=shelf)
        for at, shelf in sorted(best)
    ]


@dataclass(frozen=True, kw_only=True, slots=True)
class _Stand:
    """Where the label of a pole may stand; a lean of 1 reads a little worse than none."""

    number: int
    x: float
    start: float
    end: float
    lean: float


def _stands_of(number: int, x: float, width: float, left: float, right: float) -> list[_Stand]:
    """Centred first where that does, as a label to one side of its pole reads a little worse."""
    leans = {min(max(x - width * side, left), right - width): float(side != 0.5) for side in (0.0, 1.0, 0.5)}
    return [
        _Stand(number=number, x=x, start=start, end=start + width, lean=lean)
        for start, lean in reversed(leans.items())
    ]


def _least_shelves(widths: Sequence[float], room: float) -> int:
    """No fewer than this do the numbers of their shelves add up to, however they are placed."""
    a_shelf = sum(total <= room for total in itertools.accumulate(sorted(widths))) or 1
    return sum(i // a_shelf for i in range(len(widths)))


def _crosses(a: _Flag, b: _Flag) -> bool:
    """Whether the pole of the higher one runs through the label of the lower one."""
    low, high = (a, b) if a.shelf < b.shelf else (b, a)
    return low.shelf < high.shelf and low.start < high.x < low.end

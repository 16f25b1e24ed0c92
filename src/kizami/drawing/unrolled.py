"""The unrolled view: an area laid flat on its millimetre rule, with findings at their spots.

Colours come from the style sheet by class; a file on its own carries the same rules in itself.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from xml.sax.saxutils import escape

from kizami.blanks.area import Area
from kizami.checks.finding import Finding, said
from kizami.drawing.paths import number, path_data
from kizami.lettering.layout import Layout
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
    spots = [f for f in findings if f.spot is not None and f.spot.u_mm is not None and f.unit == "mm"]
    rows = 1 + (2 if spots else 0)
    head = text * 1.7 * rows if spots else text * 0.6
    foot = text * 2.6
    side = text * 0.8
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
        _spots(spots, high_v, text, low_u - side, high_u + side),
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
                f'font-size="{number(text * 0.85)}" text-anchor="middle">{mm}</text>'
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


def _spots(findings: Sequence[Finding], high_v: float, text: float, left: float, right: float) -> str:
    """Rings round the spots, with poles up to labels.

    The highest first: where there is no room but for a pole behind a lower label, the label covers it.
    """
    spots = [
        (f, f.spot.u_mm, high_v - f.spot.v_mm)
        for f in findings[:4]
        if f.spot is not None and f.spot.u_mm is not None and f.spot.v_mm is not None
    ]
    labels = [f"{f.title.lower()} {said(f.measured, f.limit)} {f.unit}" for f, _, _ in spots]
    # A sans serif is about half as wide as it is high.
    widths = [(len(label) + 1) * text * 0.53 for label in labels]
    flags = _arrange([x for _, x, _ in spots], widths, left, right)
    parts = []
    radius = text * 0.55
    shown = zip(spots, labels, flags, strict=True)
    for (finding, x, y), label, flag in sorted(shown, key=lambda one: -one[2].shelf):
        base = -text * (0.75 + 1.45 * flag.shelf)
        parts.append(
            f'<g class="k-{finding.level.value}" data-code="{finding.code}">'
            f'<path class="k-leader" d="M{number(x)} {number(y - radius)}V{number(base + text * 0.35)}"/>'
            f'<circle class="k-spot" cx="{number(x)}" cy="{number(y)}" r="{number(radius)}"/>'
            f'<text class="k-label" x="{number((flag.start + flag.end) / 2)}" y="{number(base)}" '
            f'font-size="{number(text)}" text-anchor="middle">{escape(label)}</text></g>'
        )
    return "".join(parts)


def _arrange(xs: Sequence[float], widths: Sequence[float], left: float, right: float) -> list[_Flag]:
    """Place a few labels so that none overlaps another and no pole crosses one: the lowest stack wins.

    There are at most four, so every order and side is tried.
    """
    best: list[_Flag] = []
    best_cost = float("inf")
    count = len(xs)
    for sides in itertools.product((0.5, 0.0, 1.0), repeat=count):
        starts = [min(max(x - w * s, left), right - w) for x, w, s in zip(xs, widths, sides, strict=True)]
        lean = sum(side != 0.5 for side in sides)
        for order in itertools.permutations(range(count)):
            flags: list[_Flag] = []
            for i in order:
                shelf = 0
                while not _free(starts[i], starts[i] + widths[i], shelf, flags):
                    shelf += 1
                flags.append(_Flag(x=xs[i], start=starts[i], end=starts[i] + widths[i], shelf=shelf))
            crossings = sum(a.start < b.x < a.end and a.shelf < b.shelf for a in flags for b in flags)
            cost = 100 * crossings + 10 * sum(flag.shelf for flag in flags) + lean
            if cost < best_cost:
                best = [flags[order.index(i)] for i in range(count)]
                best_cost = cost
            if best_cost <= lean:
                return best
    return best


def _free(start: float, end: float, shelf: int, placed: Iterable[_Flag]) -> bool:
    return all(flag.shelf != shelf or end <= flag.start or start >= flag.end for flag in placed)

"""The gauge: one thin line, the limit a tick on it, the measured value a point."""

from __future__ import annotations

from kizami.checks.finding import Sense
from kizami.drawing.paths import number
from kizami.drawing.unrolled import Drawing

__all__ = ["gauge_drawing"]

_WIDTH, _HEIGHT, _LINE = 160.0, 16.0, 8.0


def gauge_drawing(*, measured: float, limit: float, sense: Sense, level: str) -> Drawing:
    """Draw a measurement against its limit, in units of a screen pixel.

    A least value has its limit a third along, so that three times the limit is the right end; a
    most value two thirds along. Values beyond the ends are shown as an arrow there. The side that
    is not allowed is drawn as a notched line, so that colour is not needed to read it.

    >>> "k-gauge-point" in gauge_drawing(measured=1, limit=2, sense=Sense.AT_LEAST, level="fails").content
    True
    """
    share = {Sense.AT_LEAST: 1 / 3, Sense.AT_MOST: 2 / 3, Sense.EXACTLY: 1 / 2}[sense]
    # A limit of nothing still needs room on its far side.
    unit = abs(limit) / share if limit else max(abs(measured), 1.0) / (1 - share)
    tick = _WIDTH * share
    at = (measured / unit * _WIDTH) if limit else tick + measured / unit * _WIDTH
    shown = min(max(at, 5.0), _WIDTH - 5.0)
    if sense is Sense.EXACTLY:
        barred = [(0.0, tick - 6), (tick + 6, _WIDTH)]
    else:
        barred = [(0.0, tick)] if sense is Sense.AT_LEAST else [(tick, _WIDTH)]
    lines = "".join(
        f'<path class="k-gauge-barred" d="M{number(a)} {_LINE:g}H{number(b)}" stroke-dasharray="2 3"/>'
        for a, b in barred
    )
    if at == shown:
        point = f'<circle class="k-gauge-point" cx="{number(shown)}" cy="{_LINE:g}" r="4"/>'
    else:
        way = 1 if at > shown else -1
        x = number(shown)
        point = (
            f'<path class="k-gauge-point" d="M{x} {_LINE - 4:g}L{number(shown + 5 * way)} {_LINE:g}'
            f'L{x} {_LINE + 4:g}Z"/>'
        )
    content = (
        f'<g class="k-{level}"><path class="k-gauge-line" d="M0 {_LINE:g}H{_WIDTH:g}"/>{lines}'
        f'<path class="k-gauge-tick" d="M{number(tick)} 1V15"/>{point}</g>'
    )
    return Drawing(view_box=(0.0, 0.0, _WIDTH, _HEIGHT), content=content)

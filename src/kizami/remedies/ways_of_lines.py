"""Ways that set the wording in other lines: more of them, fewer, or the same number broken elsewhere."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.lettering.line_breaks import parts_on_lines, ways_to_break
from kizami.remedies.sight import NARROW, Sight, Way, way
from kizami.setting.values import MOST_LINES

__all__ = ["broken_otherwise", "fewer_lines", "more_lines"]

#: So many other places to break are tried, the likeliest to have room first.
_MOST_ELSEWHERE = 3
#: What a break elsewhere costs, and a line more or less, see `kizami.remedies.departing`.
_ELSEWHERE, _A_LINE = 0.15, 0.3


def more_lines(sight: Sight) -> Iterator[Way]:
    """Broken into more lines than the product allows, by its fit plan."""
    wording = sight.inputs.wording
    parts = sum(parts_on_lines(wording))
    if sight.setting.breaks or "\n" in wording:
        return
    for count in range(sight.product.most_lines + 1, min(MOST_LINES, parts) + 1):
        yield from way(_A_LINE * (count - 1), most_lines=count)


def broken_otherwise(sight: Sight) -> Iterator[Way]:
    """In as many lines, broken at other words; or in two, where the product's own break found no room."""
    now = _lines_now(sight)
    count = max(len(now), min(2, sight.product.most_lines))
    if not now or count < 2:
        return
    ways = _ways(sight, count)
    # In a rectangle nothing has more room than the break of the fit plan, which stands first.
    elsewhere = [parts for parts in ways if parts != (now if len(now) > 1 else ways[0])]
    for rank, parts in enumerate(elsewhere[:_MOST_ELSEWHERE]):
        yield from way(_ELSEWHERE + 0.03 * rank, breaks=_written(parts))


def fewer_lines(sight: Sight) -> Iterator[Way]:
    """In a line less, by itself and with narrower letters, which give it room."""
    now = _lines_now(sight)
    if len(now) < 2:
        return
    best = next(iter(_ways(sight, len(now) - 1)), None)
    if best is None:
        return
    yield from way(_ELSEWHERE + _A_LINE, breaks=_written(best))
    if sight.product.plan.narrowest > NARROW:
        yield from way(_ELSEWHERE + _A_LINE + 0.4, breaks=_written(best), narrowest=NARROW)


def _lines_now(sight: Sight) -> tuple[int, ...]:
    """How many parts of the wording stand on each line; none where a second wording stands with it."""
    now = parts_on_lines(sight.layout.text)
    return now if sum(now) == sum(parts_on_lines(sight.inputs.wording)) else ()


def _ways(sight: Sight, count: int) -> list[tuple[int, ...]]:
    style = sight.product.arrangement.style(sight.product.plan.tracking)
    return ways_to_break(sight.inputs.wording, count, sight.inputs.face, style)


def _written(parts: tuple[int, ...]) -> str:
    return " ".join(map(str, parts))

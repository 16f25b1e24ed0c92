"""A setting in words: what of one piece is set otherwise, and what one setting has that another has not."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from kizami.lettering.shipped import shipped_typefaces
from kizami.setting.setting import Setting
from kizami.setting.values import SHAPES

__all__ = ["told"]


def _length(name: str) -> Callable[[Any], str]:
    return lambda mm: f"{name} {mm:.2f} mm"


def _share(name: str, of: str) -> Callable[[Any], str]:
    return lambda share: f"{name} {share:+.3f} of {of}".replace("+0.000", "0")


def _weight(mm: float) -> str:
    if not mm:
        return "strokes as drawn"
    return f"strokes {abs(mm):.2f} mm {'thicker' if mm > 0 else 'thinner'} on each side"


def _typeface(code: str) -> str:
    known = shipped_typefaces().get(code)
    return f"set in {known.name if known else code}"


def _lines_of(parts: str) -> str:
    *some, last = parts.split()
    return f"broken into lines of {', '.join(some)} and {last} words" if some else "all on one line"


def _moved(ways: tuple[str, str]) -> Callable[[Any], str]:
    return lambda mm: f"moved by {abs(mm):.2f} mm {ways[0] if mm > 0 else ways[1]}"


_TIES = {
    "no": "loose parts stay loose",
    "bridges": "loose parts tied by bridges",
    "base bar": "loose parts tied by a base bar",
    "underline": "loose parts tied by an underline",
}
_GAPS = {
    "as drawn": "slits as drawn",
    "opened": "slits opened until they stay open",
    "closed": "slits filled that would fill in",
}
#: What each value says when it is set; "" leaves the telling to another one.
_SAID: dict[str, Callable[[Any], str]] = {
    "typeface": _typeface,
    "material": lambda code: f"material {code}",
    "finish": lambda code: f"finish {code}",
    "second": lambda text: f"second wording “{text}”",
    "height_mm": _length("at most"),
    "lowest_mm": _length("at least"),
    "tracking": _share("letters set with", "the height between them"),
    "tightest": _share("letters tightened no further than", "the height between them"),
    "narrowest": lambda share: f"letters condensed to {share * 100:.0f} % of their width",
    "most_lines": lambda count: "on one line" if count == 1 else f"broken into {count} lines at most",
    "breaks": _lines_of,
    "leading": lambda share: f"lines {share:.2f} × the height apart",
    "thicken_by_mm": _weight,
    "one_piece": lambda tie: _TIES.get(tie, tie),
    "depth_mm": _length("deep or proud by"),
    "without_second": lambda _: "without the second wording",
    "gaps": lambda how: _GAPS.get(how, how),
    "treatment": lambda kind: f"{kind} instead",
    "along_mm": _moved(("along", "back along")),
    "across_mm": _moved(("up", "down")),
    "turned_deg": lambda deg: f"turned by {abs(deg):.1f}° {'to the left' if deg > 0 else 'to the right'}",
    "upside_down": lambda _: "the other way up",
    "times": lambda count: "set once" if count == 1 else f"set {count} times around",
    "bridge_mm": _length("bridges and bars of"),
    "overlap_mm": _length("letters drawn into each other by up to"),
    "capitals": lambda _: "set in capitals",
    "word_space": _share("words set with", "the height more between them"),
    "direction": lambda way: f"read from {way}",
    "size": lambda text: f"size {text}",
    "body_mm": _length("blank as thick as"),
    "band_mm": _length("band as wide as"),
}
#: Said where a value that was set is so no more.
_GONE = {
    "typeface": "typeface", "material": "material", "finish": "finish", "height_mm": "height",
    "lowest_mm": "lowest height", "tracking": "spacing", "tightest": "tightest spacing",
    "narrowest": "width of the letters", "most_lines": "lines", "breaks": "words on each line",
    "leading": "distance of the lines",
    "thicken_by_mm": "strokes", "one_piece": "loose parts", "depth_mm": "depth", "gaps": "slits",
    "treatment": "treatment", "along_mm": "place along", "across_mm": "place across",
    "turned_deg": "turn", "times": "times around", "bridge_mm": "bridges", "overlap_mm": "overlap",
    "word_space": "space between words", "direction": "direction", "body_mm": "thickness of the blank",
    "band_mm": "width of the band",
}  # fmt: skip
_GONE_FLAGS = {
    "without_second": "with the second wording",
    "upside_down": "the right way up",
    "capitals": "in the letters as written",
    "second": "second wording as received",
    "size": "size as received",
}


def told(before: Setting, after: Setting) -> list[str]:
    """What differs, a few words each, in the order in which a bench would say it.

    >>> told(Setting(), Setting(height_mm=4.5, gaps="opened"))
    ['at most 4.50 mm', 'slits opened until they stay open']
    >>> told(Setting(), Setting(height_mm=4.5, lowest_mm=4.5))
    ['set 4.50 mm high']
    >>> told(Setting(), Setting(further=(("back", Setting(height_mm=4.5)),)))
    ['on the back at most 4.50 mm']
    >>> told(Setting(height_mm=4.5), Setting())
    ['height: the product’s own']
    """
    said = []
    at_once = after.height_mm is not None and after.height_mm == after.lowest_mm != before.lowest_mm
    if at_once:
        said.append(f"set {after.height_mm:.2f} mm high")
    for name, say in _SAID.items():
        old, new = getattr(before, name), getattr(after, name)
        if old == new or (at_once and name in ("height_mm", "lowest_mm")):
            continue
        if new in (None, "", False):
            said.append(_GONE_FLAGS.get(name) or f"{_GONE[name]}: the product’s own")
        else:
            said.append(say(new))
    if (before.shape, before.shape_amount) != (after.shape, after.shape_amount):
        said.append(_shape(after))
    for area in sorted({area for area, _ in (*before.further, *after.further)}):
        said += [f"on the {area} {words}" for words in told(before.there(area), after.there(area))]
    return said


def _shape(setting: Setting) -> str:
    shape = setting.shape
    measure, _, unit = (SHAPES[shape][0] if shape in SHAPES else "").partition(", ")
    amount = setting.shape_amount
    how = f", {measure} {amount:g} {unit}" if measure and amount is not None else ""
    return f"shape: {shape or 'the product’s own'}{how}"

"""Values as people type them: decimal comma or point, fractions, millimetres, inches, points, percent."""

from __future__ import annotations

import re

from kizami.errors import AdjustmentError

__all__ = ["typed_number", "unit_of"]

_FORM = re.compile(
    r"(?P<sign>[+\-−]?)\s*"
    r"(?:(?:(?P<whole>\d{1,6})\s+)?(?P<over>\d{1,6})\s*/\s*(?P<under>\d{1,6})"
    r"|(?P<number>\d{1,6}(?:[.,]\d{0,9})?|[.,]\d{1,9}))"
    r"\s*(?P<unit>[^\d\s.,/+\-−]*)"
)
#: One of each in the unit that a value is kept in: an inch is 25.4 mm, a point 1/72 of one, exactly.
_UNITS: dict[str, dict[str, float]] = {
    "mm": {
        "": 1.0, "mm": 1.0, "cm": 10.0, "in": 25.4, "inch": 25.4, "inches": 25.4, '"': 25.4, "″": 25.4,
        "”": 25.4, "''": 25.4, "pt": 25.4 / 72.0, "µm": 1e-3, "thou": 0.0254,
    },
    "°": {"": 1.0, "°": 1.0, "deg": 1.0, "º": 1.0},
    "share": {"": 1.0, "×": 1.0, "x": 1.0, "%": 0.01},
    "": {"": 1.0, "mm": 1.0, "%": 1.0},
}  # fmt: skip
_LONGEST_SAID = 20


def unit_of(name: str) -> str:
    """What a value of this name is kept in: “mm”, “°”, “share” of something, or "" where it says so itself.

    >>> unit_of("height_mm"), unit_of("turned_deg"), unit_of("tracking"), unit_of("shape_amount")
    ('mm', '°', 'share', '')
    """
    if name == "shape_amount":
        return ""
    return "mm" if name.endswith("_mm") else "°" if name.endswith("_deg") else "share"


def typed_number(text: str, unit: str, *, low: float, high: float, label: str = "") -> float | None:
    """A number that somebody typed, in the unit that it is kept in; None for an empty text.

    Parameters
    ----------
    unit : see `unit_of`
    low, high : bounds in that unit
    label : the value's name on screens, for what is said when it is refused

    Raises
    ------
    AdjustmentError : it is no number, has another unit or is out of bounds; says how it was read

    >>> typed_number("0,18 in", "mm", low=0, high=100), typed_number('1/8"', "mm", low=0, high=100)
    (4.572, 3.175)
    >>> typed_number("83 %", "share", low=0, high=1), typed_number(" ", "mm", low=0, high=1)
    (0.83, None)
    """
    text = text.strip()
    if not text:
        return None
    shown = text[:_LONGEST_SAID]
    named = f"{label}: " if label else ""
    found = _FORM.fullmatch(text)
    if found is None:
        raise AdjustmentError(f"{named}“{shown}” is not a number.")
    known = _UNITS[unit]
    factor = known.get(found["unit"].casefold())
    if factor is None:
        others = ", ".join(sign for sign in known if sign)
        raise AdjustmentError(
            f"{named}“{shown}”: the unit “{found['unit'][:8]}” is not known here; {others}."
        )
    if found["over"] is not None:
        under = int(found["under"])
        if not under:
            raise AdjustmentError(f"{named}“{shown}” is not a number.")
        value = int(found["whole"] or 0) + int(found["over"]) / under
    else:
        value = float(found["number"].replace(",", "."))
    value = round((-value if found["sign"] in ("-", "−") else value) * factor, 6)
    if not low <= value <= high:
        said = unit if unit in ("mm", "°") else ""
        read = f", read as {value:g} {said}," if factor != 1.0 else ""
        raise AdjustmentError(f"{named}{shown}{read} must be from {low:g} to {high:g} {said}".rstrip() + ".")
    return value

"""Coordinates of a place: read in the forms that people send, written in one.

ISO 6709 (from memory of it) gives latitude first, north and east positive, 90 and 180 degrees at
most. What could be read in two ways is left to a person.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

__all__ = ["CoordinatesReading", "Position", "read_coordinates", "write_coordinates"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Position:
    """Degrees; north and east positive."""

    latitude_deg: float
    longitude_deg: float


@dataclass(frozen=True, kw_only=True, slots=True)
class CoordinatesReading:
    """A position, or the question that keeps it from being one."""

    position: Position | None
    question: str = ""


_NUMBER = r"\d{1,3}(?:[.,]\d+)?"
_PART = re.compile(
    rf"""(?P<before>[NSEWO])?\s*(?P<sign>[-+−])?\s*
         (?P<deg>{_NUMBER})\s*[°º]?\s*
         (?:(?P<min>\d{{1,2}}(?:[.,]\d+)?)\s*['′’]\s*)?
         (?:(?P<sec>\d{{1,2}}(?:[.,]\d+)?)\s*(?:["″”]|''|’’)\s*)?
         (?P<after>[NSEWO])?""",
    re.X | re.I,
)


def read_coordinates(text: str) -> CoordinatesReading:
    """Read a position.

    >>> read_coordinates("54.7753 N, 1.5849 W").position
    Position(latitude_deg=54.7753, longitude_deg=-1.5849)
    >>> read_coordinates("35°41′22″N 139°41′30″E").position
    Position(latitude_deg=35.689444, longitude_deg=139.691667)
    >>> read_coordinates("").position is None
    True
    """
    parts = [match for match in _PART.finditer(_points(text)) if match["deg"]]
    left = _PART.sub("", _points(text)).strip(" ,;/|·")
    if len(parts) != 2 or left:
        return CoordinatesReading(
            position=None,
            question=f"“{text[:40]}” can't be read as a place; write it as 54.7753 N, 1.5849 W.",
        )
    values, axes = zip(*(_value(part) for part in parts), strict=True)
    latitude, longitude = values
    if axes == ("E", "N"):
        latitude, longitude = longitude, latitude
    elif axes not in (("N", "E"), ("", "")):
        return CoordinatesReading(
            position=None, question=f"“{text[:40]}” does not say which part is north or south."
        )
    if abs(latitude) > 90 or abs(longitude) > 180:
        return CoordinatesReading(
            position=None,
            question=f"“{text[:40]}” lies outside the globe: 90 degrees north or south, 180 east or west.",
        )
    return CoordinatesReading(position=Position(latitude_deg=latitude, longitude_deg=longitude))


def _points(text: str) -> str:
    """Decimal commas become points where a comma stands between digits without a space."""
    return re.sub(r"(?<=\d),(?=\d{2,}(?:\D|$))", ".", text)


def _value(part: re.Match[str]) -> tuple[float, str]:
    def number(name: str) -> float:
        return float((part[name] or "0").replace(",", "."))

    value = number("deg") + number("min") / 60.0 + number("sec") / 3600.0
    side = (part["after"] or part["before"] or "").upper()
    if part["sign"] in ("-", "−") or side in ("S", "W"):
        value = -value
    return round(value, 6), {"N": "N", "S": "N", "E": "E", "O": "E", "W": "E"}.get(side, "")


def write_coordinates(position: Position, *, decimals: int | None = 4) -> str:
    """Write a position in degrees, or with None in degrees, minutes and seconds.

    >>> write_coordinates(Position(latitude_deg=54.77532, longitude_deg=-1.5849))
    '54.7753° N 1.5849° W'
    >>> write_coordinates(Position(latitude_deg=35.689444, longitude_deg=139.691667), decimals=None)
    '35°41′22″N 139°41′30″E'
    """
    sides = ("N" if position.latitude_deg >= 0 else "S", "E" if position.longitude_deg >= 0 else "W")
    values = (abs(position.latitude_deg), abs(position.longitude_deg))
    if decimals is not None:
        return " ".join(f"{value:.{decimals}f}° {side}" for value, side in zip(values, sides, strict=True))
    return " ".join(f"{_sexagesimal(value)}{side}" for value, side in zip(values, sides, strict=True))


def _sexagesimal(value: float) -> str:
    seconds = round(value * 3600)
    return f"{seconds // 3600}°{seconds % 3600 // 60:02d}′{seconds % 60:02d}″"

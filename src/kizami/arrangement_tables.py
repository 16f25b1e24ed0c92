"""Arrangements from the tables of products files and of the bench: keys known, numbers in bounds."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import fields
from typing import Any

import shapely

from kizami.errors import CatalogueError
from kizami.lettering.arrangement import Arrangement, LogoPlace, MonogramForm
from kizami.lettering.round_about import ONE_TURN, OneTurn, Repeated, RoundAbout, Sector, Spread
from kizami.lettering.shapes import STRAIGHT, Arc, Arched, Filled, LetterShape, Path, Straight
from kizami.table_values import enum_of

__all__ = ["arrangement_from_table"]

_ARRANGEMENT_KEYS = {
    "monogram", "logo", "features", "language", "vertical", "shape", "turn", "level", "upside_down",
    "mirrored",
}  # fmt: skip
_SHAPES: dict[str, type[LetterShape]] = {
    "straight": Straight,
    "arc": Arc,
    "path": Path,
    "arched": Arched,
    "filled": Filled,
}
_TURNS: dict[str, type[RoundAbout]] = {
    "once": OneTurn,
    "spread": Spread,
    "repeated": Repeated,
    "sector": Sector,
}


def arrangement_from_table(table: object, *, where: str) -> Arrangement:
    """An arrangement from its table.

    Raises
    ------
    CatalogueError : a key is unknown or out of bounds; begins with `where`
    """
    if not isinstance(table, dict):
        raise CatalogueError(f"{where} must be a table.")
    unknown = set(table) - _ARRANGEMENT_KEYS
    if unknown:
        raise CatalogueError(f"{where}: unknown {', '.join(sorted(unknown))}.")
    features = table.get("features", {})
    if not isinstance(features, dict) or not all(
        re.fullmatch(r"[a-z0-9]{4}", tag) and isinstance(value, int) for tag, value in features.items()
    ):
        raise CatalogueError(f"{where}: features must be a table of four-letter tags with numbers.")
    language = str(table.get("language", ""))
    if language and not re.fullmatch(r"[A-Za-z]{2,3}(-[A-Za-z0-9]{2,8})*", language):
        raise CatalogueError(f"{where}: language must be a tag such as “tr” or “ja”.")
    return Arrangement(
        monogram=enum_of(MonogramForm, table.get("monogram", "in line"), where=f"{where}: monogram"),
        logo=enum_of(LogoPlace, table.get("logo", "alone"), where=f"{where}: logo"),
        features=tuple(sorted((tag, int(value)) for tag, value in features.items())),
        language=language,
        vertical=bool(table.get("vertical", False)),
        level=bool(table.get("level", True)),
        upside_down=bool(table.get("upside_down", False)),
        mirrored=bool(table.get("mirrored", False)),
        shape=_one_of(_SHAPES, table.get("shape"), STRAIGHT, f"{where}: shape"),
        turn=_one_of(_TURNS, table.get("turn"), ONE_TURN, f"{where}: turn"),
    )


#: Bounds of the numbers of shapes and turns; words and flags have none.
_VALUE_BOUNDS: dict[str, tuple[float, float]] = {
    "radius_mm": (0, 1000),
    "angle_deg": (0, 360),
    "direction_deg": (-360, 360),
    "rise": (-0.9, 3),
    "width": (0.3, 4),
    "most_stretch": (1, 8),
    "times": (2, 24),
}


def _one_of(kinds: Mapping[str, Any], table: object, usual: Any, where: str) -> Any:
    if table is None:
        return usual
    if not isinstance(table, dict) or table.get("kind") not in kinds:
        raise CatalogueError(f"{where}: kind must be one of {', '.join(kinds)}.")
    kind = kinds[table["kind"]]
    values = {key: value for key, value in table.items() if key != "kind"}
    if kind is Path:
        return Path(points=_points(values, where))
    points = _points({"points": values.pop("points")}, where) if "points" in values else ()
    known = {f.name for f in fields(kind)} - {"kind"}
    unknown = set(values) - known
    if unknown:
        raise CatalogueError(f"{where}: unknown {', '.join(sorted(unknown))}.")
    for key, value in values.items():
        bounds = _VALUE_BOUNDS.get(key)
        if bounds is None:
            if not isinstance(value, bool | str):
                raise CatalogueError(f"{where}: {key} must be a word or true or false.")
        elif (
            isinstance(value, bool)
            or not isinstance(value, int | float)
            or not bounds[0] <= value <= bounds[1]
        ):
            raise CatalogueError(f"{where}: {key} must be a number from {bounds[0]:g} to {bounds[1]:g}.")
    if points:
        values["points"] = points
    try:
        made = kind(**values)
    except TypeError as error:
        raise CatalogueError(f"{where}: {', '.join(sorted(known - set(values)))} is missing.") from error
    if isinstance(made, Arc) and bool(made.radius_mm) == bool(made.angle_deg):
        raise CatalogueError(f"{where}: an arc needs either radius_mm or angle_deg.")
    if isinstance(made, Filled):
        _check_filled(made, where)
    return made


def _check_filled(filled: Filled, where: str) -> None:
    if filled.outline not in ("round", "oval", "diamond", "heart", "free"):
        raise CatalogueError(f"{where}: outline must be round, oval, diamond, heart or free.")
    if (filled.outline == "free") != bool(filled.points):
        raise CatalogueError(f"{where}: points belong to an outline that is free, and it needs them.")
    if filled.points and not shapely.Polygon([*filled.points, filled.points[0]]).buffer(0).area > 0:
        raise CatalogueError(f"{where}: the points of the outline enclose nothing.")


def _points(values: Mapping[str, Any], where: str) -> tuple[tuple[float, float], ...]:
    points = values.get("points")
    if set(values) != {"points"} or not isinstance(points, list) or not 2 <= len(points) <= 2000:
        raise CatalogueError(f"{where}: points must be 2 to 2000 pairs of numbers.")
    for point in points:
        fine = isinstance(point, list) and len(point) == 2
        if not fine or not all(isinstance(c, int | float) and abs(c) <= 1000 for c in point):
            raise CatalogueError(f"{where}: points must be pairs of numbers from -1000 to 1000.")
    return tuple((float(x), float(y)) for x, y in points)

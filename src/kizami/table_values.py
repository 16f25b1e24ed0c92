"""Values from the tables of products files: numbers in bounds, words of a closed choice."""

from __future__ import annotations

from collections.abc import Mapping
from enum import Enum
from typing import Any, TypeVar

from kizami.errors import CatalogueError

__all__ = ["enum_of", "numbers_of"]

_E = TypeVar("_E", bound=Enum)


def numbers_of(
    table: Mapping[str, Any], bounds: Mapping[str, tuple[float, float]], *, where: str
) -> dict[str, float]:
    """Just these numbers, each within its bounds.

    Raises
    ------
    CatalogueError : a key is missing, unknown, no number or out of bounds; begins with `where`

    >>> numbers_of({"depth_mm": 1}, {"depth_mm": (0, 5)}, where="Product TAG: treatment")
    {'depth_mm': 1.0}
    """
    wrong = set(bounds).symmetric_difference(table)
    if wrong:
        raise CatalogueError(f"{where}: missing or unknown {', '.join(sorted(wrong))}.")
    for key, (low, high) in bounds.items():
        value = table[key]
        if isinstance(value, bool) or not isinstance(value, int | float) or not low <= value <= high:
            raise CatalogueError(f"{where}: {key} must be a number from {low:g} to {high:g}, not {value!r}.")
    return {key: float(table[key]) for key in bounds}


def enum_of(kind: type[_E], word: object, *, where: str) -> _E:
    """A member of a closed choice by its value.

    Raises
    ------
    CatalogueError : it is none; lists the valid ones
    """
    try:
        return kind(word)
    except ValueError as error:
        valid = ", ".join(str(item.value) for item in kind)
        raise CatalogueError(f"{where}: “{str(word)[:40]}” is none of {valid}.") from error

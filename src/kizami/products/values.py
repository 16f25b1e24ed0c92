"""Kinds of values in the tables of products files, each with its bounds and the sentence that says them."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, ClassVar

from pydantic import AfterValidator, BaseModel, ConfigDict, GetCoreSchemaHandler
from pydantic_core import PydanticCustomError, core_schema

__all__ = ["Known", "Outlines", "Points", "Table", "Vector", "Within", "written", "wrong"]


class Table(BaseModel):
    """A table of a products file: every key known, nothing read as what it is not.

    Attributes
    ----------
    makes : what comes of a table whose keys are that value's own
    """

    model_config = ConfigDict(extra="forbid", frozen=True)
    makes: ClassVar[Callable[..., Any]]

    def made(self) -> Any:
        """The value that a table says."""
        return type(self).makes(**self.given())

    def given(self) -> dict[str, Any]:
        """Its keys and values but for the kind, tables within it made."""
        values = {name: getattr(self, name) for name in type(self).model_fields if name != "kind"}
        return {name: value.made() if isinstance(value, Table) else value for name, value in values.items()}


def wrong(sentence: str) -> PydanticCustomError:
    """An error of a value that says what is wrong with it; braces are left as they are."""
    return PydanticCustomError("wrong", "{said}", {"said": sentence})


@dataclass(frozen=True, slots=True)
class Within:
    """A number between two bounds; a whole one where the key is an int."""

    low: float
    high: float

    def __get_pydantic_core_schema__(
        self, source: Any, _handler: GetCoreSchemaHandler
    ) -> core_schema.CoreSchema:
        """Read by `_read`."""
        return core_schema.no_info_plain_validator_function(lambda value: self._read(value, source is int))

    def _read(self, value: Any, is_whole: bool) -> float:
        is_number = isinstance(value, int | float) and not isinstance(value, bool)
        is_number = is_number and (not is_whole or float(value) == int(value))
        if not is_number or not self.low <= value <= self.high:
            what = "a whole number" if is_whole else "a number"
            raise wrong(f"must be {what} from {self.low:g} to {self.high:g}, not {value!r:.40}")
        return int(value) if is_whole else float(value)


@dataclass(frozen=True, slots=True)
class Vector:
    """Three numbers."""

    reach: float = 10_000.0

    def __get_pydantic_core_schema__(
        self, _source: Any, _handler: GetCoreSchemaHandler
    ) -> core_schema.CoreSchema:
        """Read by `_read`."""
        return core_schema.no_info_plain_validator_function(self._read)

    def _read(self, value: Any) -> tuple[float, ...]:
        if not _are_numbers(value, 3, self.reach):
            raise wrong(f"must be three numbers from {-self.reach:g} to {self.reach:g}, not {value!r:.60}")
        return tuple(float(c) for c in value)


@dataclass(frozen=True, slots=True)
class Points:
    """Corners of a line or an outline; none at all where that is allowed."""

    least: int
    most: int = 2000
    reach: float = 1000.0
    may_be_empty: bool = False

    def __get_pydantic_core_schema__(
        self, _source: Any, _handler: GetCoreSchemaHandler
    ) -> core_schema.CoreSchema:
        """Read by `read`."""
        return core_schema.no_info_plain_validator_function(self.read)

    def read(self, value: Any) -> tuple[tuple[float, float], ...]:
        """Pairs of numbers, or the error that says what is wrong with them."""
        is_list = isinstance(value, list | tuple)
        count = len(value) if is_list else 0
        if not is_list or not (self.least <= count <= self.most or (self.may_be_empty and not count)):
            raise wrong(f"must be {self.least} to {self.most} pairs of numbers")
        for number, point in enumerate(value, start=1):
            if not _are_numbers(point, 2, self.reach):
                raise wrong(
                    f"must be pairs of numbers from {-self.reach:g} to {self.reach:g}; pair {number} is not"
                )
        return tuple((float(x), float(y)) for x, y in value)


@dataclass(frozen=True, slots=True)
class Outlines:
    """Closed shapes, each a list of corners; none at all as well."""

    most: int
    corners: Points

    def __get_pydantic_core_schema__(
        self, _source: Any, _handler: GetCoreSchemaHandler
    ) -> core_schema.CoreSchema:
        """Read by `_read`."""
        return core_schema.no_info_plain_validator_function(self._read)

    def _read(self, value: Any) -> tuple[tuple[tuple[float, float], ...], ...]:
        if not isinstance(value, list | tuple) or len(value) > self.most:
            raise wrong(f"must be at most {self.most} lists of pairs of numbers")
        return tuple(self.corners.read(one) for one in value)


def _are_numbers(value: object, count: int, reach: float) -> bool:
    return (
        isinstance(value, list | tuple)
        and len(value) == count
        and all(isinstance(c, int | float) and not isinstance(c, bool) and abs(c) <= reach for c in value)
    )


def written(pattern: str, says: str) -> AfterValidator:
    """A word of a form, and what is said of one that has it not."""

    def read(value: str) -> str:
        if not re.fullmatch(pattern, value):
            raise wrong(says)
        return value

    return AfterValidator(read)


@dataclass(frozen=True, slots=True)
class Known:
    """A word of those that are known when the file is read: codes of typefaces, processes, materials."""

    words: Callable[[], tuple[str, ...]]
    #: Key of what the reader knows besides, such as the typefaces that a shop added.
    more: str = ""

    def __get_pydantic_core_schema__(
        self, _source: Any, _handler: GetCoreSchemaHandler
    ) -> core_schema.CoreSchema:
        """Read by `_read`."""
        return core_schema.with_info_plain_validator_function(self._read)

    def _read(self, value: Any, info: core_schema.ValidationInfo) -> str:
        known = dict.fromkeys((*self.words(), *(info.context or {}).get(self.more, ())))
        if not isinstance(value, str) or value not in known:
            raise wrong(f"“{str(value)[:40]}” is none of {', '.join(known)}")
        return value

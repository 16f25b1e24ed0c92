"""Fields of what is no word, number or place: colours, finishes, features of a typeface, days and names."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from functools import lru_cache
from typing import Any

from kizami.lettering.features import feature_called, offered_features
from kizami.wording.plan import WordingKind
from workshop.catalogue.field import YES_NO, ProductField, field_of
from workshop.catalogue.models import typeface_named

__all__ = [
    "IN_TWO",
    "colour_fields",
    "date_fields",
    "feature_field",
    "finish_fields",
    "name_field",
    "put_apart",
    "put_in_two",
]

#: Whether a product has two colours is said by its having a table of them.
IN_TWO = "colours.two"
#: What two colours begin with (common practice, no source): light letters.
_FIRST_COLOURS = {"body": "#2f4a44", "lettering": "#f4f1e6"}
#: Few digits of the plain kind: others look like digits and are no number.
_NUMBER = re.compile(r"[0-9]{1,4}")
_DAYS = (("", "asked about"), ("day", "the day first"), ("month", "the month first"))


def name_field(table: Mapping[str, Any]) -> ProductField:
    """What people call it; its code is what lists call it and stays."""
    return field_of("name", table.get("name", ""), part="Called", prefix="", is_text=True)


def finish_fields(table: Mapping[str, Any]) -> Iterator[ProductField]:
    """The finish that it usually gets, and those that a line may ask for."""
    where: dict[str, Any] = {"part": "A line may ask for", "prefix": ""}
    yield field_of("finish", table.get("finish", ""), is_text=True, **where)
    yield field_of("finishes", list(table.get("finishes", ())), is_list=True, **where)


def colour_fields(table: Mapping[str, Any]) -> Iterator[ProductField]:
    """Whether it is made in two colours, and which."""
    colours, where = table.get("colours"), {"part": "Making", "prefix": "colours."}
    yield field_of("two", "no" if colours is None else "yes", choices=YES_NO, **where)
    for key, value in (colours or {}).items():
        yield field_of(key, value, is_colour=True, **where)


def date_fields(wording: Mapping[str, Any], kind: str, *, part: str, prefix: str) -> Iterator[ProductField]:
    """Which number of a date is the day, where two readings are left; places of coordinates."""
    first = wording.get("day_first")
    value = "" if first is None else "day" if first else "month"
    if kind == WordingKind.DATE.value:
        yield field_of("day_first", value, part=part, prefix=prefix, choices=_DAYS)
    if kind == WordingKind.COORDINATES.value:
        places = wording.get("decimals", 4)
        choices = tuple((str(n), str(n)) for n in range(7))
        yield field_of("decimals", str(places), part=part, prefix=prefix, choices=choices)


def feature_field(arrangement: Mapping[str, Any], typeface: str, *, part: str, prefix: str) -> ProductField:
    """What its typeface can do beside its usual letters; what the file asks for besides stays on the list."""
    has = arrangement.get("features", {})
    asked = [_word(tag, number) for tag, number in has.items()]
    offered = _offered(typeface)
    choices = (*offered, *((word, word) for word in asked if word not in dict(offered)))
    return field_of("features", asked, part=part, prefix=prefix, choices=choices, is_several=True)


def _word(tag: str, number: int) -> str:
    return tag if number == 1 else f"{tag}={number}"


@lru_cache(maxsize=128)
def _offered(typeface: str) -> tuple[tuple[str, str], ...]:
    return tuple((tag, feature_called(tag)) for tag in offered_features(typeface_named(typeface)))


def put_apart(table: dict[str, Any], key: str, value: Any) -> bool:
    """Write what a field of these was given into its table; False where it is none of them."""
    match key:
        case "features":
            pairs = (word.partition("=") for word in value)
            table[key] = {tag: int(number) if _NUMBER.fullmatch(number) else 1 for tag, _, number in pairs}
        case "day_first":
            table[key] = {"day": True, "month": False}.get(value)
            if table[key] is None:
                del table[key]
        case "decimals":
            table[key] = int(value) if _NUMBER.fullmatch(value) else value
        case "finishes":
            # Too long or too many is refused where the whole is read, never cut off.
            table[key] = value
        case _:
            return False
    return True


def put_in_two(table: dict[str, Any], given: str) -> None:
    """Give a product two colours, or take them away."""
    if given == "yes":
        table.setdefault("colours", dict(_FIRST_COLOURS))
    elif given == "no":
        table.pop("colours", None)

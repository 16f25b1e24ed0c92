"""The keys of a table as a form can show them, read off the table's own declaration."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from functools import cache
from typing import Any, Literal, get_args, get_origin

from pydantic.fields import FieldInfo

from kizami.products.values import Table, Vector, Within

__all__ = ["Key", "KeyKind", "keys_of"]


class KeyKind(Enum):
    """What a key holds."""

    WORD = "word"
    NUMBER = "number"
    VECTOR = "vector"
    FLAG = "flag"
    TEXT = "text"
    SEVERAL = "several"


@dataclass(frozen=True, kw_only=True, slots=True)
class Key:
    """One key.

    Attributes
    ----------
    usual : what it is when it is left out; None for one that is needed
    is_needed : it can't be left out
    words : valid words, the usual one first
    low, high : bounds of a number
    """

    name: str
    kind: KeyKind
    usual: Any
    is_needed: bool
    words: tuple[str, ...] = ()
    low: float = 0.0
    high: float = 0.0


@cache
def keys_of(table: type[Table]) -> tuple[Key, ...]:
    """Words first, then numbers, places, flags, texts, lists of words; all else is left out, as the kind is.

    >>> from kizami.products.lettering_tables import TREATMENT_TABLES
    >>> [(key.name, key.kind.value, key.is_needed) for key in keys_of(TREATMENT_TABLES["engraved"])]
    [('floor', 'word', False), ('depth_mm', 'number', True), ('draft_deg', 'number', False)]
    """
    found = [key for name, field in table.model_fields.items() if (key := _key(name, field)) is not None]
    order = list(KeyKind)
    return tuple(sorted(found, key=lambda key: order.index(key.kind)))


def _key(name: str, field: FieldInfo) -> Key | None:
    if name == "kind":
        return None
    words: tuple[str, ...] = ()
    low = high = 0.0
    bounds = next((m for m in field.metadata if isinstance(m, Within)), None)
    if bounds is not None:
        kind, low, high = KeyKind.NUMBER, bounds.low, bounds.high
    elif any(isinstance(m, Vector) for m in field.metadata):
        kind = KeyKind.VECTOR
    elif field.annotation is bool:
        kind = KeyKind.FLAG
    elif field.annotation is str:
        kind = KeyKind.TEXT
    elif words := _words(field.annotation):
        kind = KeyKind.WORD
    elif get_origin(field.annotation) is tuple and (words := _words(get_args(field.annotation)[0])):
        kind = KeyKind.SEVERAL
    else:
        return None
    needed = field.is_required()
    usual = None if needed else _plain(field.default)
    return Key(name=name, kind=kind, usual=usual, is_needed=needed, words=words, low=low, high=high)


def _words(annotation: Any) -> tuple[str, ...]:
    """The words of a closed choice, or none."""
    if get_origin(annotation) is Literal:
        return get_args(annotation)
    if isinstance(annotation, type) and issubclass(annotation, Enum):
        return tuple(member.value for member in annotation)
    return ()


def _plain(value: Any) -> Any:
    """As a products file has it."""
    if isinstance(value, tuple) and any(isinstance(one, Enum) for one in value):
        return tuple(_plain(one) for one in value)
    return value.value if isinstance(value, Enum) else value

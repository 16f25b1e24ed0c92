"""The keys of a table as a form can show them, read off the table's own declaration."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
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


@dataclass(frozen=True, kw_only=True, slots=True)
class Key:
    """One key.

    Attributes
    ----------
    usual : what it is when it is left out; None for one that is needed
    is_needed : it can't be left out
    words : valid words, the usual one first
    """

    name: str
    kind: KeyKind
    usual: Any
    is_needed: bool
    words: tuple[str, ...] = ()


def keys_of(table: type[Table]) -> list[Key]:
    """Words first, then numbers, places and flags; what is none of these is left out, as the kind is.

    >>> from kizami.products.lettering_tables import TREATMENT_TABLES
    >>> [(key.name, key.kind.value, key.is_needed) for key in keys_of(TREATMENT_TABLES["engraved"])]
    [('floor', 'word', False), ('depth_mm', 'number', True), ('draft_deg', 'number', False)]
    """
    found = [key for name, field in table.model_fields.items() if (key := _key(name, field)) is not None]
    order = list(KeyKind)
    return sorted(found, key=lambda key: order.index(key.kind))


def _key(name: str, field: FieldInfo) -> Key | None:
    words: tuple[str, ...] = ()
    if name == "kind":
        return None
    if any(isinstance(m, Within) for m in field.metadata):
        kind = KeyKind.NUMBER
    elif any(isinstance(m, Vector) for m in field.metadata):
        kind = KeyKind.VECTOR
    elif get_origin(field.annotation) is Literal:
        kind, words = KeyKind.WORD, get_args(field.annotation)
    elif field.annotation is bool:
        kind = KeyKind.FLAG
    else:
        return None
    needed = field.is_required()
    usual = None if needed else field.default
    return Key(name=name, kind=kind, usual=usual, is_needed=needed, words=words)

"""The typefaces that ship with Kizami, opened on first use and kept open."""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

from kizami.errors import TypefaceError
from kizami.lettering.typeface import Typeface
from kizami.lettering.typeface_facts import TypefaceFacts
from kizami.standards import shipped_table

__all__ = [
    "Shipped",
    "bolder_cut",
    "is_other_cut",
    "shipped_facts",
    "shipped_typeface",
    "shipped_typeface_codes",
    "shipped_typefaces",
    "typefaces_with",
]


@dataclass(frozen=True, kw_only=True, slots=True)
class Shipped:
    """A typeface that ships.

    Attributes
    ----------
    code, name : in products, for people
    family, style : “Noto Sans”, “bold italic”
    role : what it is good for, in a few words
    file, licence : below `data/typefaces` and `data/typefaces/licences`
    bolder : code of its bolder cut, or ""
    """

    code: str
    name: str
    family: str
    style: str
    role: str
    file: str
    licence: str
    bolder: str = ""


@cache
def shipped_typefaces() -> dict[str, Shipped]:
    """Every typeface that ships, by code."""
    return {code: Shipped(code=code, **row) for code, row in shipped_table("typefaces.toml").items()}


@cache
def shipped_typeface_codes() -> tuple[str, ...]:
    """Codes of the shipped typefaces, sorted."""
    return tuple(sorted(shipped_typefaces()))


@cache
def shipped_typeface(code: str) -> Typeface:
    """A shipped typeface.

    Raises
    ------
    TypefaceError : no such code; the text lists the valid ones
    """
    row = shipped_typefaces().get(code)
    if row is None:
        raise TypefaceError(f"There is no typeface “{code}”; known: {', '.join(shipped_typeface_codes())}.")
    data = (files("kizami") / "data" / "typefaces" / row.file).read_bytes()
    return Typeface(data, name=row.name, code=code)


@cache
def shipped_facts() -> dict[str, TypefaceFacts]:
    """What was measured of every typeface that ships, by code; see scripts/measure-typefaces.py."""
    text = (files("kizami") / "data" / "typeface-facts.json").read_text("utf-8")
    return {code: TypefaceFacts.from_table(table) for code, table in json.loads(text).items()}


def bolder_cut(code: str, *, own_family: bool = False) -> Typeface | None:
    """The bolder cut of a shipped typeface, or None.

    Parameters
    ----------
    own_family : only a cut of the same family, not a sturdier typeface in its place
    """
    rows = shipped_typefaces()
    row = rows.get(code)
    if row is None or not row.bolder or (own_family and rows[row.bolder].family != row.family):
        return None
    return shipped_typeface(row.bolder)


def is_other_cut(code: str, other: str) -> bool:
    """Whether one shipped typeface is the bolder cut of the other one, in the same family.

    >>> is_other_cut("noto-sans-bold", "noto-sans"), is_other_cut("sacramento", "pacifico")
    (True, False)
    """
    rows = shipped_typefaces()
    pairs = (rows.get(code), rows.get(other)), (rows.get(other), rows.get(code))
    return any(
        one is not None and two is not None and one.bolder == two.code and one.family == two.family
        for one, two in pairs
    )


def typefaces_with(characters: str) -> list[str]:
    """Names of the shipped typefaces that have every one of these characters, plainest first."""
    wanted = {ord(c) for c in characters if not c.isspace()}
    return [
        row.name for code, row in shipped_typefaces().items() if wanted <= shipped_typeface(code).characters
    ]

"""The typefaces that ship with Kizami, opened on first use and kept open."""

from __future__ import annotations

from functools import cache
from importlib.resources import files

from kizami.errors import TypefaceError
from kizami.lettering.typeface import Typeface
from kizami.processes import shipped_table

__all__ = ["shipped_typeface", "shipped_typeface_codes"]


@cache
def shipped_typeface_codes() -> tuple[str, ...]:
    """Codes of the shipped typefaces, sorted."""
    return tuple(sorted(shipped_table("typefaces.toml")))


@cache
def shipped_typeface(code: str) -> Typeface:
    """A shipped typeface.

    Raises
    ------
    TypefaceError : no such code; the text lists the valid ones
    """
    table = shipped_table("typefaces.toml")
    if code not in table:
        raise TypefaceError(f"There is no typeface “{code}”; known: {', '.join(sorted(table))}.")
    data = (files("kizami") / "data" / "typefaces" / table[code]["file"]).read_bytes()
    return Typeface(data, name=table[code]["name"])

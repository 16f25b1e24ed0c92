"""Typefaces that a shop adds: looked over before they are trusted, refused with the reason."""

from __future__ import annotations

import hashlib
import re
import unicodedata
from dataclasses import dataclass
from typing import Any

from kizami.errors import TypefaceError
from kizami.lettering.typeface import BROKEN, Typeface
from kizami.lettering.typeface_facts import TypefaceFacts, measured_within

__all__ = ["LARGEST_TYPEFACE_BYTES", "MOST_POINTS", "CheckedTypeface", "check_typeface", "refuse_at_sight"]

LARGEST_TYPEFACE_BYTES = 24 * 1024 * 1024
MOST_GLYPHS = 40_000
#: Points of one letter: ten times what the busiest drawn ones have.
MOST_POINTS = 8_000
_MOST_NESTING = 12
#: Letters are measured for no longer than this: usual typefaces take one to three.
MOST_S = 10.0
#: OS/2 fsType (OpenType specification): bit 1 forbids embedding, bit 9 allows bitmaps only.
_RESTRICTED, _BITMAP_ONLY = 0x0002, 0x0200
_KINDS = (b"\x00\x01\x00\x00", b"OTTO", b"true", b"wOF2", b"wOFF")


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class CheckedTypeface:
    """A typeface that may be used.

    Attributes
    ----------
    code : its name in products, made from its own name and its content
    name : as it calls itself, printable and short
    typeface, facts : ready to set with, and what was measured
    notes : what people should know
    """

    code: str
    name: str
    typeface: Typeface
    facts: TypefaceFacts
    notes: tuple[str, ...]


def check_typeface(data: bytes, *, file_name: str, seconds: float = MOST_S) -> CheckedTypeface:
    """Look a TTF, OTF, WOFF or WOFF2 file over, draw its letters and measure them.

    Parameters
    ----------
    seconds : after which no further letter is measured; a note says which were not

    Raises
    ------
    TypefaceError : it can't be used or may not be; says why
    """
    shown = _printable(file_name) or "the file"
    refuse_at_sight(data, file_name=file_name)
    typeface = Typeface(data, name=shown)
    try:
        _check_rights(typeface, shown)
        _check_glyphs(typeface, shown)
        facts, left = measured_within(typeface, seconds=seconds)
        name = _own_name(typeface) or shown
    except (*BROKEN, TypeError, RecursionError, MemoryError) as error:
        raise TypefaceError(f"“{shown}” is damaged: some of its letters can't be drawn.") from error
    if not facts.thinnest:
        raise TypefaceError(f"“{shown}” draws no letters, so it can't be measured.")
    notes = ["It is variable; its usual weight and width are used"] if "fvar" in typeface.tables else []
    if left:
        notes.append(
            f"Its letters take long to measure: {len(left)} of them, “{left[0]}” among them, were not within "
            f"{seconds:g} s, and may hold from a greater height only. Each piece is measured as it is made"
        )
    code = f"own-{_slug(name)}-{hashlib.sha256(data).hexdigest()[:8]}"
    return CheckedTypeface(
        code=code,
        name=name,
        typeface=Typeface(data, name=name, code=code),
        facts=facts,
        notes=tuple(notes),
    )


def refuse_at_sight(data: bytes, *, file_name: str) -> None:
    """Refuse what is too large or no file of a typeface, without reading it.

    Raises
    ------
    TypefaceError : it is; says so
    """
    shown = _printable(file_name) or "the file"
    if len(data) > LARGEST_TYPEFACE_BYTES:
        raise TypefaceError(
            f"“{shown}” has {len(data) / 1024 / 1024:.0f} MB; a typeface may have "
            f"{LARGEST_TYPEFACE_BYTES // 1024 // 1024} MB."
        )
    if not data.startswith(_KINDS):
        raise TypefaceError(f"“{shown}” is no TTF, OTF, WOFF or WOFF2 file.")


def _check_rights(typeface: Typeface, shown: str) -> None:
    table: Any = typeface.tables.get("OS/2")
    rights = int(getattr(table, "fsType", 0)) if table is not None else 0
    if rights & _RESTRICTED and not rights & 0x000C:
        raise TypefaceError(
            f"“{shown}” forbids embedding (its fsType says “restricted licence”). Ask its maker for a "
            "licence that allows it, or choose another typeface."
        )
    if rights & _BITMAP_ONLY:
        raise TypefaceError(f"“{shown}” allows only bitmaps to be embedded, so its outlines can't be used.")


def _check_glyphs(typeface: Typeface, shown: str) -> None:
    """Bounds on what drawing a letter can cost, without drawing any."""
    tables = typeface.tables
    order = tables.getGlyphOrder()
    if len(order) > MOST_GLYPHS:
        raise TypefaceError(f"“{shown}” has {len(order)} glyphs; at most {MOST_GLYPHS} can be taken.")
    if "glyf" in tables:
        _check_outlines(tables["glyf"], order, shown)
    elif "CFF " in tables:
        strings = tables["CFF "].cff.topDictIndex[0].CharStrings
        for name in order:
            size = len(strings[name].bytecode or b"")
            if size > MOST_POINTS * 8:
                raise TypefaceError(f"“{shown}” has a glyph of {size} bytes: far more than a letter needs.")
    elif "CFF2" not in tables:
        raise TypefaceError(f"“{shown}” has no outlines.")


def _check_outlines(glyf: Any, order: list[str], shown: str) -> None:
    points: dict[str, int] = {}

    def count(name: str, above: tuple[str, ...]) -> int:
        if name in above or len(above) > _MOST_NESTING:
            raise TypefaceError(f"“{shown}” has the glyph “{name[:30]}” within itself. It was not taken.")
        if name not in points:
            glyph = glyf[name]
            if glyph.isComposite():
                total = sum(count(part.glyphName, (*above, name)) for part in glyph.components)
            else:
                total = len(getattr(glyph, "coordinates", ()))
            if total > MOST_POINTS:
                raise TypefaceError(
                    f"“{shown}” has a glyph of {total} points; a letter has at most {MOST_POINTS}."
                )
            points[name] = total
        return points[name]

    for name in order:
        count(name, ())


def _own_name(typeface: Typeface) -> str:
    table: Any = typeface.tables.get("name")
    for number in (4, 1, 6):
        found = table.getDebugName(number) if table is not None else None
        if found and _printable(found):
            return _printable(found)
    return ""


def _printable(text: str) -> str:
    """A name without control characters, direction marks or folders, at most 60 characters."""
    last = text.replace("\\", "/").rsplit("/", 1)[-1]
    kept = "".join(c for c in last if unicodedata.category(c)[0] not in "C")
    return " ".join(kept.split())[:60]


def _slug(name: str) -> str:
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:20] or "typeface"

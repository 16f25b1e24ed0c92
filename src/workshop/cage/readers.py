"""What is called in the cage: a file's bytes in, plain values out, never a live object of a library."""

from __future__ import annotations

import time
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from functools import partial
from typing import Any

from kizami.artwork.outline_files import OutlineFile, PathFile, read_outline, read_path
from kizami.artwork.shelf import Parcel, read_logo, unpack_logos
from kizami.drawing.artwork import artwork_drawing
from kizami.errors import ArtworkError, OrderListError, OutlineError, SurfaceError, TypefaceError
from kizami.formats.body_files import read_body
from kizami.lettering.own_typeface import check_typeface
from kizami.products.product import fold_code
from kizami.wording.letters import examples_in
from kizami.wording.tables import Table, read_table
from workshop.cage.cage import call_in_cage

__all__ = [
    "SeenBody",
    "SeenLogo",
    "SeenTypeface",
    "examples_of",
    "look_at_body",
    "look_at_logo",
    "look_at_logos",
    "look_at_outline",
    "look_at_path",
    "look_at_typeface",
    "table_in",
    "unpack",
]


def table_in(data: bytes, *, encoding: str = "", products: Collection[str] = ()) -> Table:
    """The rows of a list.

    Parameters
    ----------
    products : folded codes and other names of products, which no heading is

    Raises
    ------
    kizami.errors.OrderListError : it can't be read
    """
    return call_in_cage(_table, data, encoding, frozenset(products), refusal=OrderListError)


def _table(data: bytes, encoding: str, products: frozenset[str]) -> Table:
    return read_table(data, encoding=encoding, is_product=partial(_stands_in, products))


def _stands_in(products: frozenset[str], cell: str) -> bool:
    return fold_code(cell) in products


def examples_of(data: bytes) -> dict[str, str]:
    """Encodings that a list could be in, each with some of its words as they would read."""
    return call_in_cage(_examples, data, refusal=OrderListError)


def _examples(data: bytes) -> dict[str, str]:
    return dict(examples_in(data))


def unpack(data: bytes, *, name: str) -> Parcel:
    """The logo files in a zip, or a single one.

    Raises
    ------
    kizami.errors.ArtworkError : no zip, locked, or a trap
    """
    # A file that is no zip is not looked into here.
    if not data.startswith(b"PK"):
        return unpack_logos(data, name=name)
    return call_in_cage(unpack_logos, data, name=name, refusal=ArtworkError)


@dataclass(frozen=True, kw_only=True, slots=True)
class SeenLogo:
    """A logo as it was understood.

    Attributes
    ----------
    notes : what was assumed or left out
    facts : its drawing and measures, as they are kept
    """

    notes: tuple[str, ...]
    facts: dict[str, Any]


def look_at_logo(data: bytes, *, name: str, threshold: float | None = None) -> SeenLogo:
    """Read and trace a logo.

    Raises
    ------
    kizami.errors.ArtworkError : it can't be used
    """
    return call_in_cage(_logo, data, name, threshold, refusal=ArtworkError)


def look_at_logos(files: Mapping[str, bytes]) -> tuple[dict[str, SeenLogo], dict[str, str]]:
    """Read and trace many logos: those that can be used, and name -> why not of the others.

    Several are read in one child, as starting one takes longer than an honest logo. Where a child ends
    before its time each of its files is read alone, so that one trap spoils none of its neighbours.
    """
    seen: dict[str, SeenLogo] = {}
    refused: dict[str, str] = {}
    ends_at = time.monotonic() + _LONGEST_PARCEL_S
    names = list(files)
    for start in range(0, len(names), _IN_ONE_CHILD):
        part = {name: files[name] for name in names[start : start + _IN_ONE_CHILD]}
        if time.monotonic() > ends_at:
            refused |= dict.fromkeys(
                part, "was not looked at: the files before it took too long. Send it alone"
            )
            continue
        try:
            found = call_in_cage(_logos, part, refusal=ArtworkError)
        except ArtworkError:
            found = _one_by_one(part, ends_at)
        seen |= found[0]
        refused |= found[1]
    return seen, refused


_IN_ONE_CHILD = 20
_LONGEST_PARCEL_S = 40.0
_TOO_LATE = "was not looked at, as the files before it took too long. Send it alone"


def _one_by_one(files: Mapping[str, bytes], ends_at: float) -> tuple[dict[str, SeenLogo], dict[str, str]]:
    seen: dict[str, SeenLogo] = {}
    refused: dict[str, str] = {}
    for name, data in files.items():
        try:
            if time.monotonic() > ends_at:
                raise ArtworkError(_TOO_LATE)
            seen[name] = look_at_logo(data, name=name)
        except ArtworkError as error:
            refused[name] = str(error)
    return seen, refused


def _logos(files: Mapping[str, bytes]) -> tuple[dict[str, SeenLogo], dict[str, str]]:
    seen: dict[str, SeenLogo] = {}
    refused: dict[str, str] = {}
    for name, data in files.items():
        try:
            seen[name] = _logo(data, name, None)
        except ArtworkError as error:
            refused[name] = str(error)
    return seen, refused


def _logo(data: bytes, name: str, threshold: float | None) -> SeenLogo:
    artwork = read_logo(data, name=name, threshold=threshold)
    drawing = artwork_drawing(artwork)
    return SeenLogo(
        notes=tuple(artwork.notes),
        facts={
            "content": drawing.content,
            "view_box": drawing.view_box_text,
            "pixels_high": artwork.pixels_high,
        },
    )


@dataclass(frozen=True, kw_only=True, slots=True)
class SeenTypeface:
    """A typeface that may be used."""

    code: str
    name: str
    facts: dict[str, Any]
    notes: tuple[str, ...]


def look_at_typeface(data: bytes, *, file_name: str) -> SeenTypeface:
    """Look a typeface over, draw its letters and measure them.

    Raises
    ------
    kizami.errors.TypefaceError : it can't be used or may not be
    """
    return call_in_cage(_typeface, data, file_name, refusal=TypefaceError)


def _typeface(data: bytes, file_name: str) -> SeenTypeface:
    checked = check_typeface(data, file_name=file_name)
    return SeenTypeface(
        code=checked.code, name=checked.name, facts=checked.facts.to_table(), notes=tuple(checked.notes)
    )


@dataclass(frozen=True, kw_only=True, slots=True)
class SeenBody:
    """A sound body."""

    facts: dict[str, Any]


def look_at_outline(data: bytes, *, name: str) -> OutlineFile:
    """Read a drawn outline.

    Raises
    ------
    kizami.errors.OutlineError : it is none; says what is wrong and where
    """
    return call_in_cage(read_outline, data, name=name, refusal=OutlineError)


def look_at_path(data: bytes, *, name: str) -> PathFile:
    """Read a line for lettering to stand on.

    Raises
    ------
    kizami.errors.OutlineError : it can't be used
    """
    return call_in_cage(read_path, data, name=name, refusal=OutlineError)


def look_at_body(data: bytes, *, name: str, unit: str) -> SeenBody:
    """Read a supplied body and measure it.

    Raises
    ------
    kizami.errors.SurfaceError : it is no body
    """
    return call_in_cage(_body, data, name, unit, refusal=SurfaceError)


def _body(data: bytes, name: str, unit: str) -> SeenBody:
    body = read_body(data, name=name, unit=unit)
    return SeenBody(
        facts={
            "size_mm": [round(side, 3) for side in body.size_mm],
            "facets": len(body.triangles),
            "volume_mm3": round(body.manifold.volume(), 2),
            "notes": list(body.notes),
        }
    )

"""What can be done in the Catalogue. Each is one transaction."""

from __future__ import annotations

from pathlib import Path, PurePosixPath
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import Q

from kizami.cli import catalogue_at
from kizami.errors import SurfaceError
from kizami.products.product_file import product_tables
from workshop.cage.readers import look_at_body, look_at_typeface
from workshop.catalogue.models import Product, ShopTypeface, SuppliedFile
from workshop.files.models import Kind, StoredFile
from workshop.standards.models import Standard
from workshop.standards.services import keep_edition

__all__ = ["add_shape", "add_typeface", "keep_standard", "products_held_to", "take_products"]


def add_typeface(data: bytes, *, file_name: str, user: User) -> ShopTypeface:
    """Add a typeface; the same file again is the same typeface.

    Raises
    ------
    kizami.errors.TypefaceError : it can't be used or may not be; nothing is stored then
    """
    checked = look_at_typeface(data, file_name=file_name)
    with transaction.atomic():
        row, _ = ShopTypeface.objects.get_or_create(
            code=checked.code,
            defaults={
                "name": checked.name,
                "file": StoredFile.objects.keep(data, Kind.TYPEFACE),
                "facts": checked.facts,
                "notes": list(checked.notes),
                "added_by": user,
            },
        )
    return row


_LONGEST_NAME = 100


def add_shape(data: bytes, *, name: str, unit: str, user: User | None) -> SuppliedFile:
    """Add a supplied shape; the same file again is the same shape.

    Parameters
    ----------
    name : of its file; products name it by this
    unit : of its numbers, for files that do not say it

    Raises
    ------
    kizami.errors.SurfaceError : it is no body, or another shape has this name; nothing is stored then
    """
    if len(name) > _LONGEST_NAME or not name.isprintable():
        raise SurfaceError(f"A file's name may have {_LONGEST_NAME} characters that can be printed.")
    facts = look_at_body(data, name=PurePosixPath(name).name, unit=unit).facts
    with transaction.atomic():
        file = StoredFile.objects.keep(data, Kind.SHAPE)
        row, made = SuppliedFile.objects.get_or_create(
            name=name,
            defaults={"unit": unit, "file": file, "facts": facts, "added_by": user},
        )
    if not made and (row.file_id, row.unit) != (file.pk, unit):
        raise SurfaceError(
            f"There is another shape “{name}”, and pieces may have been made from it. "
            "Give this file a new name."
        )
    return row


def products_held_to(kind: str, code: str) -> list[Product]:
    """The current products of a process, or that may be of a material."""
    rows = Product.objects.current().order_by("code")
    if kind == Standard.Kind.PROCESS:
        return list(rows.filter(table__process=code))
    return list(rows.filter(Q(table__material=code) | Q(table__materials__contains=[code])))


def keep_standard(
    kind: str, code: str, table: dict[str, Any], *, why: str, user: User, edition: int, retired: bool = False
) -> list[Product] | None:
    """Keep a process or a material, and every product that is held to it as a new version.

    Lines keep the versions that they have until somebody takes the new ones for them.

    Parameters
    ----------
    edition : the one that was looked at

    Returns
    -------
    the new versions; None where nothing is otherwise than it was

    Raises
    ------
    kizami.errors.CatalogueError : it can't be, or a product can't be with it, or somebody kept another one
        meanwhile; nothing is kept then
    """
    with transaction.atomic():
        kept = keep_edition(kind, code, table, why=why, user=user, retired=retired, edition=edition)
        if kept is None:
            return None
        return [Product.objects.put(row.table) for row in products_held_to(kind, code)]


def take_products(path: Path) -> None:
    """Take a products file and the shapes beside it in: all of it or, when one can't be, nothing.

    Raises
    ------
    kizami.errors.CatalogueError, OSError, UnicodeDecodeError : it can't be used
    """
    catalogue_at(path)
    with transaction.atomic():
        for table in product_tables(path.read_text("utf-8")):
            blank = table["blank"]
            if "file" in blank:
                data = (path.parent / blank["file"]).read_bytes()
                add_shape(data, name=blank["file"], unit=blank.get("unit", ""), user=None)
            Product.objects.put(table)

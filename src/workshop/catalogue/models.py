"""Products, versioned: a line keeps the version that it was made with."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from functools import lru_cache
from typing import Any, Self

from django.conf import settings
from django.db import connection, models, transaction
from django.shortcuts import get_object_or_404

from kizami import RECIPE
from kizami.blanks.supplied_body import SuppliedBody
from kizami.errors import CatalogueError, SurfaceError, TypefaceError
from kizami.formats.body_files import bodies_in
from kizami.lettering.shipped import shipped_typeface
from kizami.lettering.typeface import Typeface
from kizami.products.product import Catalogue, Word
from kizami.products.product import Product as ProductSpec
from kizami.products.product_file import product_from_table
from kizami.standards import (
    Standards,
    material_from_table,
    process_from_table,
    shipped_standards,
    table_of_material,
    table_of_process,
)
from workshop.files.models import StoredFile
from workshop.files.sent import Sent, kept_until_looked_at
from workshop.memory.made_once import MadeOnce
from workshop.standards.models import Standard
from workshop.standards.services import held_still
from workshop.words.models import Alias, Placeholders


class ShopTypeface(models.Model):
    """A typeface that the shop added. It is never changed: a new file is a new typeface."""

    code = models.CharField(max_length=40, unique=True)
    name = models.CharField(max_length=60)
    file = models.ForeignKey(StoredFile, on_delete=models.PROTECT, related_name="+")
    facts = models.JSONField()
    notes = models.JSONField(default=list)
    added_at = models.DateTimeField(auto_now_add=True)
    added_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["name"]
        permissions = [("add_own_typeface", "May add a typeface")]

    def __str__(self) -> str:
        return self.name


class TypefaceSent(Sent):
    """A file of a typeface as it was sent, kept until it is looked at; then what became of it."""

    class Meta(Sent.Meta):
        constraints = [kept_until_looked_at("typeface_file_kept_until_looked_at")]


class RetiredTypeface(models.Model):
    """A typeface that is offered no more, one that ships or the shop's own; what uses it keeps it."""

    code = models.CharField(max_length=40, unique=True)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.code


def retired_typefaces() -> frozenset[str]:
    """Codes of typefaces that are offered no more."""
    return frozenset(RetiredTypeface.objects.values_list("code", flat=True))


def typeface_named(code: str) -> Typeface:
    """A typeface by its code in products: one that ships, or one of the shop's own.

    Raises
    ------
    kizami.errors.TypefaceError : there is none of this code
    """
    return _own_typeface(code) if code.startswith(OWN) else shipped_typeface(code)


#: What the codes of the shop's own typefaces begin with.
OWN = "own-"


@lru_cache(maxsize=64)
def _own_typeface(code: str) -> Typeface:
    row = ShopTypeface.objects.filter(code=code).select_related("file").first()
    if row is None:
        raise TypefaceError(f"There is no typeface “{code}” any more.")
    return Typeface(row.file.read(), name=row.name, code=code)


class SuppliedFile(models.Model):
    """A body that a customer supplied. It is never changed: another file has another name."""

    name = models.CharField(max_length=100, unique=True)
    unit = models.CharField(max_length=4, blank=True)
    file = models.ForeignKey(StoredFile, on_delete=models.PROTECT, related_name="+")
    facts = models.JSONField()
    added_at = models.DateTimeField(auto_now_add=True)
    added_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.PROTECT, null=True, related_name="+"
    )

    class Meta:
        ordering = ["name"]
        permissions = [("add_supplied_file", "May add a shape")]

    def __str__(self) -> str:
        return self.name


def stored_body(name: str, unit: str) -> SuppliedBody:
    """The body of a stored file, as products ask for it.

    Raises
    ------
    kizami.errors.SurfaceError : there is none of this name
    """
    return _bodies.get((name, unit))


def _stored_bytes(name: str) -> bytes:
    row = SuppliedFile.objects.filter(name=name).select_related("file").first()
    if row is None:
        raise SurfaceError(f"There is no shape “{name}”. Add its file under Catalogue, Shapes.")
    return row.file.read()


#: What a body takes once it is read, for each byte of its corners and facets; measured on a pebble of 300 kB.
_AROUND_A_BODY = 30
_bodies = MadeOnce(
    lambda asked: bodies_in(_stored_bytes)(*asked),
    size_of=lambda body: _AROUND_A_BODY * (body.vertices.nbytes + body.triangles.nbytes),
    most_bytes=256 * 1024 * 1024,
)


#: What the Catalogue's addresses name besides products.
_PAGES = frozenset({"new", "typefaces", "shapes", "limits", "keep-file", "products.toml"})


def named_of(table: Mapping[str, Any], standards: Standards) -> dict[str, Any]:
    """What of a shop's standards a product's table names, where it is otherwise than it ships.

    A version keeps it, so that what was judged by it can be judged again, and a change is a new version.
    """
    ships, found = shipped_standards(), {}
    process = standards.process(table["process"])
    if process != ships.processes.get(process.code):
        found["processes"] = {process.code: table_of_process(process)}
    named = dict.fromkeys((table["material"], *table.get("materials", ())))
    own = {
        code: table_of_material(standards.material(code))
        for code in named
        if standards.material(code) != ships.materials.get(code)
    }
    return found | ({"materials": own} if own else {})


def codes_held_to(table: Mapping[str, Any]) -> frozenset[str]:
    """The process and the materials that a product's table names."""
    return frozenset((table["process"], table["material"], *table.get("materials", ())))


def _refuse_out_of_use(table: Mapping[str, Any], newest: Product | None) -> None:
    """What is out of use stays with the products that have it, and comes to no other."""
    gone = Standard.objects.out_of_use() & codes_held_to(table)
    new = gone - (codes_held_to(newest.table) if newest is not None else frozenset())
    if new:
        raise CatalogueError(f"{sorted(new)[0]} is out of use; choose another, or take it into use again.")


def standards_from(held_to: Mapping[str, Any]) -> Standards:
    """Those that ship with the ones that a version keeps."""
    return shipped_standards().changed(
        processes=[process_from_table(code, t) for code, t in held_to.get("processes", {}).items()],
        materials=[material_from_table(code, t) for code, t in held_to.get("materials", {}).items()],
    )


class ProductQuerySet(models.QuerySet["Product"]):
    """Table-level questions about products."""

    def current(self) -> Self:
        """The newest version of every product."""
        return self.filter(is_current=True)

    def catalogue(self) -> tuple[Catalogue, dict[str, Product]]:
        """The current products as the core's catalogue, and the rows by folded code."""
        rows = {product.code.casefold(): product for product in self.current()}
        aliases = {
            (Word(kind), word): code
            for kind, word, code in Alias.objects.values_list("kind", "word", "target")
        }
        specs = {key: row.to_spec() for key, row in rows.items()}
        kept = Placeholders.objects.first()
        placeholders = frozenset(kept.words) if kept is not None else None
        own = dict(ShopTypeface.objects.values_list("code", "name"))
        found = Catalogue(products=specs, aliases=aliases, typeface_names=own, placeholders=placeholders)
        return found, rows

    def begin(self, table: dict[str, Any]) -> Product:
        """Take the table of a new product in.

        Raises
        ------
        kizami.errors.CatalogueError : the table is not a product, or there is one of this code
        """
        code = str(table["code"])
        with transaction.atomic():
            with connection.cursor() as cursor:
                cursor.execute("SELECT pg_advisory_xact_lock(hashtext(%s))", ["begin a product"])
            # Lists name products whatever the letter case, so no two may differ by that alone.
            there = self.filter(code__iexact=code).order_by("-version").first()
            if there is not None:
                raise CatalogueError(
                    f"There is a product {there.code} already, {there.name}; choose another code."
                )
            return self.put(table)

    def put(self, table: dict[str, Any]) -> Product:
        """Take a product's table in: as a new version when it differs from the current one.

        Raises
        ------
        kizami.errors.CatalogueError : the table is not a product
        """
        own = ShopTypeface.objects.values_list("code", flat=True)
        with transaction.atomic():
            standards = held_still()
            spec = product_from_table(table, typefaces=tuple(own), bodies=stored_body, standards=standards)
            if spec.code in _PAGES:
                raise CatalogueError(
                    f"“{spec.code}” is the name of a page of the Catalogue; choose another code."
                )
            held_to = named_of(table, standards)
            # Of a shop that holds to what ships it is the table alone, as it was before shops had standards.
            told = [table, held_to] if held_to else table
            digest = hashlib.sha256(json.dumps(told, sort_keys=True).encode()).hexdigest()
            # Two who keep the same product wait for each other here, whether it has a version yet or not.
            with connection.cursor() as cursor:
                cursor.execute("SELECT pg_advisory_xact_lock(hashtext(%s))", [f"product {spec.code}"])
            newest = self.filter(code=spec.code).order_by("-version").first()
            if newest is not None and newest.digest == digest:
                return newest
            _refuse_out_of_use(table, newest)
            self.filter(code=spec.code, is_current=True).update(is_current=False)
            return self.create(
                code=spec.code,
                version=newest.version + 1 if newest else 1,
                name=spec.name,
                table=table,
                standards=held_to,
                digest=digest,
                is_current=True,
            )


class Product(models.Model):
    """One version of a product."""

    code = models.CharField(max_length=40)
    version = models.PositiveIntegerField()
    name = models.CharField(max_length=200)
    table = models.JSONField()
    #: Its process and materials as the shop had them, where it had them otherwise than they ship.
    standards = models.JSONField(default=dict)
    digest = models.CharField(max_length=64)
    is_current = models.BooleanField(default=True)
    made_at = models.DateTimeField(auto_now_add=True)

    objects = ProductQuerySet.as_manager()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["code", "version"], name="product_version_once"),
            models.UniqueConstraint(
                fields=["code"], condition=models.Q(is_current=True), name="product_one_current"
            ),
        ]
        ordering = ["code", "-version"]
        permissions = [("change_catalogue", "May change products")]

    def __str__(self) -> str:
        return f"{self.code} v{self.version}"

    def to_spec(self) -> ProductSpec:
        """The core's product. Versions never change, so each is read once."""
        return _specs.get(json.dumps([self.table, self.standards]))[0]


def _spec(told: str) -> tuple[ProductSpec, int]:
    data, held_to = json.loads(told)
    # A product was checked when it was put; its own typefaces are looked up when they are set.
    named = (data.get("typeface", ""), *data.get("typefaces", []))
    own = [code for code in named if code.startswith(OWN)]
    standards = standards_from(held_to)
    spec = product_from_table(data, typefaces=own, bodies=stored_body, standards=standards)
    return spec, len(told)


#: A product takes so many bytes for each of its table, as measured; a supplied body counts by itself.
_SPEC_OF_TABLE = 3
_specs = MadeOnce(_spec, size_of=lambda made: _SPEC_OF_TABLE * made[1], most_bytes=16 * 1024 * 1024)


class SampleQuerySet(models.QuerySet["ProductSample"]):
    """Table-level questions about samples."""

    def drawn_now(self) -> Self:
        """Those that would be drawn the same now."""
        return self.filter(drawn_by=ProductSample.DRAWN_BY)


class ProductSample(models.Model):
    """A version of a product with a sample wording on it, as the Catalogue's list shows it."""

    #: Raise the second number when the same sample would be drawn otherwise.
    DRAWN_BY = f"{RECIPE}.3"

    product = models.OneToOneField(Product, on_delete=models.CASCADE, primary_key=True, related_name="sample")
    drawn_by = models.CharField(max_length=20)
    content = models.TextField()
    view_box = models.CharField(max_length=80)
    width = models.FloatField()
    height = models.FloatField()
    height_mm = models.FloatField()
    said = models.CharField(max_length=500)
    worst = models.JSONField(null=True)

    objects = SampleQuerySet.as_manager()

    def __str__(self) -> str:
        return f"{self.product}: {self.said}"


def current_product(code: str) -> Product:
    """The newest version of a product, for pages.

    Raises
    ------
    django.http.Http404 : there is none of this code
    """
    return get_object_or_404(Product.objects.current(), code=code)

"""Products, versioned: a line keeps the version that it was made with."""

from __future__ import annotations

import hashlib
import json
from functools import lru_cache
from typing import Any, Self

from django.db import models, transaction

from kizami.products import Catalogue, product_from_table
from kizami.products import Product as ProductSpec


class ProductQuerySet(models.QuerySet["Product"]):
    """Table-level questions about products."""

    def current(self) -> Self:
        """The newest version of every product."""
        return self.filter(is_current=True)

    def catalogue(self) -> tuple[Catalogue, dict[str, Product]]:
        """The current products as the core's catalogue, and the rows by folded code."""
        rows = {product.code.casefold(): product for product in self.current()}
        from workshop.orders.models import Alias

        aliases = dict(Alias.objects.filter(kind=Alias.Kind.PRODUCT).values_list("word", "target"))
        specs = {key: row.to_spec() for key, row in rows.items()}
        return Catalogue(products=specs, aliases=aliases), rows

    def put(self, table: dict[str, Any]) -> Product:
        """Take a product's table in: as a new version when it differs from the current one.

        Raises
        ------
        kizami.errors.CatalogueError : the table is not a product
        """
        spec = product_from_table(table)
        digest = hashlib.sha256(json.dumps(table, sort_keys=True).encode()).hexdigest()
        with transaction.atomic():
            newest = self.select_for_update().filter(code=spec.code).order_by("-version").first()
            if newest is not None and newest.digest == digest:
                return newest
            self.filter(code=spec.code, is_current=True).update(is_current=False)
            return self.create(
                code=spec.code,
                version=newest.version + 1 if newest else 1,
                name=spec.name,
                table=table,
                digest=digest,
                is_current=True,
            )


class Product(models.Model):
    """One version of a product."""

    code = models.CharField(max_length=40)
    version = models.PositiveIntegerField()
    name = models.CharField(max_length=200)
    table = models.JSONField()
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

    def __str__(self) -> str:
        return f"{self.code} v{self.version}"

    def to_spec(self) -> ProductSpec:
        """The core's product. Versions never change, so each is read once."""
        return _spec(self.digest, json.dumps(self.table))


@lru_cache(maxsize=512)
def _spec(digest: str, table: str) -> ProductSpec:
    return product_from_table(json.loads(table))

"""Products in the database: versions, and lines that keep theirs."""

from __future__ import annotations

import pytest

from kizami.errors import CatalogueError
from tests.kizami.samples import TAG_TABLE
from tests.workshop.lists import HEADER
from workshop.catalogue.models import Product
from workshop.intake.taking import take_list

pytestmark = pytest.mark.django_db


def test_putting_the_same_table_twice_makes_one_version() -> None:
    first, second = (Product.objects.put(TAG_TABLE) for _ in range(2))
    assert first.pk == second.pk
    assert Product.objects.filter(code="TAG").count() == 1


def test_a_changed_table_is_a_new_version_and_lines_keep_theirs(owner) -> None:
    Product.objects.put(TAG_TABLE)
    line = take_list(f"{HEADER}A,1,tag,,Ng,1,,\n".encode(), name="x", user=owner).lines.get()
    newer = Product.objects.put({**TAG_TABLE, "treatment": {"kind": "engraved", "depth_mm": 0.5}})
    assert (newer.version, newer.is_current) == (2, True)
    line.refresh_from_db()
    assert line.product.version == 1
    assert line.to_inputs().product.treatment.depth_mm == 1.0
    later = take_list(f"{HEADER}B,1,TAG,,Ng,1,,\n".encode(), name="x", user=owner).lines.get()
    assert later.product == newer


def test_a_table_that_is_no_product_is_refused() -> None:
    with pytest.raises(CatalogueError):
        Product.objects.put({**TAG_TABLE, "process": "forging"})
    assert not Product.objects.exists()

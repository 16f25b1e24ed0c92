"""Supplied shapes in the Catalogue: added once, never changed, named by products, put on trial elsewhere."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from tests.conftest import make_user
from tests.workshop.shown_meshes import shown_mesh
from workshop.catalogue.models import Product, SuppliedFile
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine

pytestmark = pytest.mark.django_db


def stl(*size: float) -> bytes:
    return bytes(trimesh.creation.box(size).export(file_type="stl"))


def send(client, data: bytes, name: str = "block.stl", unit: str = "mm") -> str:
    answer = client.post(
        reverse("catalogue:add-shape"), {"shape": SimpleUploadedFile(name, data), "unit": unit}, follow=True
    )
    return answer.content.decode()


def test_a_shape_is_added_and_listed_with_its_measures(owner_client) -> None:
    page = send(owner_client, stl(60, 30, 8))
    assert 'data-shape="block.stl"' in page
    row = SuppliedFile.objects.get(name="block.stl")
    assert row.facts["size_mm"] == [60, 30, 8]
    assert row.facts["volume_mm3"] == pytest.approx(14400)
    answer = owner_client.get(reverse("catalogue:shape-solid", args=[row.pk]))
    shown = shown_mesh(answer.content)
    assert shown.volume == pytest.approx(14400, rel=1e-5)


def test_the_same_file_again_is_the_same_shape_and_another_needs_a_new_name(owner_client) -> None:
    send(owner_client, stl(60, 30, 8))
    assert "Nothing was added" not in send(owner_client, stl(60, 30, 8))
    assert "new name" in send(owner_client, stl(60, 30, 9))
    assert SuppliedFile.objects.filter(name="block.stl").count() == 1


@pytest.mark.parametrize(
    ("data", "name", "unit", "said"),
    [
        (stl(60, 30, 8), "block.stl", "", "does not say its unit"),
        (stl(0.5, 0.4, 0.3), "block.stl", "mm", "in cm it would be"),
        (b"nothing", "block.stl", "mm", "no STL"),
        (stl(60, 30, 8), "block.exe", "mm", "none of"),
    ],
)
def test_what_is_no_shape_is_refused_and_nothing_is_stored(
    owner_client, data: bytes, name: str, unit: str, said: str
) -> None:
    before = SuppliedFile.objects.count()
    page = send(owner_client, data, name, unit)
    assert said in page and "Nothing was added" in page
    assert SuppliedFile.objects.count() == before


def test_only_those_who_may_add(client, shop) -> None:
    client.force_login(make_user("Desk"))
    assert client.get(reverse("catalogue:shapes")).status_code == 200
    assert client.post(reverse("catalogue:add-shape")).status_code == 403
    client.logout()
    assert client.get(reverse("catalogue:shapes")).status_code == 302


def test_a_piece_is_made_on_a_supplied_shape_from_the_order_list(owner) -> None:
    made = take_list(b"order,product,wording\nP1,PEBBLE-FOB,Bo\n", name="x.csv", user=owner)
    make_list(made.pk)
    line = OrderLine.objects.get(order="P1")
    assert line.stage == "ready"


def test_another_place_on_the_shape_is_tried_and_kept(owner_client) -> None:
    address = reverse("catalogue:wall", args=["PEBBLE-FOB"])
    samples = reverse("catalogue:more-samples", args=["PEBBLE-FOB"])
    small = owner_client.get(samples, {"blank.radius_mm": "6"}).content.decode()
    usual = owner_client.get(samples).content.decode()
    assert small.count('data-fits="yes"') < usual.count('data-fits="yes"')
    assert "three numbers" in owner_client.get(address, {"blank.point": "1 2"}).content.decode()
    owner_client.post(reverse("catalogue:keep-product", args=["PEBBLE-FOB"]), {"blank.point": "26; 15.4; 20"})
    kept = Product.objects.current().get(code="PEBBLE-FOB")
    assert (kept.version, kept.table["blank"]["point"]) == (2, [26.0, 15.4, 20.0])


def test_a_product_of_a_shape_that_is_not_there_is_refused(owner_client) -> None:
    table = Product.objects.current().get(code="PEBBLE-FOB").table
    from kizami.products.product_file import write_products

    text = write_products([{**table, "blank": {**table["blank"], "file": "gone.stl", "unit": "mm"}}])
    page = owner_client.post(reverse("catalogue:keep-file"), {"text": text})
    assert page.status_code == 422
    assert "There is no shape “gone.stl”" in page.content.decode()


def test_the_grid_lies_on_the_body(owner_client) -> None:
    answer = owner_client.get(reverse("catalogue:grid", args=["CHOIR-RING"])).json()
    assert answer["step_mm"] == 1.0
    points = np.concatenate([np.array(line).reshape(-1, 3) for line in answer["lines"]])
    radii = np.hypot(points[:, 0], points[:, 1])
    assert np.ptp(radii) < 1e-2

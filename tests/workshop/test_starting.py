"""A product from nothing: begun from its kind or as a copy, under a code of its own."""

from __future__ import annotations

import re
import threading

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.urls import reverse

from kizami.errors import CatalogueError
from kizami.products.starting import starting_products
from workshop.catalogue.models import Product, SuppliedFile, stored_body
from workshop.catalogue.samples import sample_laid_out

pytestmark = pytest.mark.django_db


def begin(client, **given: str):
    return client.post(reverse("catalogue:start"), {"kind": "ROUND-TAG", **given}, follow=True)


def test_an_empty_shop_leads_to_its_first_product(owner_client) -> None:
    Product.objects.all().delete()
    new = reverse("catalogue:new")
    assert new in owner_client.get(reverse("catalogue:products")).content.decode()
    assert new in owner_client.get(reverse("intake:take")).content.decode()
    page = owner_client.get(new).content.decode()
    assert page.count("data-start=") == len(starting_products())
    page = begin(owner_client, code=" MOON-22 ", name="Moon tag, 22 mm").content.decode()
    assert "Moon tag, 22 mm" in page and "data-product-form" in page
    spec = Product.objects.current().get(code="MOON-22").to_spec()
    assert (spec.blank.length_mm, spec.treatment.kind) == (22.0, "engraved")


@pytest.mark.parametrize("kind", list(starting_products()))
def test_every_kind_is_drawn(owner_client, kind: str) -> None:
    answer = owner_client.get(reverse("catalogue:start-sample", args=[kind]))
    assert answer.status_code == 200 and b"<svg" in answer.content


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({"code": "", "name": "Tag"}, "needs a code"),
        ({"code": "TAG", "name": "  "}, "needs a code"),
        ({"code": "crew-tag", "name": "Tag"}, "There is a product CREW-TAG already"),
        ({"code": "x" * 41, "name": "Tag"}, "40 characters"),
        ({"code": "A" * 5, "name": "n" * 201}, "a name 200"),
        ({"code": "<b>", "name": "Tag"}, "code"),
        ({"code": "new", "name": "Tag"}, "name of a page"),
    ],
)
def test_what_can_not_be_begun_is_said_and_what_was_typed_stays(
    shop, owner_client, given: dict[str, str], says: str
) -> None:
    before = Product.objects.count()
    answer = begin(owner_client, **given)
    page = answer.content.decode()
    assert says in page and "Nothing was begun" in page
    if given["name"].strip() and len(given["name"]) < 200:
        assert f'value="{given["name"]}"' in page and 'value="ROUND-TAG" checked' in page
    assert Product.objects.count() == before


def test_a_kind_that_there_is_not(owner_client) -> None:
    assert begin(owner_client, code="T", name="T", kind="TEAPOT").status_code == 404
    assert owner_client.get(reverse("catalogue:start-sample", args=["TEAPOT"])).status_code == 404


def test_a_copy_is_as_the_product_is_now_and_changes_nothing_of_it(shop, owner_client) -> None:
    address = reverse("catalogue:copy-product", args=["CREW-TAG"])
    owner_client.post(address, {"code": "NIGHT-TAG", "name": "Night crew tag"})
    one, other = (Product.objects.current().get(code=code).to_spec() for code in ("CREW-TAG", "NIGHT-TAG"))
    assert (one.blank, one.treatment, one.plan) == (other.blank, other.treatment, other.plan)
    again = owner_client.post(address, {"code": "night-tag", "name": "Again"}, follow=True).content.decode()
    assert "already" in again and Product.objects.filter(code__iexact="night-tag").count() == 1


@pytest.mark.django_db(transaction=True)
def test_two_who_begin_the_same_code_at_once_make_one_product() -> None:
    table = {**starting_products()["TAG"], "name": "Tag"}
    said: list[str] = []

    def begin_one(code: str) -> None:
        try:
            Product.objects.begin({**table, "code": code})
            said.append("begun")
        except CatalogueError as error:
            said.append(str(error))
        finally:
            connection.close()

    threads = [threading.Thread(target=begin_one, args=(code,)) for code in ("TWIN", "Twin", "twin")]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert said.count("begun") == 1 and sum("already" in one for one in said) == 2
    assert Product.objects.filter(code__iexact="twin").count() == 1


def test_a_product_begins_on_a_shape_that_a_customer_sent(shop, owner_client) -> None:
    shape = SuppliedFile.objects.get(name="shapes/pebble.3mf")
    page = owner_client.get(reverse("catalogue:shapes")).content.decode()
    address = reverse("catalogue:start-on-shape", args=[shape.pk])
    assert address in page
    answer = owner_client.post(address, {"code": "STONE", "name": "Own stone"}, follow=True)
    assert "Own stone is here" in answer.content.decode()
    spec = Product.objects.current().get(code="STONE").to_spec()
    assert spec.blank.body_file == stored_body(shape.name, shape.unit)
    again = owner_client.post(address, {"code": "Stone", "name": "Again"}, follow=True).content.decode()
    assert "already" in again


TAG_SVG = b"""<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="30mm" viewBox="0 0 60 30">
<rect x="5" y="5" width="50" height="20" rx="4" fill="none" stroke="red"/>
<circle cx="12" cy="15" r="2.5"/></svg>"""


def drawn(client, data: bytes = TAG_SVG, name: str = "tag.svg", **given: str):
    file = SimpleUploadedFile(name, data)
    values = {"kind": "drawn", "code": "DRAWN", "name": "Drawn tag", "outline": file, **given}
    return client.post(reverse("catalogue:start"), values, follow=True)


@pytest.mark.parametrize(
    ("length", "mm"), [("", (50.0, 20.0)), ("40", (40.0, 16.0)), ("2,5 in", (63.5, 25.4))]
)
def test_a_product_begins_from_a_drawn_outline_as_large_as_was_said(
    shop, owner_client, length: str, mm: tuple[float, float]
) -> None:
    page = drawn(owner_client, length=length).content.decode()
    # Of 5 mm in the file, at the length that was said.
    assert (
        f"right through it: a hole {5.0 * mm[0] / 50.0:.2f} mm across" in page
        and "50.00 × 20.00 mm as drawn" in page
    )
    blank = Product.objects.current().get(code="DRAWN").to_spec().blank
    assert (blank.length_mm, blank.height_mm) == pytest.approx(mm, abs=1e-3)
    assert len(blank.openings) == 1


@pytest.mark.parametrize(
    ("data", "name", "length", "says"),
    [
        (TAG_SVG.replace(b"<rect", b"<text").replace(b"<circle", b"<text"), "a.svg", "", "Nothing is drawn"),
        (TAG_SVG, "a.png", "", "none of .svg, .dxf"),
        (TAG_SVG, "a.svg", "4000", "must be from 5 to 300"),
        (TAG_SVG, "a.svg", "wide", "is not a number"),
        (b"nothing", "a.dxf", "", "not a whole DXF file"),
        (TAG_SVG.replace(b'width="60mm" height="30mm"', b'width="6mm" height="3mm"'), "a.svg", "", "would be 5.00 mm long and 2.00 mm high"),
    ],
)  # fmt: skip
def test_an_outline_that_can_not_be_used_is_refused_and_nothing_is_begun(
    shop, owner_client, data: bytes, name: str, length: str, says: str
) -> None:
    before = Product.objects.count()
    answer = drawn(owner_client, data, name, length=length)
    page = answer.content.decode()
    assert says in page and "Nothing was begun" in page
    assert 'value="drawn" id="kind-drawn" checked' in page and 'value="Drawn tag"' in page
    assert Product.objects.count() == before


OPEN_SVG = b"""<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="30mm" viewBox="0 0 60 30">
<path d="M5 5 H55 V25 H5 V9" fill="none" stroke="black"/></svg>"""


def test_what_is_wrong_with_an_outline_is_shown_at_its_place(shop, owner_client) -> None:
    page = drawn(owner_client, OPEN_SVG, "open.svg").content.decode()
    # In the numbers of the file, in which y runs down.
    assert "The outline is open: it ends at 5.00, 9.00" in page
    ring = re.search(r'class="k-fault" cx="([0-9.]+)" cy="([0-9.]+)"', page)
    line = re.search(r'class="k-outline" d="M([0-9.]+) ([0-9.]+)', page)
    assert ring and line
    # The line begins at its upper left corner and its other end lies straight below it, within the gap.
    assert float(ring[1]) == pytest.approx(float(line[1]), abs=0.5)
    assert float(ring[2]) > float(line[2])
    # What can't be read at all has nothing to show.
    assert "k-fault" not in drawn(owner_client, b"nothing", "a.dxf").content.decode()


def test_a_plate_gets_another_outline_as_a_new_version_and_keeps_all_else(shop, owner_client) -> None:
    before = Product.objects.current().get(code="CREW-TAG")
    address = reverse("catalogue:other-outline", args=["CREW-TAG"])
    file = SimpleUploadedFile("open.svg", OPEN_SVG)
    refused = owner_client.post(address, {"outline": file, "length": ""})
    assert refused.status_code == 422 and "k-fault" in refused.content.decode()
    assert Product.objects.current().get(code="CREW-TAG").pk == before.pk
    sent = {"outline": SimpleUploadedFile("tag.svg", TAG_SVG), "length": "58"}
    page = owner_client.post(address, sent, follow=True).content.decode()
    assert "has another outline, as version 2" in page
    after = Product.objects.current().get(code="CREW-TAG")
    assert after.table["blank"]["length_mm"] == 58.0 and len(after.table["blank"]["points"]) > 8
    assert {k: v for k, v in after.table.items() if k != "blank"} == {
        k: v for k, v in before.table.items() if k != "blank"
    }
    # A ring has none.
    band = Product.objects.current().filter(table__blank__kind="band").first()
    if band is not None:
        assert owner_client.post(reverse("catalogue:other-outline", args=[band.code])).status_code == 404


LINE_SVG = (
    b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 60 20" width="60mm" height="20mm">'
    b'<path d="M2 14 C20 4 40 4 58 14" fill="none" stroke="black"/></svg>'
)


def letter_it(client, file: bytes, *, how: str, length: str = "", name: str = "line.svg"):
    sent = {"outline": SimpleUploadedFile(name, file), "how": how, "length": length}
    return client.post(reverse("catalogue:lettering-drawn", args=["CREW-TAG"]), sent, follow=True)


def test_lettering_stands_on_a_line_that_was_drawn_elsewhere(shop, owner_client) -> None:
    before = Product.objects.current().get(code="CREW-TAG")
    page = letter_it(owner_client, LINE_SVG, how="along", length="50").content.decode()
    assert "lettered as it was drawn, as version 2" in page and "a line 50.00 mm long" in page
    after = Product.objects.current().get(code="CREW-TAG")
    shape = after.table["arrangement"]["shape"]
    steps = np.hypot(*np.diff(np.array(shape["points"]), axis=0).T)
    assert (
        shape["kind"] == "path"
        and shape["points"][0] == [0.0, 0.0]
        and steps.sum() == pytest.approx(50, abs=0.01)
    )
    assert {k: v for k, v in after.table.items() if k != "arrangement"} == {
        k: v for k, v in before.table.items() if k != "arrangement"
    }
    # It bends up in the middle, and so do the letters.
    marks = sample_laid_out(after.to_spec(), "MAREN").layout.marks
    assert marks[2].v_mm > max(marks[0].v_mm, marks[-1].v_mm) and marks[0].angle_rad > 0 > marks[-1].angle_rad


def test_lettering_fills_an_outline_that_was_drawn_elsewhere(shop, owner_client) -> None:
    data = TAG_SVG
    page = letter_it(owner_client, data, how="filling", name="tag.svg").content.decode()
    assert "lettered as it was drawn, as version 2" in page
    shape = Product.objects.current().get(code="CREW-TAG").table["arrangement"]["shape"]
    wide, high = np.ptp(np.array(shape["points"]), axis=0)
    assert (shape["kind"], shape["outline"]) == ("filled", "free")
    assert shape["width"] == pytest.approx(wide / high, rel=1e-3)


@pytest.mark.parametrize(
    ("file", "how", "length", "said"),
    [
        pytest.param(b"nothing", "along", "", "Nothing was kept", id="no drawing"),
        pytest.param(LINE_SVG, "filling", "", "k-fault", id="an open line is no outline"),
        pytest.param(TAG_SVG, "along", "", "closes on itself", id="a closed one is no line"),
        pytest.param(LINE_SVG, "along", "1", "from 3 to 1000", id="too short"),
        pytest.param(LINE_SVG, "along", "far", "“far”", id="no number"),
    ],
)
def test_a_drawing_that_letters_can_not_take_is_refused_and_nothing_kept(
    shop, owner_client, file: bytes, how: str, length: str, said: str
) -> None:
    answer = letter_it(owner_client, file, how=how, length=length)
    assert answer.status_code == 422 and said in answer.content.decode()
    assert Product.objects.current().get(code="CREW-TAG").version == 1


def test_a_drawing_needs_to_be_for_something(shop, owner_client) -> None:
    assert letter_it(owner_client, LINE_SVG, how="somehow").status_code == 404


def test_without_a_file_it_says_what_is_missing(shop, owner_client) -> None:
    page = begin(owner_client, kind="drawn", code="D", name="D").content.decode()
    assert "Choose an SVG or DXF file" in page

"""Pieces that are lettered in several places, at the bench and in the Catalogue."""

from __future__ import annotations

import re

import pytest
from django.urls import reverse

from tests.workshop.drawn import as_drawn
from workshop.catalogue.models import Product
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine
from workshop.orders.stages import Stage

pytestmark = pytest.mark.django_db
LIST = "order,line,product,size,wording,inside\nP1,1,PLEDGE-RING,54,Marisol,21 June 2027\nP1,2,FERRY-KEY,,Petrel,\n"


@pytest.fixture
def lines(owner) -> dict[str, OrderLine]:
    made = take_list(LIST.encode(), name="x.csv", user=owner)
    make_list(made.pk)
    return {line.product.code: line for line in OrderLine.objects.all()}


def heights(page: str) -> list[tuple[str, str]]:
    """The captions of the areas beside the first: name and height."""
    return re.findall(r"<strong[^>]*>(\w+)</strong> · ([\d.]+) mm high", page)


def test_the_bench_shows_every_area(owner_client, lines: dict[str, OrderLine]) -> None:
    assert {line.stage for line in lines.values()} == {Stage.READY}
    ring = owner_client.get(reverse("bench:piece", args=[lines["PLEDGE-RING"].pk])).content.decode()
    assert 'data-further="inside"' in ring and 'aria-label="21 · 06 · 27 on the unrolled inside' in ring
    assert heights(ring) == [("Inside", "3.90")]
    assert "On the inside" in ring
    key = owner_client.get(reverse("bench:piece", args=[lines["FERRY-KEY"].pk])).content.decode()
    assert 'data-further="back"' in key
    # What every piece of a product carries is the product's affair, not the line's.
    assert 'name="second"' not in key


def test_a_second_wording_is_tried_kept_and_given_back(owner_client, lines: dict[str, OrderLine]) -> None:
    line = lines["PLEDGE-RING"]
    sent = {"wording": line.wording, "chosen": "1", "second": "1 May 2028"}
    look = owner_client.get(reverse("bench:look", args=[line.pk]), as_drawn(line, sent)).content.decode()
    assert "01 · 05 · 28" in look and "Not kept yet" in look
    assert OrderLine.objects.get(pk=line.pk).choices == {}
    assert owner_client.post(reverse("bench:keep", args=[line.pk]), as_drawn(line, sent)).status_code == 302
    kept = OrderLine.objects.select_related("revision").get(pk=line.pk)
    assert (kept.choices, kept.second) == ({"second": "1 May 2028"}, "21 June 2027")
    assert kept.to_inputs().second == "01 · 05 · 28"
    assert kept.revision is not None and "second wording “1 May 2028”" in kept.revision.why
    # The same list again says nothing new, and emptying the field brings its words back.
    owner_client.post(reverse("bench:keep", args=[line.pk]), as_drawn(line, {**sent, "second": ""}))
    assert OrderLine.objects.get(pk=line.pk).to_inputs().second == "21 · 06 · 27"


def test_a_date_that_can_be_read_twice_is_settled_at_the_bench(owner_client, owner) -> None:
    made = take_list(
        LIST.replace("21 June", "03/04/").replace("/ 2027", "/2027").encode(), name="y.csv", user=owner
    )
    make_list(made.pk)
    line = OrderLine.objects.get(order="P1", line="1")
    assert (line.second, line.stage) == ("03/04/2027", Stage.HELD)
    sent = {"wording": line.wording, "chosen": "1", "second": "2027-04-03"}
    owner_client.post(reverse("bench:keep", args=[line.pk]), as_drawn(line, sent))
    assert OrderLine.objects.get(pk=line.pk).stage == Stage.READY


def test_the_catalogue_shows_and_changes_every_area(owner_client, shop) -> None:
    page = owner_client.get(reverse("catalogue:product", args=["FERRY-KEY"])).content.decode()
    assert re.findall(r'data-area="(\w+)"', page) == ["face", "back"]
    assert "Also on the back" in page
    changed = {"also.0.text": "FOUND ME?\r\nQUAY 9", "also.0.treatment.depth_mm": "0.7"}
    wall = owner_client.get(reverse("catalogue:wall", args=["FERRY-KEY"]), changed).content.decode()
    assert "FOUND ME?\nQUAY 9" in wall
    owner_client.post(reverse("catalogue:keep-product", args=["FERRY-KEY"]), changed)
    kept = Product.objects.current().get(code="FERRY-KEY")
    (back,) = kept.to_spec().also
    assert (kept.version, back.text, back.treatment.floor_below_mm) == (2, "FOUND ME?\nQUAY 9", 0.7)  # type: ignore[union-attr]


def test_another_treatment_of_a_further_area_asks_for_its_own_numbers(owner_client, shop) -> None:
    changed = {"also.0.treatment.kind": "raised", "also.0.treatment.height_mm": "0.6"}
    owner_client.post(reverse("catalogue:keep-product", args=["FERRY-KEY"]), changed)
    (back,) = Product.objects.current().get(code="FERRY-KEY").to_spec().also
    assert back.treatment.kind == "raised"
    assert back.treatment.layer == (0.0, 0.6)  # type: ignore[union-attr]


def test_a_cut_too_deep_for_the_other_side_is_said_on_the_page(owner_client, shop) -> None:
    changed = {"also.0.treatment.depth_mm": "2.4"}
    wall = owner_client.get(reverse("catalogue:wall", args=["FERRY-KEY"]), changed).content.decode()
    assert "floor left" in wall.lower()


def test_a_line_that_fails_one_check_in_two_places_is_one_line(owner_client, owner, shop) -> None:
    deep = {"treatment.depth_mm": "0.9", "also.0.treatment.depth_mm": "0.9"}
    owner_client.post(reverse("catalogue:keep-product", args=["PLEDGE-RING"]), deep)
    make_list(take_list(LIST.encode(), name="z.csv", user=owner).pk)
    line = OrderLine.objects.select_related("revision").get(order="P1", line="1")
    assert line.revision is not None
    failing = line.revision.findings.filter(level="fails").values_list("code", "area")
    # And what rays find on the finished ring, which is of no one area.
    assert set(failing) == {("floor-left", "outside"), ("floor-left", "inside"), ("wall-thickness", "")}
    page = owner_client.get(reverse("book:book"), {"check": "floor-left", "stage": "held"}).content.decode()
    assert page.count("data-row") == 1


def test_the_order_book_shows_the_second_wording_as_it_stands(
    owner_client, lines: dict[str, OrderLine]
) -> None:
    line = lines["PLEDGE-RING"]
    assert "21 June 2027" in owner_client.get(reverse("book:book")).content.decode()
    sent = {"wording": line.wording, "chosen": "1", "second": "1 May 2028"}
    owner_client.post(reverse("bench:keep", args=[line.pk]), as_drawn(line, sent))
    page = owner_client.get(reverse("book:book")).content.decode()
    assert "1 May 2028" in page and "21 June 2027" not in page


def test_the_order_book_draws_every_area_at_the_one_scale(owner_client, lines: dict[str, OrderLine]) -> None:
    for line in lines.values():
        revision = OrderLine.objects.select_related("revision").get(pk=line.pk).revision
        assert revision is not None
        # Each area once on its rule at the one scale; where that is a band, it stands small in front too.
        assert revision.strip.count('class="k-rule"') == 2
        assert revision.strip.count("k-letters") == 2 + revision.strip.count("scale(")
        _, _, width, height = (float(x) for x in revision.strip_view_box.split())
        assert (width, height) == pytest.approx((revision.strip_width_mm, revision.strip_height_mm), abs=1e-3)
        # As high as two strips: each shows 7 mm of its area, or all of it.
        assert height > 14
    page = owner_client.get(reverse("book:book")).content.decode()
    assert 'aria-label="Marisol, 21 June 2027, ' in page


def test_a_further_area_is_set_otherwise_kept_told_and_given_back(
    owner_client, lines: dict[str, OrderLine]
) -> None:
    line = lines["FERRY-KEY"]
    page = owner_client.get(reverse("bench:piece", args=[line.pk])).content.decode()
    assert 'data-group="On the back"' in page and 'name="on.back.height_mm"' in page
    (was,) = heights(page)
    sent = {"wording": line.wording, "chosen": "1", "on.back.height_mm": "0.15 in", "on.back.depth_mm": "0,6"}
    look = owner_client.get(reverse("bench:look", args=[line.pk]), sent).content.decode()
    assert heights(look) == [("Back", "3.81")] != [was]
    assert "on the back at most 3.81 mm, on the back deep or proud by 0.60 mm" in look
    assert OrderLine.objects.get(pk=line.pk).choices == {}
    owner_client.post(reverse("bench:keep", args=[line.pk]), as_drawn(line, sent))
    kept = OrderLine.objects.select_related("revision").get(pk=line.pk)
    assert kept.choices == {"further": {"back": {"height_mm": 3.81, "depth_mm": 0.6}}}
    assert kept.stage == Stage.READY and kept.revision is not None and "on the back" in kept.revision.why
    # Its fields are open and hold what was set, and what is sent without them is as the product has it.
    page = owner_client.get(reverse("bench:piece", args=[line.pk])).content.decode()
    assert re.search(r'<details[^>]*open[^>]*data-group="On the back"', page)
    assert re.search(r'name="on.back.height_mm"[^>]*value="3.81"', page)
    owner_client.post(
        reverse("bench:keep", args=[line.pk]), as_drawn(kept, {"wording": line.wording, "chosen": "1"})
    )
    assert OrderLine.objects.get(pk=line.pk).choices == {}


def test_what_can_not_be_set_on_a_further_area_is_said_and_nothing_is_kept(
    owner_client, lines: dict[str, OrderLine]
) -> None:
    line = lines["FERRY-KEY"]
    other = {"wording": line.wording, "chosen": "1", "on.edge.height_mm": "3", "further": "x"}
    owner_client.post(reverse("bench:keep", args=[line.pk]), as_drawn(line, other))
    assert OrderLine.objects.get(pk=line.pk).choices == {}, "an area that it has not"
    sent = {"wording": line.wording, "chosen": "1", "on.back.height_mm": "4000"}
    look = owner_client.get(reverse("bench:look", args=[line.pk]), sent).content.decode()
    assert "On the back: Height at most: 4000 must be from 0.5 to 100 mm." in look
    owner_client.post(reverse("bench:keep", args=[line.pk]), as_drawn(line, sent))
    assert OrderLine.objects.get(pk=line.pk).choices == {}


def test_a_back_that_does_not_hold_is_cured_on_the_back(owner_client, owner, shop) -> None:
    high = {"also.0.fit.lowest_height_mm": "4.9"}
    owner_client.post(reverse("catalogue:keep-product", args=["FERRY-KEY"]), high)
    make_list(take_list(LIST.encode(), name="w.csv", user=owner).pk)
    line = OrderLine.objects.get(order="P1", line="2")
    assert line.stage == Stage.HELD
    page = owner_client.get(reverse("bench:remedies", args=[line.pk])).content.decode()
    form = re.search(r'<form method="post" action="[^"]*/keep/".*?</form>', page, re.S)
    assert form is not None and "Take it" in form[0]
    sent = dict(re.findall(r'type="hidden" name="([^"]+)" value="([^"]*)"', form[0]))
    assert any(name.startswith("on.back.") for name in sent)
    owner_client.post(reverse("bench:keep", args=[line.pk]), sent)
    cured = OrderLine.objects.get(pk=line.pk)
    assert cured.stage == Stage.READY and list(cured.choices["further"]) == ["back"]


def test_a_piece_is_cut_open_across_the_area_that_is_asked_for(
    owner_client, lines: dict[str, OrderLine]
) -> None:
    address = reverse("bench:cut", args=[lines["FERRY-KEY"].pk])
    said = {area: owner_client.get(address, {"area": area}).json() for area in ("", "face", "back", "edge")}
    depths = {area: {one["title"]: one["mm"] for one in cut["lengths"]} for area, cut in said.items()}
    assert depths["face"]["proud"] == pytest.approx(0.8, abs=1e-3) == depths[""]["proud"]
    assert depths["back"]["deep"] == pytest.approx(0.5, abs=1e-3)
    # Of an area that it has not, the wording's own is shown.
    assert said["edge"] == said[""] and "Cut on the back across" in said["back"]["said"]
    ring = owner_client.get(reverse("bench:cut", args=[lines["PLEDGE-RING"].pk]), {"area": "inside"}).json()
    assert {one["title"]: round(one["mm"], 2) for one in ring["lengths"]}["deep"] == 0.4


def test_lettering_is_drawn_where_a_hand_has_it_on_the_area_that_is_meant(
    owner_client, lines: dict[str, OrderLine]
) -> None:
    line = lines["FERRY-KEY"]
    address = reverse("bench:hand", args=[line.pk])
    sent = {"wording": line.wording, "chosen": "1", "on.back.across_mm": "-1"}
    face, back = (owner_client.get(address, {**sent, "area": area}).json() for area in ("", "back"))
    plain = owner_client.get(address, {"wording": line.wording, "chosen": "1", "area": "back"}).json()
    assert back["ink"][1] < plain["ink"][1] and face["height"] > back["height"]
    assert owner_client.get(address, {**sent, "area": "no such"}).json() == face

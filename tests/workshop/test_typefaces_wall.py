"""The wall of typefaces: sorted by what holds, at one scale; taken out of use without breaking what uses them."""

from __future__ import annotations

import re

import pytest
from django.urls import reverse

from kizami.lettering.shipped import shipped_typeface, shipped_typefaces
from kizami.lettering.typeface_facts import words_hold
from kizami.pieces.make import make_piece
from kizami.products.product import Word
from kizami.remedies.search import search_remedies
from kizami.standards import shipped_standards
from tests.conftest import make_user
from workshop.catalogue.models import Product, RetiredTypeface, retired_typefaces
from workshop.catalogue.product_fields import fields_of
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine

pytestmark = pytest.mark.django_db
PAGE = reverse("catalogue:typefaces")


def shown(client, **values: str) -> list[tuple[str, bool, float, float]]:
    """Code, whether it holds, and the drawing's width and height, px, in the order of the page."""
    page = client.get(PAGE, values).content.decode()
    rows = re.findall(
        r'data-typeface="([^"]+)" data-holds="(yes|no)".*?<svg[^>]*width="([^"]+)" height="([^"]+)"',
        page,
        re.S,
    )
    return [(code, holds == "yes", float(wide), float(high)) for code, holds, wide, high in rows]


@pytest.mark.parametrize("height", ["3,2", "4.0", "6", "0.25 in"])
@pytest.mark.parametrize("treatment", ["raised", "engraved"])
def test_those_that_hold_come_first_the_lowest_first(shop, owner_client, height, treatment) -> None:
    limits = shipped_standards().processes["lost-wax"].limits
    sunk = treatment == "engraved"
    mm = 6.35 if "in" in height else float(height.replace(",", "."))
    rows = shown(owner_client, words="Otto & Ida", height=height, treatment=treatment, process="lost-wax")
    assert {code for code, *_ in rows} == set(shipped_typefaces())
    lowest = {}
    for code, holds, _, _ in rows:
        held = words_hold("Otto & Ida", shipped_typeface(code))
        lowest[code] = held.lowest_height_mm(limits, engraved=sunk)
        assert holds == (not held.missing and lowest[code] <= mm), code
    can = [code for code, *_ in rows if not words_hold("Otto & Ida", shipped_typeface(code)).missing]
    assert [lowest[code] for code in can] == sorted(lowest[code] for code in can)
    assert [code for code, *_ in rows][: len(can)] == can


def test_all_stand_at_one_scale(shop, owner_client) -> None:
    """The drawings' room above and below is the same, so at one scale they are equally high."""
    rows = shown(owner_client, words="Otto")
    assert len({high for *_, high in rows}) == 1
    assert len({wide for *_, wide, _ in rows}) > len(rows) / 2


@pytest.mark.parametrize(
    ("height", "said"),
    [("tall", "is not a number"), ("400", "Height"), ("-1", "Height"), ("3 kg", "3 kg")],
)
def test_a_height_that_can_t_be_is_told_and_the_usual_one_shown(shop, owner_client, height, said) -> None:
    page = owner_client.get(PAGE, {"height": height}).content.decode()
    assert said in page and "4 mm is shown" in page


def test_out_of_use_is_offered_to_nobody_and_stays_with_what_has_it(shop, owner, owner_client) -> None:
    row = Product.objects.current().get(code="CREW-TAG")
    own, other = row.table["typeface"], "great-vibes"
    for code in (own, other):
        owner_client.post(reverse("catalogue:retire-typeface", args=[code]))
    assert retired_typefaces() == {own, other} and RetiredTypeface.objects.first().who == owner
    offered = dict(next(f for f in fields_of(row.table) if f.name == "typeface").choices)
    assert own in offered and other not in offered
    # A line of the product is made as ever.
    make_list(take_list(b"order,product,wording\nV9,CREW-TAG,Ida\n", name="v.csv", user=owner).pk)
    assert OrderLine.objects.get(order="V9").stage == "ready"
    assert [code for code, *_ in shown(owner_client, words="Otto")][-2:] == sorted(
        [own, other], key=lambda code: words_hold("Otto", shipped_typeface(code)).lowest_height_mm(
            shipped_standards().processes["lost-wax"].limits, engraved=False)
    )  # fmt: skip
    owner_client.post(reverse("catalogue:retire-typeface", args=[other]), {"again": "1"})
    assert retired_typefaces() == {own}


def test_a_cure_is_never_a_typeface_that_is_out_of_use(shop, owner) -> None:
    make_list(
        take_list(b"order,product,wording\nV9,CREW-TAG,Wolfeschlegelsteinhausen\n", name="v", user=owner).pk
    )
    line = OrderLine.objects.get(order="V9")
    inputs = line.to_inputs()
    made = make_piece(inputs)
    assert made.stage == "held"
    gone = frozenset(shipped_typefaces())
    found = search_remedies(inputs, made, seconds=60.0, most=5, trials=40, passed_over=gone)
    offered = set(inputs.product.choices(Word.TYPEFACE))
    assert {cure.setting.typeface for cure in found.cures} <= {"", *offered}


def test_whoever_may_not_add_typefaces_takes_none_out_of_use(shop, client) -> None:
    client.force_login(make_user("Desk"))
    assert client.post(reverse("catalogue:retire-typeface", args=["pacifico"])).status_code == 403
    assert "Take out of use" not in client.get(PAGE).content.decode()


def test_only_typefaces_that_there_are_are_taken_out_of_use(shop, owner_client) -> None:
    assert owner_client.post(reverse("catalogue:retire-typeface", args=["none"])).status_code == 404

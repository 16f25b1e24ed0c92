"""Two ways of one piece beside each other, at one scale, with the measures that differ."""

from __future__ import annotations

import re

import pytest
from django.urls import reverse

from tests.workshop.lists import HEADER
from workshop.bench.side_by_side import compared, side_of
from workshop.intake.taking import take_list
from workshop.making.keeping import change_wording
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine

pytestmark = pytest.mark.django_db


@pytest.fixture
def line(shop, owner) -> OrderLine:
    orders = HEADER + "S1,1,GUEST-PLATE,,Egret,1,,Pia\nS1,2,CREW-TAG,,Heron,1,,Pia\n"
    make_list(take_list(orders.encode(), name="s.csv", user=owner).pk)
    line = OrderLine.objects.get(order="S1", line="1")
    change_wording(line.pk, "Egret", user=owner, choices={"height_mm": 6.0})
    return OrderLine.objects.get(pk=line.pk)


def test_as_kept_beside_as_the_product_has_it(line: OrderLine, owner_client) -> None:
    page = owner_client.get(reverse("bench:beside", args=[line.pk])).content.decode()
    assert "data-over" in page and "Measures that differ" in page
    both = compared(side_of("product", line), side_of("now", line))
    heights = [side.made.laid_out.layout.height_mm for side in both.sides]
    assert heights[1] == 6.0 < heights[0]
    assert "Lettering height" in {row.title for row in both.differ}


@pytest.mark.parametrize("code", ["now", "product", "r1", "r2", "in-pacifico"])
def test_a_thing_beside_itself_differs_in_nothing(line: OrderLine, code: str) -> None:
    side = side_of(code, line)
    assert compared(side, side).differ == ()


def test_pieces_of_two_products_stand_at_one_scale(line: OrderLine) -> None:
    other = OrderLine.objects.get(order="S1", line="2")
    both = compared(side_of("now", line), side_of(f"line{other.pk}", line))
    assert both.over == "", "their areas are not the same"
    scales = [side.width_px / side.drawing.view_box[2] for side in both.sides]
    assert scales[0] == pytest.approx(scales[1], rel=0.01)


@pytest.mark.parametrize("code", ["", "r99", "line0", "line", "r", "in-no-such-hand", "r" + "9" * 40, "rr1"])
def test_what_is_not_there_is_said_so(line: OrderLine, owner_client, code: str) -> None:
    answer = owner_client.get(reverse("bench:beside", args=[line.pk]), {"one": code})
    assert answer.status_code == 404


def test_every_choice_can_be_shown(line: OrderLine, owner_client) -> None:
    address = reverse("bench:beside", args=[line.pk])
    page = owner_client.get(address).content.decode()
    codes = re.findall(r'<option value="([^"]+)"', page.split("</select>")[0])
    assert {"now", "product", "r1", "r2"} <= set(codes) and len(codes) > 20
    for code in codes[:6]:
        assert owner_client.get(address, {"other": code}).status_code == 200


def test_a_piece_of_another_order_stands_beside_it_by_its_ticket_code(
    line: OrderLine, owner, owner_client
) -> None:
    far = HEADER + "S9,4,GUEST-PLATE,,Grebe,1,,Pia\n"
    make_list(take_list(far.encode(), name="far.csv", user=owner).pk)
    address = reverse("bench:beside", args=[line.pk])
    page = owner_client.get(address, {"piece": " s9-4 "}).content.decode()
    assert "Grebe" in page and "Of another order" in page
    # It stays chosen when something else is then chosen on the other side.
    code = f"line{OrderLine.objects.get(order='S9').pk}"
    assert re.search(rf'value="{code}" selected', owner_client.get(address, {"other": code}).content.decode())
    page = owner_client.get(address, {"piece": "<S9>-77"}).content.decode()
    assert "There is no piece “&lt;S9&gt;-77”" in page and "data-over" in page


def test_heavier_strokes_and_another_treatment_are_compared(line: OrderLine) -> None:
    plain, heavy = (side_of(code, line) for code in ("now", "strokes+0.05"))
    both = compared(plain, heavy)
    areas = [side.made.laid_out.layout.outlines.area for side in both.sides]
    assert areas[1] > areas[0]
    raised = compared(plain, side_of("made-raised", line)).sides[1]
    assert raised.made.laid_out.made.treatment.kind == "raised"

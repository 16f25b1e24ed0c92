"""The first hour of a shop: what comes next is told to who may do it, and no longer than it helps."""

from __future__ import annotations

import pytest
from django.urls import reverse

from tests.conftest import make_user
from workshop.book.first_hour import first_steps
from workshop.catalogue.models import Product
from workshop.intake.taking import take_list
from workshop.orders.models import Piece

pytestmark = pytest.mark.django_db


def test_an_empty_shop_is_led_from_step_to_step(owner_client, owner) -> None:
    Product.objects.all().delete()
    page = owner_client.get(reverse("book:book")).content.decode()
    assert "data-first-hour" in page and reverse("catalogue:new") in page
    assert [step.name for step in first_steps(owner) if not step.is_done][:2] == [
        "A product",
        "An order list",
    ]


def test_what_is_there_is_told_and_the_first_run_ends_it(owner, shop, monkeypatch) -> None:
    take_list(b"order,product,wording\nA1,CREW-TAG,Ottoline\n", name="x.csv", user=owner)
    done = {step.name: step.is_done for step in first_steps(owner)}
    assert done["A product"] and done["An order list"] and not done["A run"]
    # As if the piece that is new were in a run: the database lets none into one that was not made ready.
    assert Piece.objects.filter(stage="new").exists()
    monkeypatch.setattr("workshop.book.first_hour.UNDER_WAY", ("new",))
    assert first_steps(owner) == []


def test_nobody_is_led_where_they_may_not_go(shop) -> None:
    assert [step.name for step in first_steps(make_user("Production"))] == ["A run"]
    assert [step.name for step in first_steps(make_user("Desk"))] == ["An order list", "A run"]


def test_a_shop_that_runs_is_not_told(owner, shop) -> None:
    rows = "".join(f"A{n},CREW-TAG,Ida\n" for n in range(31))
    take_list(f"order,product,wording\n{rows}".encode(), name="x.csv", user=owner)
    assert first_steps(owner) == []

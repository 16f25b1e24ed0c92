"""Words of the shop's own book, to try products, typefaces and logos with."""

from __future__ import annotations

import re

import pytest
from django.test import Client
from django.urls import reverse

from tests.workshop.lists import HEADER
from workshop.intake.taking import take_list

pytestmark = pytest.mark.django_db


def offered(client, **asked: object) -> list[str]:
    page = client.get(reverse("book:lately"), asked).content.decode()
    return re.findall(r'value="([^"]*)"', page)


@pytest.fixture
def book(owner):
    names = ["Ida", "Featherstonehaugh", "Bo", "Ida", "Anne-Sophie", "Wim &amp; Co", "Lou", "Tess", "Rob", ""]
    rows = "".join(f"L1,{n},CREW-TAG,,{name},1,,\n" for n, name in enumerate(names, start=1))
    return take_list((HEADER + rows).encode(), name="x", user=owner)


def test_the_latest_words_come_first_and_then_the_longest_each_once(shop, book, owner_client) -> None:
    words = offered(owner_client)
    assert words[:3] == ["Rob", "Tess", "Lou"]
    assert words[3] == "Featherstonehaugh" and len(words) == len(set(words)) == 5


def test_none_is_offered_that_the_field_would_not_hold(shop, book, owner_client) -> None:
    assert "Featherstonehaugh" not in offered(owner_client, longest=12)
    # Whatever is asked, it is bounded and lands in a field of the page.
    for asked in ({"longest": "9" * 40}, {"longest": "-1"}, {"longest": "x", "into": '"><script>'}):
        page = owner_client.get(reverse("book:lately"), asked)
        assert page.status_code == 200 and b"<script>" not in page.content


def test_an_empty_book_offers_nothing_and_nobody_reads_it_unasked(shop, owner_client) -> None:
    assert owner_client.get(reverse("book:lately")).content.strip() == b""
    assert Client().get(reverse("book:lately")).status_code == 302


@pytest.mark.parametrize(
    ("name", "args"),
    [("catalogue:product", ["CREW-TAG"]), ("catalogue:typefaces", [])],
)
def test_pages_that_try_words_ask_for_them(shop, owner_client, name: str, args: list[str]) -> None:
    page = owner_client.get(reverse(name, args=args)).content.decode()
    into = re.search(reverse("book:lately") + r"\?into=([a-z]+)", page)
    assert into and f'id="{into[1]}"' in page


def test_a_product_is_shown_with_the_words_that_were_typed(shop, owner_client) -> None:
    wall = reverse("catalogue:wall", args=["CREW-TAG"])
    usual = owner_client.get(wall).content.decode()
    own = owner_client.get(wall, {"said": "Ivo"}).content.decode()
    assert "with “Ivo” on it" in own and "with “Ivo” on it" not in usual
    # They are no value of the product: no field is sent anew, and what they draw goes on with them.
    assert "hx-swap-oob" in own and 'id="fields"' not in own
    assert reverse("catalogue:product-solid", args=["CREW-TAG"]) + "?said=Ivo" in own
    solid = reverse("catalogue:product-solid", args=["CREW-TAG"])
    assert owner_client.get(solid, {"said": "Ivo"}).content != owner_client.get(solid).content
    # Kept with them it is the same product.
    owner_client.post(reverse("catalogue:keep-product", args=["CREW-TAG"]), {"said": "Ivo"})
    assert "v1" in owner_client.get(reverse("catalogue:product", args=["CREW-TAG"])).content.decode()

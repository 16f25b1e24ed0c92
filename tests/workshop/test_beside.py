"""Two versions of a product beside each other: the same wordings on both, and what differs in words."""

from __future__ import annotations

import re

import pytest
from django.urls import reverse

from workshop.catalogue.models import Product
from workshop.catalogue.product_form import changed_table
from workshop.catalogue.samples import SAMPLE_NAMES, sample_laid_out, strip_of

pytestmark = pytest.mark.django_db
PAGE, PAIRS = (reverse(f"catalogue:{name}", args=["CREW-TAG"]) for name in ("beside", "beside-pairs"))


def new_version(**values: str) -> Product:
    table = Product.objects.current().get(code="CREW-TAG").table
    return Product.objects.put(changed_table(table, {k.replace("__", "."): v for k, v in values.items()}))


def all_pairs(client, **asked: str) -> str:
    url, pages = f"{PAIRS}?{'&'.join(f'{k}={v}' for k, v in asked.items())}", ""
    while url:
        page = client.get(url).content.decode()
        pages += page
        again = re.search(r'hx-get="([^"]+)"', page)
        url = again[1].replace("&amp;", "&") if again else ""
    return pages


def test_every_wording_stands_on_both_as_each_version_sets_it(shop, owner_client) -> None:
    first = Product.objects.current().get(code="CREW-TAG")
    second = new_version(fit__greatest_height_mm="7.0")
    said = all_pairs(owner_client, **{"from": "1", "to": "2"})
    heights = [float(mm) for mm in re.findall(r"<div class=\"text-sm\">([\d.]+) mm", said)]
    expected = [
        strip_of(sample_laid_out(row.to_spec(), name))["height_mm"]
        for name in SAMPLE_NAMES
        for row in (first, second)
    ]
    assert heights == pytest.approx(expected, abs=0.005) and max(heights[1::2]) <= 7.0 < max(heights[::2])
    same = re.findall(r'data-same="(yes|no)"', said)
    assert same == ["yes" if a == b else "no" for a, b in zip(expected[::2], expected[1::2], strict=True)]
    assert {"yes", "no"} == set(same)


def test_how_many_fit_is_counted_on_each_over_all_portions(shop, owner_client) -> None:
    new_version(blank__length_mm="34")
    said = all_pairs(owner_client)
    older, newer = re.findall(r"<strong>(\d+)</strong> of 12 sample wordings fit", said)[-2:]
    assert int(newer) < int(older) <= len(SAMPLE_NAMES)
    cells = re.findall(r'class="ticket (ticket-held|ticket-ready)', said)
    assert [cells[n::2].count("ticket-ready") for n in (0, 1)] == [int(older), int(newer)]


def test_what_differs_is_told_and_any_two_can_be_chosen(shop, owner_client) -> None:
    new_version(fit__greatest_height_mm="7.0")
    new_version(blank__length_mm="50")
    newest = owner_client.get(PAGE).content.decode()
    assert "What version 3 has otherwise" in newest and "letters at most" not in newest
    whole = owner_client.get(PAGE, {"from": "1", "to": "3"}).content.decode()
    assert "letters at most" in whole and "length" in whole


@pytest.mark.parametrize("asked", [{}, {"from": "1", "to": "1"}, {"from": "7", "to": "x" * 400}])
def test_one_version_alone_leads_back_to_the_product(shop, owner_client, asked) -> None:
    page = owner_client.get(PAGE, asked).content.decode()
    assert "There is one version yet" in page and reverse("catalogue:product", args=["CREW-TAG"]) in page

"""What a version of a product changed, told on its page."""

from __future__ import annotations

from copy import deepcopy

import pytest
from django.urls import reverse

from workshop.catalogue.models import Product
from workshop.catalogue.product_fields import known_for
from workshop.catalogue.versions import told_between, versions_of

pytestmark = pytest.mark.django_db


@pytest.fixture
def tag(shop) -> Product:
    return Product.objects.current().get(code="CREW-TAG")


def changed(table: dict, **values: object) -> dict:
    """The table with other values, by their whole keys with double underscores."""
    table = deepcopy(table)
    for key, value in values.items():
        *parts, last = key.split("__")
        target = table
        for part in parts:
            target = target[part]
        target[last] = value
    return table


@pytest.mark.parametrize(
    ("values", "said"),
    [
        ({}, []),
        ({"fit__lowest_height_mm": 4.0}, ["lettering: letters at least 4.4 → 4 mm high"]),
        ({"blank__thickness_mm": 3.25}, ["blank: thickness 2.8 → 3.25 mm"]),
        ({"typeface": "vollkorn-bold"}, ["lettering: typeface Noto Sans Bold → Vollkorn Bold"]),
        ({"name": "Night tag"}, ["called Night tag"]),
        ({"wording": {"kind": "name"}}, ["what may stand on it: capitals at beginnings only yes → no"]),
        (
            {"fit__steps": ["lower"]},
            [
                "when it does not fit: tried, one after the other "
                "lower letters, leave the second wording… → lower letters"
            ],
        ),
    ],
)
def test_each_change_is_told_once_in_the_words_of_the_page(
    tag: Product, values: dict, said: list[str]
) -> None:
    assert list(told_between(tag.table, changed(tag.table, **values), known_for(tag.table))) == said


def test_another_treatment_is_told_with_what_it_brings(tag: Product) -> None:
    other = changed(tag.table, treatment={"kind": "raised", "height_mm": 0.6, "root_mm": 0.4})
    said = list(told_between(tag.table, other, known_for(tag.table)))
    assert any("lettering is engraved → raised" in one for one in said)
    assert any("stand proud 0.6 mm" in one for one in said)


def test_versions_stand_on_the_page_the_newest_first(tag: Product, owner_client) -> None:
    for lowest in (4.2, 4.0):
        Product.objects.put(changed(tag.table, fit__lowest_height_mm=lowest))
    told = versions_of(tag)
    assert [one.number for one in told] == [3, 2, 1] and told[-1].said == ()
    assert told[0].said == ("lettering: letters at least 4.2 → 4 mm high",)
    page = owner_client.get(reverse("catalogue:product", args=["CREW-TAG"])).content.decode()
    assert "letters at least 4.2 → 4 mm high" in page and "as it began" in page


def test_only_the_newest_of_many_versions_are_told_and_in_few_questions(
    tag: Product, django_assert_num_queries
) -> None:
    for n in range(20):
        Product.objects.put(changed(tag.table, fit__lowest_height_mm=2.0 + 0.05 * n))
    with django_assert_num_queries(3):
        told = versions_of(tag)
    assert len(told) == 12 and told[0].number == 21 and all(one.said for one in told)

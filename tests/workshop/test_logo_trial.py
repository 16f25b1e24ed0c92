"""A logo tried on a product at once: each grey as it would be, and how small it may be, before any is kept."""

from __future__ import annotations

import re

import pytest
from django.urls import reverse

from kizami.artwork.shelf import read_logo
from kizami.outlines.narrow import measure_shape
from launch.state import REPOSITORY
from tests.conftest import make_user
from workshop.artwork.models import Logo
from workshop.catalogue.models import Product
from workshop.intake.logo_trial import GREYS, tried_on
from workshop.intake.logos import take_logos
from workshop.sources.models import Source

pytestmark = pytest.mark.django_db
LANTERN, HERON = (REPOSITORY / "demo" / "logos" / name for name in ("lantern.png", "heron.svg"))


@pytest.fixture
def logos(shop, owner) -> dict[str, Logo]:
    take_logos(
        Source.objects.create(name="s"), [(f.name, f.read_bytes()) for f in (LANTERN, HERON)], user=owner
    )
    return {logo.name: logo for logo in Logo.objects.all()}


def badge() -> Product:
    return Product.objects.current().filter(table__takes_logo=True).order_by("code")[0]


def test_a_picture_is_tried_at_every_grey_and_a_drawing_once(logos) -> None:
    product = badge().to_spec()
    tried = list(tried_on(logos["lantern.png"], product, "Ida"))
    assert [one.percent for one in tried] == [None, *(round(100 * grey) for grey in GREYS)]
    assert [one.is_own for one in tried] == [True, *[False] * len(GREYS)]
    assert [one.percent for one in tried_on(logos["heron.svg"], product, "Ida")] == [None]


def test_the_least_size_is_where_its_finest_stroke_and_opening_hold(logos) -> None:
    """Measured anew on the logo of that very size."""
    product = badge().to_spec()
    limits, sunk = product.process.limits, product.treatment.sinks
    one = next(tried_on(logos["heron.svg"], product, "Ida"))
    shape = read_logo(HERON.read_bytes(), name="heron.svg").shape
    facts = measure_shape(shape, cap_height=1.0)
    stroke = facts.stroke.width * one.least_mm if facts.stroke else 9.0
    gap = facts.gap.width * one.least_mm if facts.gap else 9.0
    assert stroke >= limits.of("stroke-width", sunk=sunk) - 1e-9 and gap >= limits.of("gap-width") - 1e-9
    assert min(stroke - limits.of("stroke-width", sunk=sunk), gap - limits.of("gap-width")) < 1e-6
    assert 0 < one.high_mm < product.blank.height_mm  # type: ignore[union-attr]


def test_a_grey_that_leaves_nothing_is_told_and_the_others_are_shown(logos) -> None:
    tried = {one.percent: one for one in tried_on(logos["lantern.png"], badge().to_spec(), "Ida")}
    assert all(one.said for one in tried.values() if one.strip is None)
    assert any(one.strip is not None and one.percent is not None for one in tried.values())


def test_what_is_pressed_is_kept_and_nothing_before(logos, owner_client) -> None:
    logo = logos["lantern.png"]
    page = owner_client.get(reverse("intake:logo-trial", args=[logo.pk]), {"words": "Ida"}).content.decode()
    kept = re.findall(r'name="threshold" value="(\d*)"', page)
    assert "35" in kept and Logo.objects.get(pk=logo.pk).threshold is None
    answer = owner_client.post(
        reverse("intake:logo-threshold", args=[logo.pk]), {"threshold": "35", "trial": badge().code}
    )
    assert answer["Location"].endswith(f"{logo.pk}/trial/?product={badge().code}")
    assert Logo.objects.get(pk=logo.pk).threshold == 0.35
    again = owner_client.get(answer["Location"]).content.decode()
    assert re.search(r'data-grey="35".*?as it is kept', again, re.S) and "Grey as it is found" in again


def test_where_no_product_takes_a_logo_the_page_leads_on(logos, owner_client) -> None:
    Product.objects.filter(table__takes_logo=True).update(is_current=False)
    page = owner_client.get(reverse("intake:logo-trial", args=[logos["heron.svg"].pk])).content.decode()
    assert "No product takes a logo yet" in page and reverse("catalogue:products") in page


def test_whoever_takes_no_lists_tries_no_logos(logos, client) -> None:
    client.force_login(make_user("Production"))
    assert client.get(reverse("intake:logo-trial", args=[logos["heron.svg"].pk])).status_code == 403

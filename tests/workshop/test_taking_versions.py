"""A new version of a product and the lines that have an older one: told before, taken for all, some or none."""

from __future__ import annotations

import re

import pytest
from django.urls import reverse

from tests.conftest import make_user
from workshop.catalogue.models import Product
from workshop.catalogue.product_form import changed_table
from workshop.catalogue.versions import lines_behind
from workshop.curing.models import Taken, Taking
from workshop.curing.tasks import take_cures
from workshop.intake.taking import take_list
from workshop.making.keeping import change_wording, step, take_version
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine

pytestmark = pytest.mark.django_db
NAMES = ("Ida", "Owen", "Bartholomew", "Wolfeschlegelstein")
PAGE = reverse("curing:version", args=["CREW-TAG"])


@pytest.fixture
def lines(shop, owner) -> list[OrderLine]:
    rows = "".join(f"V{n},CREW-TAG,{name}\n" for n, name in enumerate(NAMES))
    made = take_list(f"order,product,wording\n{rows}".encode(), name="v.csv", user=owner)
    make_list(made.pk)
    return fresh()


def fresh() -> list[OrderLine]:
    return list(OrderLine.objects.filter(order__startswith="V").select_related("product").order_by("pk"))


def new_version(**values: str) -> Product:
    table = Product.objects.current().get(code="CREW-TAG").table
    return Product.objects.put(changed_table(table, {k.replace("__", "."): v for k, v in values.items()}))


def compared(client) -> dict[str, str]:
    """What becomes of each wording, over all portions."""
    found: dict[str, str] = {}
    url = reverse("curing:version-lines", args=["CREW-TAG"])
    while url:
        page = client.get(url.replace("&amp;", "&")).content.decode()
        for becomes, words in re.findall(
            r'data-becomes="([^"]+)".*?<strong[^>]*>([^<]+)</strong>', page, re.S
        ):
            found[words] = becomes
        again = re.search(r'hx-get="([^"]+)" hx-trigger="load"', page)
        url = again[1] if again else ""
    return found


def test_what_a_version_leaves_as_it_is_is_told_from_what_it_draws_otherwise(lines, owner_client) -> None:
    new_version(fit__greatest_height_mm="11.5")
    assert lines_behind(Product.objects.current().get(code="CREW-TAG")) == len(lines)
    found = compared(owner_client)
    # What reaches the greatest height is drawn otherwise; what is lowered anyway begins higher, and ends where
    # it ended.
    short = dict.fromkeys(NAMES[:2], "drawn otherwise")
    assert found == short | dict.fromkeys(NAMES[2:], "the same")


def test_what_becomes_held_and_what_becomes_ready_is_told_before_it_is_taken(lines, owner_client) -> None:
    before = {line.wording: line.stage for line in lines}
    new_version(blank__length_mm="34")
    shorter = compared(owner_client)
    assert shorter["Bartholomew"] == "held" and before["Bartholomew"] == "ready"
    new_version(blank__length_mm="58", fit__lowest_height_mm="3.2")
    lower = compared(owner_client)
    assert lower[NAMES[3]] == "ready" and before[NAMES[3]] == "held"
    # Nothing was changed by looking.
    assert {line.wording: line.stage for line in fresh()} == before
    assert {line.product.version for line in fresh()} == {1}
    page = owner_client.get(PAGE).content.decode()
    assert "letters at least 4.4 → 3.2 mm high" in page


def test_taken_for_some_in_one_step_and_taken_back_in_one(lines, owner_client) -> None:
    newest = new_version(blank__length_mm="120")
    before = [line.revision.fingerprint for line in lines]
    ticked = [f"{line.pk}.{line.edition}" for line in lines[:2]]
    owner_client.post(reverse("curing:take-version", args=["CREW-TAG"]), {"line": ticked})
    taking = Taking.objects.get()
    assert take_cures(taking.pk) == 2
    assert [line.product.version for line in fresh()] == [newest.version, newest.version, 1, 1]
    assert fresh()[0].to_product().blank.length_mm == 120.0  # type: ignore[union-attr]
    assert lines_behind(newest) == 2
    owner_client.post(reverse("curing:back", args=[taking.pk]))
    take_cures(taking.pk)
    assert [line.revision.fingerprint for line in fresh()] == before
    assert [line.product.version for line in fresh()] == [1, 1, 1, 1]


def test_a_line_that_was_changed_meanwhile_is_left_and_told(lines, owner, owner_client) -> None:
    new_version(blank__length_mm="120")
    ticked = f"{lines[0].pk}.{lines[0].edition}"
    change_wording(lines[0].pk, "Idunn", user=owner)
    owner_client.post(reverse("curing:take-version", args=["CREW-TAG"]), {"line": [ticked]})
    take_cures(Taking.objects.get().pk)
    row = Taken.objects.get()
    assert row.state == Taken.State.LEFT and "changed by somebody else" in row.why
    assert fresh()[0].wording == "Idunn" and fresh()[0].product.version == 1


def test_taking_a_version_is_a_step_that_asks_its_wording_anew(lines, owner) -> None:
    initials = new_version(wording__kind="initials")
    made = take_version(lines[1].pk, initials, user=owner)
    line = OrderLine.objects.get(pk=lines[1].pk)
    assert line.product == initials and made.product == initials
    # A first name alone has one initial, which is what the list's own words are read as now.
    assert line.wording == "O"
    step(line.pk, back=True, user=owner)
    line.refresh_from_db()
    assert (line.wording, line.product.version, line.open_question) == ("Owen", 1, "")


def test_nobody_takes_a_version_without_the_right(lines, client) -> None:
    new_version(blank__length_mm="120")
    client.force_login(make_user("Production"))
    assert client.get(PAGE).status_code == 200
    answer = client.post(reverse("curing:take-version", args=["CREW-TAG"]), {"line": [f"{lines[0].pk}.1"]})
    assert answer.status_code == 403 and not Taking.objects.exists()


def test_an_up_to_date_product_has_nothing_to_take(lines, owner_client) -> None:
    assert "has an older version" in owner_client.get(PAGE).content.decode()
    assert compared(owner_client) == {}
    answer = owner_client.post(
        reverse("curing:take-version", args=["CREW-TAG"]), {"line": ["x", "1.1"]}, follow=True
    )
    assert "Nothing was taken" in answer.content.decode()

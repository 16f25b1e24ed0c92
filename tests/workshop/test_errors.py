"""What goes wrong is said as such: whole pages of the shop's own, and parts that never hold what is not theirs."""

from __future__ import annotations

from urllib.parse import parse_qs, urlsplit

import pytest
from django.test import Client
from django.urls import reverse

from tests.conftest import make_user
from tests.workshop.lists import MIXED
from workshop.intake.taking import take_list
from workshop.orders.models import OrderLine

pytestmark = pytest.mark.django_db
PART = {"HX-Request": "true", "HX-Current-URL": "http://testserver/bench/7/?x=1"}


@pytest.fixture
def line(owner) -> OrderLine:
    return take_list(MIXED.encode(), name="x", user=owner).lines.first()


@pytest.mark.parametrize("name", ["book:book", "book:rail", "bench:first", "catalogue:products"])
def test_a_part_asked_for_after_sign_out_sends_the_page_to_sign_in(
    client, line: OrderLine, name: str
) -> None:
    answer = client.get(reverse(name), headers=PART)
    assert answer.status_code == 204 and not answer.content
    to = urlsplit(answer["HX-Redirect"])
    assert to.path == reverse("people:sign-in")
    assert parse_qs(to.query)["next"] == ["/bench/7/?x=1"]
    # A whole page is sent there as ever.
    assert client.get(reverse(name)).status_code == 302


def test_other_redirects_of_parts_stay_what_they_are(owner_client, line: OrderLine) -> None:
    assert owner_client.get(reverse("home"), headers=PART).status_code == 302


def test_a_page_from_the_browser_s_history_comes_whole(owner_client, line: OrderLine) -> None:
    part = owner_client.get(reverse("book:book"), headers=PART).content.decode()
    again = owner_client.get(
        reverse("book:book"), headers={**PART, "HX-History-Restore-Request": "true"}
    ).content.decode()
    assert "<html" not in part and "<html" in again
    assert "HX-Request" in owner_client.get(reverse("book:book"))["Vary"]


def test_what_is_not_there_has_a_page_with_a_way_on(owner_client, client) -> None:
    for address in ("/nowhere/", reverse("bench:piece", args=[999999])):
        answer = owner_client.get(address)
        page = answer.content.decode()
        assert answer.status_code == 404 and 'data-error="404"' in page
        assert f'href="{reverse("book:book")}"' in page


def test_what_is_not_allowed_says_so(client, line: OrderLine) -> None:
    client.force_login(make_user("Production"))
    answer = client.get(reverse("intake:take"))
    assert answer.status_code == 403 and 'data-error="403"' in answer.content.decode()


def test_a_form_that_is_too_old_says_so(owner) -> None:
    strict = Client(enforce_csrf_checks=True)
    strict.force_login(owner)
    answer = strict.post(reverse("book:act"), {"do": "rush"})
    assert answer.status_code == 403 and "too old" in answer.content.decode()


def test_a_fault_has_a_page_that_needs_nothing(owner, monkeypatch, line: OrderLine) -> None:
    def breaks(*args: object, **kwargs: object) -> None:
        raise RuntimeError("it broke")

    monkeypatch.setattr("workshop.book.views.BookView.of", breaks)
    calm = Client(raise_request_exception=False)
    calm.force_login(owner)
    answer = calm.get(reverse("book:book"))
    page = answer.content.decode()
    assert answer.status_code == 500 and 'data-error="500"' in page and "on record" in page
    assert "it broke" not in page


def test_a_request_that_can_not_be_read_says_so(owner) -> None:
    calm = Client(raise_request_exception=False, headers={"host": "somewhere.example"})
    calm.force_login(owner)
    answer = calm.get(reverse("book:book"))
    assert answer.status_code == 400 and 'data-error="400"' in answer.content.decode()

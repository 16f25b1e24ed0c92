"""Pages while things change: rows put right in place, nothing said of what is not made, sizes refused."""

from __future__ import annotations

import datetime as dt
import re

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.http import QueryDict
from django.test.utils import CaptureQueriesContext
from django.urls import reverse
from django.utils import timezone

from kizami.products.product import Word
from tests.workshop.lists import HEADER, MIXED
from workshop.book.book import BookView
from workshop.intake.models import SetAsideRow
from workshop.intake.putting_right import set_alias
from workshop.intake.taking import take_list
from workshop.making.keeping import change_wording
from workshop.making.many import act_on_many, stop_list
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine, OrderList

pytestmark = pytest.mark.django_db
BOOK, ROWS = reverse("book:book"), reverse("book:rows")


@pytest.fixture
def fresh(owner) -> OrderList:
    return take_list(MIXED.encode(), name="x", user=owner)


def shown(page: str) -> list[str]:
    return re.findall(r'data-row="([^"]+)"', page)


def test_only_rows_that_stand_otherwise_come_back(owner_client, owner, fresh: OrderList) -> None:
    rows = shown(owner_client.get(BOOK).content.decode())
    assert len(rows) == 4
    assert owner_client.post(ROWS, {"row": rows}).content.decode().strip() == ""
    make_list(fresh.pk)
    page = owner_client.post(ROWS, {"row": rows}).content.decode()
    assert page.count('hx-swap-oob="true"') == 4 and len(shown(page)) == 4
    rows = shown(page)
    line = OrderLine.objects.get(order="A2", line="1")
    change_wording(line.pk, "Odile", user=owner)
    page = owner_client.post(ROWS, {"row": [*rows, "junk", "9" * 40]}).content.decode()
    assert shown(page) == [f"{line.pk}.{OrderLine.objects.get(pk=line.pk).mark}"] and "Odile" in page


def test_refreshing_rows_takes_as_many_questions_for_many_as_for_few(owner_client, owner, shop) -> None:
    text = HEADER + "".join(f"Q,{n},CREW-TAG,,Bo,1,,\n" for n in range(40))
    take_list(text.encode(), name="q", user=owner)
    rows = [f"{pk}.0" for pk in OrderLine.objects.values_list("pk", flat=True)]

    def queries(some: list[str]) -> int:
        with CaptureQueriesContext(connection) as seen:
            owner_client.post(ROWS, {"row": some})
        return len(seen)

    assert queries(rows) == queries(rows[:2])


def test_what_is_not_made_has_no_verdict_and_no_picture(owner_client, owner, fresh: OrderList) -> None:
    page = owner_client.get(BOOK).content.decode()
    assert (
        page.count("data-not-made") == 4 and "every check passes" not in page and 'class="strip"' not in page
    )
    line = OrderLine.objects.get(order="A1", line="1")
    bench = owner_client.get(line.get_absolute_url()).content.decode()
    assert "Not made yet" in bench and "Every check passes" not in bench and 'data-solid=""' in bench
    make_list(fresh.pk)
    act_on_many({line.pk: None}, do="make again", user=owner)
    page = owner_client.get(f"{BOOK}?q=ottoline").content.decode()
    assert "to be made again" in page and "every check passes" not in page and 'class="strip"' not in page
    assert "Not made yet" in owner_client.get(line.get_absolute_url()).content.decode()


def test_a_stopped_list_says_so_and_is_not_asked_for_again(owner_client, owner, fresh: OrderList) -> None:
    assert "data-asks" in owner_client.get(BOOK).content.decode()
    stop_list(fresh, user=owner, stop=True)
    page = owner_client.get(BOOK).content.decode()
    assert "data-asks" not in page and "4 lines wait until somebody goes on" in page
    stop_list(fresh, user=owner, stop=False)
    assert "data-asks" in owner_client.get(BOOK).content.decode()


@pytest.mark.parametrize("sent", [{"do": "rush"}, {"do": "nonsense", "line": ["1.1"]}])
def test_what_was_not_done_does_not_look_like_a_success(owner_client, fresh: OrderList, sent) -> None:
    page = owner_client.post(reverse("book:act"), sent, follow=True).content.decode()
    assert 'data-said="error"' in page and 'data-said="success"' not in page


@pytest.mark.parametrize(
    ("name", "mb", "most"),
    [("catalogue:add-typeface", 30, 25), ("book:act", 7, 6), ("catalogue:add-shape", 70, 65)],
)
def test_more_than_an_address_takes_is_refused_on_a_page_of_the_shop(
    owner_client, shop, name: str, mb: int, most: int
) -> None:
    file = SimpleUploadedFile("x", b"x" * (mb * 1024 * 1024))
    answer = owner_client.post(reverse(name), {"file": file})
    assert answer.status_code == 413
    page = answer.content.decode()
    assert f"at most {most} MB" in page and f'href="{BOOK}"' in page


def test_a_word_cures_two_hundred_rows_with_few_questions_each(owner, shop) -> None:
    text = HEADER + "".join(f"W{n},1,HIVE-PLATES,,Bo,1,,\n" for n in range(200))
    take_list(text.encode(), name="w", user=owner)
    assert SetAsideRow.objects.count() == 200
    with CaptureQueriesContext(connection) as seen:
        assert set_alias("HIVE-PLATES", Word.PRODUCT, "HIVE-PLATE", user=owner) == 200
    assert OrderLine.objects.count() == 200 and not SetAsideRow.objects.exists()
    # Of one row there would be as many.
    assert len(seen) < 60


def test_the_book_can_be_read_by_what_is_due_and_late(owner_client, owner, shop) -> None:
    today = timezone.localdate()
    days = {"Late": -3, "Soon": 2, "Later": 40}
    text = HEADER + "".join(
        f"D{n},1,CREW-TAG,,{name},1,{today + dt.timedelta(days=day)},\n"
        for n, (name, day) in enumerate(reversed(days.items()))
    )
    text += "D9,1,CREW-TAG,,⚓,1,,\n"
    make_list(take_list(text.encode(), name="d", user=owner).pk)
    words = re.compile(r"data-open>([^<]*)<")
    assert words.findall(owner_client.get(BOOK).content.decode())[0] == "⚓"
    page = owner_client.get(f"{BOOK}?sort=due").content.decode()
    assert words.findall(page) == ["Late", "Soon", "Later", "⚓"]
    assert page.count("data-late") == 1 and 'data-count="late">1<' in page
    assert "sort=due" in BookView.of(QueryDict("sort=due")).query()

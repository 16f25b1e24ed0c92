"""The Order book with many lines: groups, totals, acting on many, and export."""

from __future__ import annotations

import csv
import io
import re
import zipfile

import openpyxl
import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from kizami.wording.order_list import read_order_list
from tests.workshop.drawn import send_on, ticked
from tests.workshop.lists import HEADER
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine, OrderList
from workshop.orders.stages import Stage

pytestmark = pytest.mark.django_db
BOOK = reverse("book:book")
TEXT = (
    "order,line,product,size,wording,quantity,due,customer,set,priority\n"
    "A1,1,CREW-TAG,,jOHN,2,2027-02-01,Ferry,crew,\n"
    "A1,2,CREW-TAG,,Halloran,1,2027-01-01,Ferry,crew,rush\n"
    "A2,1,CHOIR-RING,54,=1+1,1,,@home,,\n"
    "A3,1,HIVE-PLATE,,Clover,4,2027-01-01,Bees,,\n"
)


@pytest.fixture
def book(owner) -> OrderList:
    order_list = take_list(TEXT.encode(), name="x", user=owner)
    make_list(order_list.pk)
    return order_list


def groups(page: str) -> list[str]:
    return [re.sub(r"<[^>]+>", "", g).strip() for g in re.findall(r"data-group>(.*?)</li>", page, re.S)]


@pytest.mark.parametrize(
    ("group", "expected"),
    [
        ("", []),
        (
            "product",
            [
                "Choir ring, 7 mm band, engraved",
                "Crew locker tag, 58 x 24 mm, engraved",
                "Hive plate, 50 x 20 mm, raised",
            ],
        ),
        ("due", ["2027-01-01", "2027-02-01", "No date"]),
        ("nonsense", []),
    ],
)
def test_lines_are_grouped(owner_client, book: OrderList, group: str, expected: list[str]) -> None:
    assert groups(owner_client.get(f"{BOOK}?group={group}").content.decode()) == expected


def test_sets_are_grouped_with_the_height_they_share(owner_client, book: OrderList) -> None:
    found = groups(owner_client.get(f"{BOOK}?group=set").content.decode())
    assert any(g.startswith("crew, order A1") and "mm" in g for g in found)
    assert found == sorted(found, key=lambda g: g.startswith("No set"))


@pytest.mark.parametrize(
    ("query", "totals"),
    [("", "4 lines, 8 pieces"), ("q=crew", "2 lines, 3 pieces"), ("q=nobody", "0 lines, 0 pieces")],
)
def test_totals_are_those_of_the_view(owner_client, book: OrderList, query: str, totals: str) -> None:
    assert totals in owner_client.get(f"{BOOK}?{query}").content.decode()


def test_csv_export_reads_back_as_an_order_list(owner_client, book: OrderList) -> None:
    data = owner_client.get(reverse("book:export-csv") + "?q=a1").content
    rows = read_order_list(data).rows
    assert {(r.order, r.line, r.wording, r.quantity, r.set_name, r.rush) for r in rows} == {
        ("A1", "1", "jOHN", 2, "crew", False),
        ("A1", "2", "Halloran", 1, "crew", True),
    }


def test_exports_are_harmless(owner_client, book: OrderList) -> None:
    text = owner_client.get(reverse("book:export-csv")).content.decode("utf-8-sig")
    cells = [cell for row in csv.reader(io.StringIO(text, newline="")) for cell in row]
    assert "'=1+1" in cells and "'@home" in cells
    data = owner_client.get(reverse("book:export-xlsx")).content
    sheet = zipfile.ZipFile(io.BytesIO(data)).read("xl/worksheets/sheet1.xml")
    assert b"<f>" not in sheet
    values = [cell.value for row in openpyxl.load_workbook(io.BytesIO(data)).active for cell in row]
    assert "=1+1" in values and "@home" in values


def act(client, do: str, *numbers: str):
    pks = [ticked(OrderLine.objects.get(order=n.split("-")[0], line=n.split("-")[1])) for n in numbers]
    return client.post(
        reverse("book:act"), {"do": do, "line": [*pks, "junk", "9" * 30]}, follow=True
    ).content.decode()


def test_acting_on_many_at_once(owner_client, book: OrderList) -> None:
    assert "2 lines are to be made before others" in act(owner_client, "rush", "A1-1", "A3-1")
    assert set(OrderLine.objects.filter(rush=True).values_list("order", flat=True)) == {"A1", "A3"}
    act(owner_client, "no rush", "A3-1")
    assert not OrderLine.objects.get(order="A3").rush
    assert "1 proposal was taken" in act(owner_client, "take proposals", "A1-1", "A1-2")
    changed = OrderLine.objects.get(order="A1", line="1")
    assert (changed.wording, changed.proposal, changed.stage) == ("John", "", Stage.NEW)
    make_list(book.pk)
    # The question about the capitals is answered with them.
    assert OrderLine.objects.get(pk=changed.pk).stage == Stage.READY
    assert OrderLine.objects.get(pk=changed.pk).revision.wording == "John"
    act(owner_client, "make again", "A2-1")
    assert OrderLine.objects.get(order="A2").stage == Stage.NEW


def test_a_proposal_leaves_other_questions_open(owner, owner_client) -> None:
    text = "order,product,wording,second\nB1,NAME-PLATE,jOHN,2027\n"
    take_list(text.encode(), name="x", user=owner)
    line = OrderLine.objects.get()
    assert "shift key" in line.open_question and "2027" in line.open_question
    act(owner_client, "take proposals", "B1-1")
    line.refresh_from_db()
    assert line.wording == "John" and "shift key" not in line.open_question and "2027" in line.open_question


def test_lines_on_their_way_are_left_alone(owner_client, book: OrderList) -> None:
    send_on(OrderLine.objects.filter(order="A3"), Stage.MADE)
    said = act(owner_client, "make again", "A3-1", "A2-1")
    assert "1 was left alone" in said
    assert OrderLine.objects.get(order="A3").stage == Stage.MADE


def test_an_unknown_action_does_nothing(owner_client, book: OrderList) -> None:
    before = list(OrderLine.objects.order_by("pk").values())
    assert "Nothing was done" in act(owner_client, "explode", "A1-1")
    assert list(OrderLine.objects.order_by("pk").values()) == before


def test_acting_needs_the_right_and_a_fixed_number_of_queries(
    client, owner_client, book: OrderList, owner
) -> None:
    from tests.conftest import make_user

    def queries(count: int) -> int:
        pks = [ticked(line) for line in OrderLine.objects.all()[:count]]
        with CaptureQueriesContext(connection) as seen:
            owner_client.post(reverse("book:act"), {"do": "rush", "line": pks})
        return len(seen)

    more = HEADER + "".join(f"Q,{i},CREW-TAG,,Name {i},1,,\n" for i in range(60))
    take_list(more.encode(), name="more", user=owner)
    assert queries(50) == queries(2)
    client.force_login(make_user("Production"))
    assert client.post(reverse("book:act"), {"do": "rush"}).status_code == 403


def test_held_lines_are_sorted_by_what_holds_them(owner_client, owner) -> None:
    text = HEADER + (
        "H,1,CREW-TAG,,⚓,1,,\nH,2,CREW-TAG,,Ng ⚓,1,,\nH,3,CREW-TAG,,Featherstonehaugh-Winterbourne,1,,\nH,4,CREW-TAG,,Ng,1,,\n"
    )
    make_list(take_list(text.encode(), name="x", user=owner).pk)
    page = owner_client.get(f"{BOOK}?stage=held").content.decode()
    found = dict(
        re.findall(r">([a-z ]+) <strong>(\d+)</strong></a>", page.split("data-failing")[1].split("</p>")[0])
    )
    assert found["missing characters"] == "2" and found["lettering height"] == "1"
    one = owner_client.get(f"{BOOK}?stage=held&check=missing-character").content.decode()
    assert len(re.findall("data-row", one)) == 2
    assert "data-failing" not in owner_client.get(BOOK).content.decode()

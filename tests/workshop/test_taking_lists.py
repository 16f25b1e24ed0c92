"""Taking lists in: one transaction, nothing lost, every bad input refused with a reason."""

from __future__ import annotations

import re

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from tests.workshop.lists import HEADER, MIXED
from workshop.intake.models import Intake, SetAsideRow
from workshop.intake.taking import take_list
from workshop.making.recording import make_line
from workshop.orders.models import Event, OrderLine, OrderList, Piece
from workshop.orders.stages import Stage

pytestmark = pytest.mark.django_db
TAKE = reverse("intake:take")


def test_lines_pieces_and_set_aside_rows_are_stored(owner) -> None:
    order_list = take_list(MIXED.encode(), name="mixed.csv", user=owner)
    assert order_list.file.read() == MIXED.encode()
    assert list(order_list.lines.order_by("row").values_list("order", "line", "quantity", "stage")) == [
        ("A1", "1", 1, "new"), ("A1", "2", 1, "new"), ("A2", "1", 3, "new"), ("A2", "2", 1, "new"),
    ]  # fmt: skip
    assert Piece.objects.filter(line__order_list=order_list).count() == 6
    (aside,) = order_list.set_aside.all()
    assert aside.row == 6 and "HIVE-PLATE" in aside.reason
    assert aside.cells == ["A3", "1", "HIVE-PLATES", "", "Clover", "1", "", "Bees"]
    assert Event.objects.filter(order_list=order_list, who=owner).count() == 1


def test_taking_a_list_asks_for_its_making_in_the_same_transaction(owner) -> None:
    from procrastinate.contrib.django.models import ProcrastinateJob

    # Tests with sessions of their own leave theirs behind.
    before = set(ProcrastinateJob.objects.values_list("pk", flat=True))
    order_list = take_list(MIXED.encode(), name="mixed.csv", user=owner)
    jobs = ProcrastinateJob.objects.filter(task_name="make_list").exclude(pk__in=before)
    assert {job.args["order_list_pk"] for job in jobs} == {order_list.pk}


def test_queries_do_not_grow_with_the_rows(owner) -> None:
    def queries(rows: int) -> int:
        text = HEADER + "".join(f"Q{rows},{i},CREW-TAG,,Name {i},1,,\n" for i in range(rows))
        with CaptureQueriesContext(
            connection,
        ) as seen:
            take_list(text.encode(), name="x", user=owner)
        return len(seen)

    few = queries(3)
    assert queries(300) <= few


@pytest.mark.parametrize(
    ("content", "says"),
    [
        pytest.param(b"", "empty", id="empty file"),
        pytest.param(HEADER.encode() + b"A1,1,CREW-TAG,,A\x00na,1,,\n", "NUL", id="NUL byte"),
        pytest.param(b"\x89PNG\r\n\x1a\n\x00\x00", "NUL", id="a picture"),
    ],
)
def test_a_list_that_cannot_be_used_is_refused_and_nothing_is_stored(
    owner_client, content: bytes, says: str
) -> None:
    answer = owner_client.post(TAKE, {"file": SimpleUploadedFile("list.csv", content)})
    assert answer.status_code == 422
    assert says in answer.content.decode()
    assert not OrderList.objects.exists() and not Intake.objects.exists()


def test_a_list_without_a_header_waits_for_its_columns(owner_client) -> None:
    owner_client.post(TAKE, {"pasted": "A1,1,CREW-TAG,,Ng,1,,\nA2,1,CREW-TAG,,Ng,1,,\n"})
    intake = Intake.objects.get()
    page = owner_client.get(intake.get_absolute_url()).content.decode()
    # The product is known by its code; the others only by what they look like.
    assert "Is this column right: Order, Wording?" in page
    assert dict(re.findall(r'data-trial="(\w+)">(\d+)<', page))["new"] == "2"
    answer = owner_client.post(reverse("intake:take-in", args=[intake.pk]), {"do": "take"})
    assert answer.status_code == 422 and "not sure" in answer.content.decode()
    assert not OrderList.objects.exists()


@pytest.mark.parametrize(("mb", "status"), [(50, 422), (75, 413)], ids=["a list", "a whole request"])
def test_too_much_is_refused_with_the_limit_named(owner_client, mb: int, status: int) -> None:
    answer = owner_client.post(TAKE, {"file": SimpleUploadedFile("list.csv", b"x" * (mb * 1024 * 1024))})
    assert answer.status_code == status
    assert "at most 5 MB" in answer.content.decode()
    assert not OrderList.objects.exists()


@pytest.mark.parametrize("data", [{}, {"pasted": "  "}])
def test_nothing_chosen_is_said(owner_client, data: dict[str, str]) -> None:
    answer = owner_client.post(TAKE, data)
    assert answer.status_code == 422
    assert "Choose a file or paste rows" in answer.content.decode()


def test_file_and_paste_together_are_not_guessed_at(owner_client) -> None:
    answer = owner_client.post(TAKE, {"file": SimpleUploadedFile("l.csv", MIXED.encode()), "pasted": MIXED})
    assert answer.status_code == 422
    assert not OrderList.objects.exists()


@pytest.mark.parametrize(
    ("row", "lines", "aside"),
    [
        pytest.param(f"B,1,CREW-TAG,,{'x' * 100_000},1,,", 0, 1, id="100,000-character cell"),
        pytest.param("B,1,NOTHING,,Ng,1,,", 0, 1, id="unknown product"),
        pytest.param("B,1,CHOIR-RING,purple,Ng,1,,", 0, 1, id="size that is no size"),
        pytest.param("B,1,CREW-TAG,,Ng,0,,", 0, 1, id="quantity 0"),
        pytest.param("B,1,CREW-TAG,,Ng,-1,,", 0, 1, id="quantity -1"),
        pytest.param("B,1,CREW-TAG,,Ng,1e9,,", 0, 1, id="quantity 1e9"),
        pytest.param("B,1,CREW-TAG,,🙂🙃,1,,", 1, 0, id="emoji only"),
        pytest.param("B,1,CREW-TAG,,\u202eevil\u202c\x07,1,,", 1, 0, id="control and override characters"),
        pytest.param("B,1,CREW-TAG,,=1+1,1,,", 1, 0, id="formula-like"),
    ],
)
def test_awkward_rows_are_taken_or_set_aside_beside_good_ones(
    owner, row: str, lines: int, aside: int
) -> None:
    text = f"{HEADER}G,1,CREW-TAG,,Good,1,,\n{row}\n"
    order_list = take_list(text.encode(), name="x", user=owner)
    assert order_list.lines.count() == 1 + lines
    assert order_list.set_aside.count() == aside
    for line in order_list.lines.all():
        make_line(line, why="test")
        assert line.stage in (Stage.READY, Stage.HELD)


def test_hidden_characters_are_gone_and_the_original_is_kept(owner) -> None:
    text = f"{HEADER}B,1,CREW-TAG,,\u202eevil\u202c,1,,\n"
    line = take_list(text.encode(), name="x", user=owner).lines.get()
    assert (line.wording, line.wording_received) == ("evil", "\u202eevil\u202c")
    assert line.changes


def test_pasted_rows_go_on_trial_and_then_into_the_book(owner_client) -> None:
    answer = owner_client.post(TAKE, {"pasted": MIXED, "name": "from mail", "source": "Shop A"})
    intake = Intake.objects.get()
    assert answer.url == intake.get_absolute_url()
    assert not OrderLine.objects.exists()
    page = owner_client.get(answer.url).content.decode()
    assert trial_counts(page) == {"new": 4, "changed": 0, "unchanged": 0, "asked": 0, "aside": 1}
    answer = owner_client.post(reverse("intake:take-in", args=[intake.pk]), {"do": "take"})
    order_list = OrderList.objects.get()
    assert answer.url == f"{reverse('book:book')}?list={order_list.pk}"
    assert (order_list.name, order_list.source.name, order_list.lines.count()) == ("from mail", "Shop A", 4)
    assert not Intake.objects.exists()


def trial_counts(page: str) -> dict[str, int]:
    return {name: int(n) for name, n in re.findall(r'data-trial="(\w+)">(\d+)<', page)}


def test_set_aside_rows_come_back_as_a_file_with_reasons(owner_client, owner) -> None:
    order_list = take_list((MIXED + "A4,1,CREW-TAG,,=1+1,0,,\n").encode(), name="x", user=owner)
    assert SetAsideRow.objects.count() == 2
    text = owner_client.get(reverse("intake:set-aside-file", args=[order_list.pk])).content.decode(
        "utf-8-sig"
    )
    header, first, second = text.splitlines()
    assert header == HEADER.strip() + ",set aside because"
    assert first.startswith("A3,1,HIVE-PLATES,,Clover,1,,Bees,")
    assert "'=1+1" in second


def test_the_database_itself_refuses_what_forms_would_miss(owner) -> None:
    from django.db import IntegrityError, transaction

    line = take_list(MIXED.encode(), name="x", user=owner).lines.first()
    for change in ({"quantity": 0}, {"quantity": 10**6}, {"stage": "lost"}):
        with pytest.raises(IntegrityError), transaction.atomic():
            OrderLine.objects.filter(pk=line.pk).update(**change)

"""What is kept in memory over all lines is never older than the lines, and lines go in by one road."""

from __future__ import annotations

import re
import threading

import pytest
from django.db import IntegrityError, connection, transaction
from django.urls import reverse

from tests.workshop.lists import HEADER
from workshop.book import book
from workshop.intake.taking import take_list
from workshop.making.keeping import change_wording
from workshop.making.tasks import make_list, take_up_again
from workshop.orders.copying import store_lines
from workshop.orders.known_words import gather_words_anew, words_of_length
from workshop.orders.models import LineChanged, OrderLine, Piece
from workshop.orders.standing import lines_stamp
from workshop.sources.models import Source

BOOK = reverse("book:book")
TWO = HEADER + "A1,1,CREW-TAG,,Halloran,2,,Ferry\nA1,2,CREW-TAG,,Ivy,1,,Ferry\n"
pytestmark = pytest.mark.django_db


def counts(client) -> tuple[int, int]:
    page = client.get(BOOK).content.decode()
    told = re.search(r"(\d+) lines?, (\d+) pieces?", page)
    return int(told[1]), int(told[2])


def test_the_stamp_is_another_after_every_change_and_the_same_without_one(owner) -> None:
    seen = [lines_stamp()]
    order_list = take_list(TWO.encode(), name="x", user=owner)
    seen.append(lines_stamp())
    assert lines_stamp() == seen[-1]
    Piece.objects.filter(line__wording="Ivy").update(stage="new")
    OrderLine.objects.filter(wording="Ivy").update(note="by post")
    seen.append(lines_stamp())
    OrderLine.objects.filter(wording="Ivy").delete()
    seen.append(lines_stamp())
    order_list.delete()
    seen.append(lines_stamp())
    assert len(set(seen)) == len(seen)


def test_old_changes_go_and_the_counts_stay_true(owner, owner_client) -> None:
    take_list(TWO.encode(), name="x", user=owner)
    for n in range(150):
        OrderLine.objects.filter(wording="Ivy").update(note=str(n))
    before = counts(owner_client)
    take_up_again(0)
    assert LineChanged.objects.count() <= 101
    assert counts(owner_client) == before == (2, 3)
    OrderLine.objects.filter(wording="Ivy").delete()
    assert counts(owner_client) == (1, 2)


@pytest.mark.django_db(transaction=True)
def test_a_change_that_is_not_yet_sure_is_neither_counted_nor_remembered(owner, owner_client, shop) -> None:
    take_list(TWO.encode(), name="x", user=owner)
    assert counts(owner_client) == (2, 3)
    begun, looked = threading.Event(), threading.Event()

    def drop_one() -> None:
        with transaction.atomic():
            OrderLine.objects.filter(wording="Ivy").delete()
            begun.set()
            looked.wait(20)
        connection.close()

    other = threading.Thread(target=drop_one)
    other.start()
    assert begun.wait(20)
    assert counts(owner_client) == (2, 3)
    looked.set()
    other.join()
    assert counts(owner_client) == (1, 2)


def test_a_row_is_drawn_anew_once_its_line_stands_otherwise(owner, owner_client) -> None:
    make_list(take_list(TWO.encode(), name="x", user=owner).pk)
    assert "Halloran" in owner_client.get(BOOK).content.decode()
    line = OrderLine.objects.get(wording="Halloran")
    change_wording(line.pk, "Osgood", user=owner, edition=line.edition)
    page = owner_client.get(BOOK).content.decode()
    assert "Osgood" in page and "Halloran" not in page


def test_who_may_do_nothing_to_lines_gets_no_ticks_from_somebody_else_s_rows(
    owner_client, client, shop, owner
) -> None:
    from django.contrib.auth.models import User

    take_list(TWO.encode(), name="x", user=owner)
    assert 'name="line"' in owner_client.get(BOOK).content.decode()
    client.force_login(User.objects.create_user("Visitor", password="visitor-visitor"))
    assert 'name="line"' not in client.get(BOOK).content.decode()


def test_a_line_that_is_there_already_is_refused_with_all_that_came_with_it(owner) -> None:
    take_list(TWO.encode(), name="x", user=owner)
    known = OrderLine.objects.get(wording="Ivy")
    fresh = {
        "source_id": known.source_id, "order_list_id": known.order_list_id, "order": "B", "line": "1", "row": 9,
        "product_id": known.product_id, "quantity": 2,
    }  # fmt: skip
    again = {**fresh, "order": known.order, "line": known.line}
    with pytest.raises(IntegrityError), transaction.atomic():
        store_lines([fresh, again])
    assert OrderLine.objects.count() == 2
    (key,) = store_lines([fresh])
    stored = OrderLine.objects.get(order="B")
    assert stored.pk == key and stored.folded.startswith("b-1") and stored.pieces.count() == 2
    assert stored.stage == "new" and stored.choices == {} and stored.due is None


def test_words_of_lines_are_known_when_they_come_and_when_they_change(owner) -> None:
    make_list(take_list(TWO.encode(), name="x", user=owner).pk)
    assert {"halloran", "ferry"} <= words_of_length(4)
    line = OrderLine.objects.get(wording="Halloran")
    change_wording(line.pk, "Osgood", user=owner, edition=line.edition)
    assert "osgood" in words_of_length(4)
    OrderLine.objects.filter(pk=line.pk).update(wording="Bo", wording_received="Bo")
    gather_words_anew()
    assert not {"osgood", "halloran"} & words_of_length(4)


def test_held_lines_are_gone_through_one_after_the_other_whatever_is_alike(owner) -> None:
    """In the order of the list itself, with equal badness, equal days and no day."""
    days = ("2027-03-01", "", "2027-02-01", "2027-03-01", "", "2027-02-01")
    rows = "".join(f"H{n},1,CREW-TAG,,⚓,1,{day},\n" for n, day in enumerate(days))
    make_list(take_list((HEADER + rows).encode(), name="h", user=owner).pk)
    held = list(OrderLine.objects.worst_held())
    assert len(held) == len(days)
    for place, line in enumerate(held):
        found = OrderLine.objects.place_among_held(line)
        following = held[(place + 1) % len(held)].pk
        assert (found.count, found.place, found.following) == (len(held), place + 1, following)


def test_who_is_alone_or_not_held_is_led_to_the_others(owner) -> None:
    make_list(
        take_list(
            (HEADER + "H1,1,CREW-TAG,,⚓,1,,\nH2,1,CREW-TAG,,Ivy,1,,\n").encode(), name="h", user=owner
        ).pk
    )
    alone, ready = OrderLine.objects.get(order="H1"), OrderLine.objects.get(order="H2")
    assert OrderLine.objects.place_among_held(alone).following is None
    from_ready = OrderLine.objects.place_among_held(ready)
    assert (from_ready.place, from_ready.count, from_ready.following) == (0, 1, alone.pk)


@pytest.mark.parametrize(
    "query", ["q=crew", "q=alloran", "q=crew+ferry&stage=ready", "q=zq", "q=hallorab", "q=a&sort=due"]
)
@pytest.mark.parametrize("few", [1000, 1, 0], ids=["few", "one more than few", "many"])
def test_few_lines_and_many_are_shown_alike(owner, owner_client, monkeypatch, query: str, few: int) -> None:
    made = take_list((TWO + "A2,1,CREW-TAG,,Ann,1,2027-01-01,Lund\n").encode(), name="x", user=owner)
    make_list(made.pk)

    def shown() -> tuple[list[str], object]:
        page = owner_client.get(f"{BOOK}?{query}").content.decode()
        return re.findall(r'id="row-(\d+)"', page), re.findall(r"\d+ lines?, \d+ pieces?", page)

    usual = shown()
    monkeypatch.setattr(book, "_FEW", few)
    assert shown() == usual
    assert len(usual[0]) == {"q=crew": 3, "q=alloran": 1, "q=zq": 0, "q=hallorab": 1}.get(
        query, len(usual[0])
    )


def test_lines_are_found_by_name_in_their_own_source_alone(owner) -> None:
    take_list(TWO.encode(), name="x", user=owner, source="one")
    take_list(TWO.encode(), name="x", user=owner, source="another")
    source = Source.objects.get(name="one")
    found = OrderLine.objects.named(source, [("A1", "2"), ("A1", "7"), ("2", "A1")])
    assert [(line.source_id, line.wording) for line in found] == [(source.pk, "Ivy")]
    assert not OrderLine.objects.named(source, []).exists()

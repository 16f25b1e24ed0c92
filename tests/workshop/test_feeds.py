"""Listening to a feed that is well, slow, down, lying, repeating itself or out of order."""

from __future__ import annotations

import socketserver
import threading
import time
from collections.abc import Iterator

import pytest
from django.urls import reverse

from shopfeed.server import Shop, serve
from tests.conftest import make_user
from tests.workshop.drawn import send_on
from workshop.book.list_choices import list_choices
from workshop.feeds import client as feed_client
from workshop.feeds.models import Feed, FeedOrder
from workshop.feeds.services import listen, report_back
from workshop.feeds.tasks import hear_feeds
from workshop.intake.models import SetAsideRow
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.orders.list_choice import ALL_LISTS, ListChoice
from workshop.orders.models import OrderLine, OrderList
from workshop.orders.stages import Stage
from workshop.sources.models import Source

pytestmark = pytest.mark.django_db


def order(number: int, *, version: int = 1, wording: str = "Halloran", **line: object) -> dict[str, object]:
    first = {"line": "1", "product": "CREW-TAG", "wording": wording, **line}
    return {"id": f"W-{number}", "version": version, "customer": "Web", "lines": [first]}


@pytest.fixture
def shop_server() -> Iterator[tuple[Shop, str]]:
    shop = Shop(orders=[order(n) for n in range(3)], slow_s=60)
    server = serve(shop, 0)
    thread = threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.02})
    thread.start()
    yield shop, f"http://127.0.0.1:{server.server_address[1]}"
    shop.hurry.set()
    server.shutdown()
    thread.join()
    server.server_close()


@pytest.fixture
def feed(owner, shop_server: tuple[Shop, str]) -> Feed:
    source = Source.objects.create(name="web shop")
    return Feed.objects.create(source=source, address=shop_server[1])


@pytest.fixture
def shop_side(shop_server: tuple[Shop, str]) -> Shop:
    return shop_server[0]


def again(feed: Feed) -> Feed:
    return Feed.objects.get(pk=feed.pk)


def test_new_orders_come_in_as_lists_do(feed: Feed, shop_side: Shop) -> None:
    assert listen(feed.pk) == 3
    assert OrderLine.objects.filter(source=feed.source).count() == 3
    assert again(feed).heard_at is not None and again(feed).trouble == ""
    # Nothing new: no line, no list, but it was heard.
    assert listen(feed.pk) == 0
    assert OrderList.objects.count() == 1
    shop_side.put(order(9, wording="Ng", quantity=2, set="crew", priority="rush", note="Hi"))
    assert listen(feed.pk) == 1
    line = OrderLine.objects.get(order="W-9")
    assert (line.wording, line.quantity, line.set_name, line.rush, line.note) == ("Ng", 2, "crew", True, "Hi")


def test_many_pages_come_in_at_one_listening(feed: Feed, shop_side: Shop) -> None:
    shop_side.orders = [order(n) for n in range(75)]
    assert listen(feed.pk) == 75
    assert OrderLine.objects.count() == 75


@pytest.mark.parametrize("mode", ["twice", "backwards"])
def test_repeated_and_unordered_pages_double_nothing(feed: Feed, shop_side: Shop, mode: str) -> None:
    shop_side.orders = [
        order(1),
        order(2),
        order(1, version=3, wording="Newest"),
        order(1, version=2, wording="Older"),
    ]
    shop_side.mode = mode
    assert listen(feed.pk) == 2
    assert OrderLine.objects.count() == 2
    assert OrderLine.objects.get(order="W-1").wording == "Newest"


def test_an_old_version_that_comes_late_changes_nothing(feed: Feed, shop_side: Shop) -> None:
    shop_side.orders = [order(1, version=5, wording="Five")]
    listen(feed.pk)
    shop_side.put(order(1, version=4, wording="Four"))
    assert listen(feed.pk) == 0
    assert OrderLine.objects.get().wording == "Five"
    shop_side.put(order(1, version=6, wording="Six"))
    assert listen(feed.pk) == 1
    assert OrderLine.objects.get().wording == "Six"
    assert FeedOrder.objects.get().version == 6


def test_a_change_of_a_piece_on_its_way_is_asked_about(feed: Feed, shop_side: Shop) -> None:
    shop_side.orders = [order(1)]
    listen(feed.pk)
    make_list(OrderList.objects.get().pk)
    send_on(OrderLine.objects.all(), Stage.MADE)
    shop_side.put(order(1, version=2, wording="Late wish"))
    listen(feed.pk)
    line = OrderLine.objects.get()
    assert line.wording == "Halloran"
    assert line.questions.get().said == ["wording: “Halloran” → “Late wish”"]


def test_lies_are_set_aside_with_the_place_that_is_wrong_and_the_rest_goes_on(
    feed: Feed, shop_side: Shop
) -> None:
    shop_side.mode = "lying"
    for _ in range(2):  # the same rubbish at every asking is set aside once
        listen(feed.pk)
    assert OrderLine.objects.count() == 3
    reasons = list(SetAsideRow.objects.values_list("reason", flat=True))
    assert len(reasons) == 3
    assert any("version" in reason for reason in reasons) and any("lines" in reason for reason in reasons)
    assert "not as agreed" in again(feed).trouble


def test_rows_of_a_feed_that_can_not_be_made_are_set_aside_as_in_lists(feed: Feed, shop_side: Shop) -> None:
    shop_side.orders = [order(1), order(2, product="NOTHING"), order(3, size="54")]
    listen(feed.pk)
    assert [bool(line.open_question) for line in OrderLine.objects.order_by("order")] == [False, True]
    assert SetAsideRow.objects.count() == 1


def test_down_is_said_and_it_goes_on_where_it_was_when_it_comes_back(feed: Feed, shop_side: Shop) -> None:
    listen(feed.pk)
    heard = again(feed).heard_at
    shop_side.mode = "down"
    shop_side.put(order(8))
    assert listen(feed.pk) == 0
    assert "503" in again(feed).trouble and again(feed).heard_at == heard
    shop_side.mode = "well"
    assert listen(feed.pk) == 1
    assert again(feed).trouble == "" and again(feed).heard_at > heard


def test_slow_is_given_up_on_and_nobody_there_is_said(feed: Feed, shop_side: Shop, monkeypatch) -> None:
    monkeypatch.setattr(feed_client, "_TIMEOUT_S", 0.2)
    shop_side.mode = "slow"
    assert listen(feed.pk) == 0
    assert "did not answer" in again(feed).trouble
    Feed.objects.update(address="http://127.0.0.1:1")
    assert listen(feed.pk) == 0
    assert "can't be reached" in again(feed).trouble


@pytest.mark.parametrize(
    "answer",
    [
        b"HTTP/1.0 200 OK\r\n\r\nnot json",
        b"HTTP/1.0 200 OK\r\n\r\n[]",
        b'HTTP/1.0 200 OK\r\n\r\n{"orders": 3, "next": "1"}',
        b'HTTP/1.0 200 OK\r\n\r\n{"orders": [], "next": {"a": 1}}',
        b"HTTP/1.0 200 OK\r\n\r\n" + b"[" * 100_000,
        b"HTTP/1.0 200 OK\r\n\r\n" + b"x" * (3 * 1024 * 1024),
        b"HTTP/1.0 302 Found\r\nLocation: http://127.0.0.1:1/\r\n\r\n",
        b"rubbish",
        b"",
    ],
    ids=[
        "no json",
        "no page",
        "orders no list",
        "odd cursor",
        "deep",
        "huge",
        "elsewhere",
        "no http",
        "nothing",
    ],
)
def test_whatever_it_answers_becomes_one_sentence(feed: Feed, answer: bytes) -> None:
    class Answer(socketserver.StreamRequestHandler):
        def handle(self) -> None:
            self.rfile.readline()
            try:
                self.wfile.write(answer)
            except OSError:
                pass

    with socketserver.TCPServer(("127.0.0.1", 0), Answer) as server:
        thread = threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.02})
        thread.start()
        Feed.objects.update(address=f"http://127.0.0.1:{server.server_address[1]}")
        try:
            assert listen(feed.pk) == 0
        finally:
            server.shutdown()
            thread.join()
    assert again(feed).trouble
    assert not OrderLine.objects.exists()


def test_the_shop_is_told_how_its_orders_stand_once_for_each_change(feed: Feed, shop_side: Shop) -> None:
    shop_side.orders = [order(1), order(2, wording="⚓")]
    listen(feed.pk)
    assert report_back(feed.pk) == 2
    assert shop_side.statuses == {"W-1": "new", "W-2": "new"}
    make_list(OrderList.objects.get().pk)
    assert report_back(feed.pk) == 2
    assert shop_side.statuses == {"W-1": "ready", "W-2": "held"}
    assert report_back(feed.pk) == 0
    shop_side.mode = "down"
    send_on(OrderLine.objects.filter(stage=Stage.READY), Stage.SENT)
    assert report_back(feed.pk) == 0
    shop_side.mode = "well"
    assert report_back(feed.pk) == 1


def test_the_background_task_hears_every_feed_that_is_on(feed: Feed) -> None:
    assert hear_feeds(0) == 3
    Feed.objects.update(is_on=False, cursor="")
    FeedOrder.objects.all().delete()
    assert hear_feeds(1) == 0


def test_the_feed_is_pointed_elsewhere_on_its_page_by_the_owner_only(
    feed: Feed, owner_client, client
) -> None:
    listen(feed.pk)
    page = owner_client.get(reverse("feeds:feeds")).content.decode()
    assert "last heard" in page
    owner_client.post(
        reverse("feeds:change", args=[feed.pk]), {"address": "http://127.0.0.1:9999", "is_on": "on"}
    )
    assert (again(feed).address, again(feed).cursor) == ("http://127.0.0.1:9999", "")
    answer = owner_client.post(
        reverse("feeds:change", args=[feed.pk]), {"address": "javascript:alert(1)"}, follow=True
    )
    assert "not an address" in answer.content.decode()
    assert again(feed).address == "http://127.0.0.1:9999"
    client.force_login(make_user("Desk"))
    assert client.post(reverse("feeds:change", args=[feed.pk]), {"address": "http://x"}).status_code == 403


def test_lists_of_a_feed_are_gathered_by_sender_and_day(
    feed: Feed, shop_side: Shop, owner, owner_client
) -> None:
    listen(feed.pk)
    for number in (7, 8):
        shop_side.put(order(number))
        listen(feed.pk)
    assert OrderList.objects.count() == 3
    take_list(b"order,product,wording\nX1,CREW-TAG,Ana\n", name="own.csv", user=owner)
    choices = list_choices()
    assert [name.split(" · ")[0] for _, name in choices] == ["own.csv", feed.source.name]
    (_, (gathered, _)) = choices
    page = owner_client.get(reverse("book:book"), {"list": gathered}).content.decode()
    assert page.count("data-open>") == OrderLine.objects.filter(source=feed.source).count() == 5
    assert owner_client.get(reverse("intake:set-aside"), {"list": gathered}).status_code == 200
    assert f'value="{gathered}" selected' in page


@pytest.mark.parametrize("text", ["", "x", "3:", "3:2027-13-01", ":", "99999999999", "3:2027-01-01:4", "-1"])
def test_a_choice_of_lists_that_makes_no_sense_is_all_of_them(text: str) -> None:
    assert ListChoice.of(text) == ALL_LISTS and not ListChoice.of(text)


class _Trickle(socketserver.BaseRequestHandler):
    """Answers, a byte at a time, without end: in its headers, or in its body."""

    body = True

    def handle(self) -> None:
        self.request.recv(65536)
        begin = b"HTTP/1.1 200 OK\r\nContent-Type: application/json\r\n"
        self.request.sendall(begin + (b"\r\n{" if self.body else b"X-Slow: "))
        while True:
            time.sleep(0.05)
            try:
                self.request.sendall(b" ")
            except OSError:
                return


@pytest.mark.parametrize("body", [True, False], ids=["its body", "its headers"])
def test_a_feed_that_trickles_is_left_after_a_total_time(owner, monkeypatch, body: bool) -> None:
    monkeypatch.setattr(_Trickle, "body", body)
    monkeypatch.setattr(feed_client, "TOTAL_S", 1.0)
    with socketserver.ThreadingTCPServer(("127.0.0.1", 0), _Trickle) as server:
        thread = threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.02})
        thread.start()
        source = Source.objects.create(name="trickle")
        feed = Feed.objects.create(source=source, address=f"http://127.0.0.1:{server.server_address[1]}")
        assert listen(feed.pk) == 0
        assert "did not end within 1 s" in again(feed).trouble
        server.shutdown()
        thread.join()

"""The desk's work in a real browser: paste, match, try, take, correct, take again; put rows right."""

from __future__ import annotations

import re
import threading

import pytest
from playwright.sync_api import Page, expect

from shopfeed.server import Shop, serve
from tests.browser.keys import press
from workshop.feeds.models import Feed
from workshop.feeds.services import listen
from workshop.intake.models import SetAsideRow
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine, OrderList
from workshop.sources.models import Source

FOREIGN = "Auftrag\tWas\tEtwas\tStück\nA1\tCREW-TAG\tHalloran\t1\nA2\tCREW-TAG\tNg\t2\n"


def trial(page: Page) -> dict[str, str]:
    expect(page.locator("[data-trial]").first).to_be_visible()
    return {
        n: page.locator(f'[data-trial="{n}"]').inner_text() for n in ("new", "changed", "unchanged", "aside")
    }


def paste(page: Page, url: str, text: str) -> None:
    page.goto(f"{url}/orders/take/")
    page.get_by_label("or rows pasted").fill(text)
    page.get_by_label("Who sends it").fill("Shop C")
    page.get_by_role("button", name="See what it would do").click()
    page.wait_for_url("**/trial/*/")


def test_paste_match_try_take_correct_take_again(desk: Page, live_server) -> None:
    paste(desk, live_server.url, FOREIGN)
    # The product is known by its code; that these are the words is for a person to say, with one key.
    expect(desk.get_by_role("alert")).to_have_text(re.compile("Is this column right: Wording"))
    desk.get_by_role("button", name="It is right").click()
    expect(desk.get_by_role("alert")).to_have_count(0)
    expect(desk.locator('[data-trial="new"]')).to_have_text("2")
    expect(desk.get_by_text("× 2")).to_be_visible()
    assert not OrderLine.objects.exists()
    press(desk, "Escape")
    desk.get_by_role("button", name="Take it in").click()
    desk.wait_for_url("**/orders/?list=*")
    expect(desk.locator("[data-row]")).to_have_count(2)
    make_list(OrderList.objects.get().pk)

    # The same source again, one line corrected: no column needs a hand any more.
    paste(desk, live_server.url, FOREIGN.replace("Halloran", "O'Halloran"))
    assert trial(desk) == {"new": "0", "changed": "1", "unchanged": "1", "aside": "0"}
    expect(desk.get_by_text("wording: “Halloran” → “O'Halloran”")).to_be_visible()
    desk.get_by_role("button", name="Take it in").click()
    expect(desk.get_by_text(": 1 changed, 1 unchanged.")).to_be_visible()
    assert OrderLine.objects.get(order="A1").wording == "O'Halloran"
    paste(desk, live_server.url, FOREIGN.replace("Halloran", "O'Halloran"))
    assert trial(desk)["unchanged"] == "2"


def test_set_aside_rows_are_put_right_and_an_alias_cures_the_rest(desk: Page, open_shop, live_server) -> None:
    text = "order,product,wording,quantity\nB1,HIVE-PLAT,Clover,1\nB2,HIVE-PLAT,Lime,1\nB3,CREW-TAG,Ng,0\n"
    take_list(text.encode(), name="bad.csv", user=open_shop)
    desk.goto(f"{live_server.url}/orders/set-aside/")
    expect(desk.locator("[data-aside]")).to_have_count(3)
    row = desk.locator("[data-aside]").filter(has_text="must be a whole number")
    row.get_by_label("quantity").fill("2")
    row.get_by_role("button", name="Try again").click()
    expect(desk.get_by_text("Row 4 is line B3-1 now.")).to_be_visible()
    desk.locator("[data-aside]").first.get_by_role("button", name="Set for all").click()
    expect(desk.get_by_text("2 rows were put right")).to_be_visible()
    assert not SetAsideRow.objects.exists()
    assert OrderLine.objects.count() == 3


@pytest.fixture
def crew(open_shop) -> OrderList:
    text = "order,line,product,wording\n" + "".join(f"C,{i},CREW-TAG,Name {i}\n" for i in range(1, 6))
    order_list = take_list(text.encode(), name="crew.csv", user=open_shop)
    make_list(order_list.pk)
    return order_list


def test_lines_are_chosen_by_keyboard_and_acted_on_together(desk: Page, crew: OrderList, live_server) -> None:
    desk.goto(f"{live_server.url}/orders/")
    expect(desk.locator("[data-many]")).to_be_hidden()
    for _ in range(2):
        press(desk, "ArrowDown")
        press(desk, " ")
    expect(desk.locator("[data-many-count]")).to_have_text("2")
    desk.get_by_role("button", name="Rush", exact=True).click()
    expect(desk.get_by_text("2 lines are to be made before others")).to_be_visible()
    assert OrderLine.objects.filter(rush=True).count() == 2
    desk.locator("[data-row] a[data-open]").first.focus()
    press(desk, "a")
    expect(desk.locator("[data-many-count]")).to_have_text("5")
    desk.get_by_label("Grouped by").select_option("product")
    expect(desk.locator("[data-group]")).to_have_count(1)
    desk.wait_for_url("**group=product*")


def test_a_feed_goes_down_and_comes_back(desk: Page, open_shop, live_server) -> None:
    shop = Shop(
        orders=[{"id": "W-1", "version": 1, "lines": [{"line": "1", "product": "CREW-TAG", "wording": "Ng"}]}]
    )
    server = serve(shop, 0)
    thread = threading.Thread(target=server.serve_forever, kwargs={"poll_interval": 0.02})
    thread.start()
    try:
        source = Source.objects.create(name="web shop")
        feed = Feed.objects.create(source=source, address=f"http://127.0.0.1:{server.server_address[1]}")
        listen(feed.pk)
        desk.goto(f"{live_server.url}/orders/")
        expect(desk.get_by_role("link", name=re.compile("web shop heard"))).to_be_visible()
        expect(desk.locator("[data-row]")).to_have_count(1)
        shop.mode = "down"
        listen(feed.pk)
        desk.reload()
        desk.get_by_role("link", name=re.compile("in trouble")).click()
        expect(desk.locator("[data-trouble]")).to_contain_text("503")
        shop.mode = "well"
        shop.put(
            {"id": "W-2", "version": 1, "lines": [{"line": "1", "product": "CREW-TAG", "wording": "Ida"}]}
        )
        listen(feed.pk)
        desk.reload()
        expect(desk.locator("[data-trouble]")).to_have_count(0)
        desk.get_by_role("link", name="Back to the order book").click()
        expect(desk.locator("[data-row]")).to_have_count(2)
    finally:
        server.shutdown()
        thread.join()
        server.server_close()


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (
            "Bestellnr.;Artikelnummer;Ringgröße;Gravur;Stück;Liefertermin;Name\n"
            "B-1;CHOIR-RING;54;Jürgen;1;31.03.2027;Bryn Winter\nB-2;CREW-TAG;;Gravur: Zoë;2 Stück;;Bryn Winter\n",
            ["Jürgen", "Zoë"],
        ),
        (
            "注文番号,商品コード,サイズ,刻印,数量,納期,お客様名\n"
            "J-1,CHOIR-RING,13号,Hanako,1個,2027年3月31日,山田 花子\nJ-2,CREW-TAG,,Taro,2個,,山田 花子\n",
            ["Hanako", "Taro"],
        ),
    ],
    ids=["German", "Japanese"],
)
def test_a_foreign_list_becomes_pieces_without_touching_a_column(
    desk: Page, live_server, text: str, words: list[str]
) -> None:
    paste(desk, live_server.url, text)
    expect(desk.get_by_role("alert")).to_have_count(0)
    assert trial(desk) == {"new": "2", "changed": "0", "unchanged": "0", "aside": "0"}
    desk.get_by_role("button", name="Take it in").click()
    desk.wait_for_url("**/orders/?list=*")
    make_list(OrderList.objects.get().pk)
    lines = OrderLine.objects.order_by("row")
    assert [line.wording for line in lines] == words
    assert {line.stage for line in lines} == {"ready"}
    assert [line.quantity for line in lines] == [1, 2]
    assert str(lines[0].due) == "2027-03-31"


def test_a_name_with_several_readings_is_answered_with_one_key(desk: Page, live_server) -> None:
    paste(desk, live_server.url, "order,product,wording\nA1,PLOT-TAG,Vincent Van Gogh\n")
    expect(desk.locator("[data-result]")).to_have_text("VG or VV or VVG?")
    desk.get_by_role("button", name="Take it in").click()
    desk.wait_for_url("**/orders/?list=*")
    make_list(OrderList.objects.get().pk)
    desk.goto(f"{live_server.url}{OrderLine.objects.get().get_absolute_url()}")
    desk.locator("#wording").press("Escape")
    press(desk, "3")
    expect(desk.locator("#wording")).to_have_value("VVG")
    desk.get_by_role("button", name=re.compile("Keep")).click()
    expect(desk.locator("[data-stage]")).to_have_text("ready")
    assert OrderLine.objects.get().wording == "VVG"


def test_a_new_line_is_begun_and_stays(desk: Page, open_shop, live_server) -> None:
    taken = take_list(b"order,product,wording\nA1,CREW-TAG,Ana Tom\n", name="x", user=open_shop)
    make_list(taken.pk)
    desk.goto(f"{live_server.url}{taken.lines.get().get_absolute_url()}")
    desk.locator("#wording").fill("Ana")
    desk.locator("#wording").press("Shift+Enter")
    desk.locator("#wording").press_sequentially("Tom")
    desk.locator("#wording").press("Enter")
    expect(desk.locator("#wording")).to_have_value("Ana\nTom")
    expect(desk.locator("[data-stage]")).to_have_text("ready")
    assert taken.lines.get().wording == "Ana\nTom"
    # What is kept and looked at again is no change.
    expect(desk.get_by_text("Not kept yet")).to_have_count(0)
    desk.locator("#wording").press("Enter")
    expect(desk.get_by_text("Not kept yet")).to_have_count(0)


def test_typing_without_accents_or_with_a_slip_finds_the_line(desk: Page, open_shop, live_server) -> None:
    rows = "order,product,wording\nA1,CREW-TAG,Żółkiewska\nA2,CREW-TAG,Miriam\n"
    take_list(rows.encode(), name="x", user=open_shop)
    desk.goto(f"{live_server.url}/orders/")
    for typed, found, said in (("zolkiew", "Żółkiewska", 0), ("mirjam", "Miriam", 1)):
        desk.locator("#filter").fill(typed)
        expect(desk.locator("[data-row]")).to_have_count(1)
        expect(desk.locator("[data-open]")).to_have_text(found)
        expect(desk.locator("[data-near]")).to_have_count(said)
    desk.locator("#filter").fill("mirjak")
    desk.locator("[data-offered]").click()
    expect(desk.locator("[data-open]")).to_have_text("Miriam")

"""The main path as its users walk it, in a real browser with a real worker."""

from __future__ import annotations

import io
import re
import zipfile
from pathlib import Path

import pytest
import trimesh
from playwright.sync_api import Page, expect

from tests.browser.keys import press
from tests.workshop.lists import HEADER, MIXED
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine, OrderList


@pytest.fixture
def made(open_shop) -> OrderList:
    """A list that is made already."""
    order_list = take_list(MIXED.encode(), name="mixed.csv", user=open_shop)
    make_list(order_list.pk)
    return order_list


def shown_solid(page: Page) -> str:
    canvas = page.locator("canvas[data-turning]")
    page.wait_for_function(
        "() => document.querySelector('canvas[data-turning]')?.dataset.shown", timeout=90_000
    )
    return str(canvas.get_attribute("data-shown"))


def test_from_a_list_to_a_measured_piece(desk: Page, worker, tmp_path: Path) -> None:
    file = tmp_path / "orders.csv"
    file.write_text(MIXED, "utf-8")
    press(desk, "n")
    desk.get_by_label("A file:").set_input_files(file)
    desk.get_by_role("button", name="See what it would do").click()
    expect(desk.locator('[data-trial="new"]')).to_have_text("4")
    expect(desk.locator('[data-trial="aside"]')).to_have_text("1")
    desk.get_by_role("button", name="Take it in").click()
    expect(desk.get_by_text("Took in orders.csv: 4 new")).to_be_visible()
    # The worker makes the lines while the page watches; nothing is reloaded by hand.
    expect(desk.locator('[data-count="new"]')).to_have_text("0", timeout=120_000)
    expect(desk.locator('[data-count="held"]')).to_have_text("2")
    expect(desk.locator('[data-row][data-stage="ready"]')).to_have_count(2)

    desk.get_by_role("link", name="Maximilian-Alexander Theodor").click()
    field = desk.get_by_label("Wording")
    # The page's own focus: whether the window has the keyboard is the browser's affair.
    desk.wait_for_function("() => document.activeElement?.id === 'wording'")
    expect(desk.locator('[data-verdict="held"]')).to_be_visible()
    expect(desk.locator('[data-finding="lowest-height"]')).to_have_attribute("data-level", "fails")
    long_solid = shown_solid(desk)

    field.fill("Max")
    expect(desk.locator('[data-verdict="ready"]')).to_be_visible()
    expect(desk.locator("[data-said]")).to_contain_text("Not kept yet")
    expect(desk.locator('[data-finding="one-body"]')).to_have_attribute("data-level", "passes")
    desk.wait_for_function(
        "before => document.querySelector('canvas[data-turning]').dataset.shown !== before", arg=long_solid
    )
    field.press("Enter")
    expect(desk.locator("dd [data-stage]")).to_have_text("ready")
    expect(desk.locator("[data-said]")).not_to_contain_text("Not kept yet")

    desk.get_by_role("link", name="Order book").click()
    desk.get_by_label("List").select_option(label=None, index=1)
    desk.wait_for_url("**list=*")
    desk.reload()
    desk.get_by_role("button", name="Pack ready pieces").click()
    # The worker packs; the page asks by itself, and shows the way to the file once it is whole.
    with desk.expect_download() as downloading:
        desk.get_by_role("link", name="Take away").click()
    pack = zipfile.ZipFile(downloading.value.path())
    mesh = trimesh.load(io.BytesIO(pack.read("pieces/A1-2 Max 1.stl")), file_type="stl")
    line = OrderLine.objects.get(order="A1", line="2")
    assert line.wording == "Max"
    assert mesh.is_watertight and mesh.body_count == 1
    # Sterling has 10.36 g/cm3: the weight on the ticket is that of the file.
    assert mesh.volume * 10.36 / 1000 == pytest.approx(line.revision.facts["weight_g"], abs=0.002)


def test_progress_survives_a_reload(desk: Page, open_shop, live_server) -> None:
    """Without a worker the list waits; every reload shows where it stands."""
    text = HEADER + "".join(f"P,{i},CREW-TAG,,Name {i},1,,\n" for i in range(12))
    order_list = take_list(text.encode(), name="long.csv", user=open_shop)
    desk.goto(f"{live_server.url}/orders/")
    expect(desk.locator("[data-progress]")).to_contain_text("0 of 12 lines made")
    OrderList.objects.filter(pk=order_list.pk).update(stopped_at=None)
    from workshop.making.tasks import _make_next

    for _ in range(5):
        _make_next(order_list.pk)
    expect(desk.locator("[data-progress]")).to_contain_text("5 of 12 lines made")
    desk.reload()
    expect(desk.locator("[data-progress]")).to_contain_text("5 of 12 lines made")
    desk.get_by_role("button", name="Stop").click()
    expect(desk.locator("[data-progress]")).to_contain_text("stopped")
    assert make_list(order_list.pk) == 0
    desk.get_by_role("button", name="Go on").click()
    expect(desk.get_by_role("button", name="Stop")).to_be_visible()
    make_list(order_list.pk)
    expect(desk.locator("[data-progress]")).to_have_count(0)


def test_the_turning_view_draws_the_piece_and_turns_by_key(desk: Page, made: OrderList, live_server) -> None:
    line = OrderLine.objects.get(order="A1", line="1")
    desk.goto(live_server.url + line.get_absolute_url())
    shown_solid(desk)
    canvas = desk.locator("canvas[data-turning]")
    assert int(canvas.get_attribute("data-triangles") or 0) == line.revision.facts["triangles"]
    before = canvas.screenshot()
    # A picture of nothing compresses to almost nothing; the ring fills the middle.
    assert len(before) > 4_000
    canvas.focus()
    for _ in range(4):
        press(desk, "ArrowRight")
    assert canvas.screenshot() != before


def test_typing_filters_and_the_address_can_be_sent_to_a_colleague(
    desk: Page, made: OrderList, live_server
) -> None:
    desk.goto(f"{live_server.url}/orders/")
    press(desk, "/")
    desk.keyboard.type("ferry hall")
    expect(desk.locator("[data-row]")).to_have_count(1)
    desk.wait_for_url("**q=ferry*hall*")
    desk.goto(desk.url)
    expect(desk.locator("[data-row]")).to_have_count(1)
    expect(desk.get_by_role("link", name="Halloran")).to_be_visible()


def test_keyboard_alone_reaches_the_worst_held_and_the_next(desk: Page, made: OrderList, live_server) -> None:
    desk.goto(f"{live_server.url}/orders/")
    press(desk, "w")
    desk.wait_for_url("**/bench/*/")
    expect(desk.get_by_label("Wording")).to_have_value("⚓")
    # The cursor stands in the wording: the advertised key works there, and types nothing into it.
    desk.get_by_label("Wording").focus()
    press(desk, "Alt+h")
    expect(desk.get_by_label("Wording")).to_have_value("Maximilian-Alexander Theodor")
    shown_solid(desk)
    desk.goto(f"{live_server.url}/orders/")
    desk.locator("#lines").wait_for()
    press(desk, "ArrowDown")
    press(desk, "ArrowDown")
    press(desk, "Enter")
    expect(desk.get_by_label("Wording")).to_have_value("Maximilian-Alexander Theodor")


@pytest.mark.parametrize(
    ("size_mb", "status"), [(50, 422), (90, 413)], ids=["a list", "more than list and logos"]
)
def test_a_huge_file_is_refused_on_the_page_with_the_limit(
    desk: Page, live_server, tmp_path: Path, size_mb: int, status: int
) -> None:
    file = tmp_path / "huge.csv"
    file.write_bytes(b"order,product,wording\n" + b"x" * (size_mb * 1024 * 1024))
    desk.goto(f"{live_server.url}/orders/take/")
    desk.get_by_label("A file:").set_input_files(file)
    with desk.expect_response("**/orders/take/") as answered:
        desk.get_by_role("button", name="See what it would do").click()
    assert answered.value.status == status
    expect(desk.get_by_role("alert")).to_contain_text("at most 5 MB")


def test_undo_puts_the_kept_wording_back(desk: Page, made: OrderList, live_server) -> None:
    line = OrderLine.objects.get(order="A1", line="1")
    desk.goto(live_server.url + line.get_absolute_url())
    desk.get_by_label("Wording").fill("Otto")
    expect(desk.locator("[data-said]")).to_contain_text("Not kept yet")
    desk.get_by_role("button", name="As kept").click()
    expect(desk.get_by_label("Wording")).to_have_value("Ottoline")
    expect(desk.locator("[data-said]")).not_to_contain_text("Not kept yet")


@pytest.mark.parametrize("path", ["/orders/", "/orders/take/", "/orders/set-aside/", "/bench/"])
def test_nothing_scrolls_sideways(desk: Page, made: OrderList, live_server, path: str) -> None:
    desk.goto(live_server.url + path)
    assert desk.evaluate("document.documentElement.scrollWidth") <= 1280


@pytest.mark.complains_of(
    "htmx:sendError", "htmx:responseError", "status of 500", "ERR_FAILED", "Response Status Error"
)
def test_what_could_not_be_drawn_never_leaves_the_old_verdict(
    desk: Page, made: OrderList, live_server, monkeypatch
) -> None:
    line = made.lines.filter(stage="ready").first()
    desk.goto(f"{live_server.url}{line.get_absolute_url()}")
    expect(desk.locator("#result [data-finding]").first).to_be_visible()
    # The connection is lost, then the shop breaks, then all is well again.
    desk.route("**/look/**", lambda route: route.abort())
    desk.locator("#wording").fill("Otto")
    expect(desk.get_by_role("alert")).to_contain_text("no connection")
    expect(desk.locator("#result [data-finding]")).to_have_count(0)
    desk.unroute("**/look/**")
    desk.route("**/look/**", lambda route: route.fulfill(status=500, body="<h1>fault</h1>"))
    desk.locator("#wording").fill("Ottoline B")
    expect(desk.get_by_role("alert")).to_contain_text("went wrong")
    desk.unroute("**/look/**")
    desk.locator("#wording").fill("Ottoline")
    expect(desk.locator("#result [data-finding]").first).to_be_visible()
    expect(desk.get_by_role("alert")).to_have_count(0)


def test_a_session_that_ended_leads_to_sign_in_and_back(desk: Page, made: OrderList, live_server) -> None:
    line = made.lines.filter(stage="ready").first()
    address = f"{live_server.url}{line.get_absolute_url()}"
    desk.goto(address)
    desk.context.clear_cookies()
    desk.locator("#wording").fill("Otto")
    desk.wait_for_url("**/people/sign-in/?next=*")
    assert line.get_absolute_url() in desk.url.replace("%2F", "/")


def test_the_keys_of_a_page_are_shown_and_can_be_switched_off(
    desk: Page, made: OrderList, live_server
) -> None:
    desk.goto(f"{live_server.url}/orders/")
    desk.locator("body").press("?")
    shown = desk.get_by_role("dialog")
    expect(shown).to_contain_text("Go from line to line")
    expect(shown).to_contain_text("Take in a list")
    shown.get_by_label(re.compile("Letters without Alt")).uncheck()
    shown.get_by_role("button", name="Close").click()
    press(desk, "n")
    expect(desk.get_by_role("heading", name="Order book")).to_be_visible()
    press(desk, "Alt+n")
    expect(desk.get_by_role("heading", name="Take in a list")).to_be_visible()


def test_what_was_kept_is_taken_back_and_put_back(desk: Page, made: OrderList, live_server) -> None:
    line = made.lines.filter(stage="ready").first()
    words = line.wording
    desk.goto(f"{live_server.url}{line.get_absolute_url()}")
    desk.get_by_label("Wording").fill("Ida")
    press(desk, "Enter")
    expect(desk.locator("[data-back]")).to_contain_text(f"“Ida” becomes “{words}”")
    press(desk, "Alt+u")
    expect(desk.get_by_label("Wording")).to_have_value(words)
    press(desk, "Alt+r")
    expect(desk.get_by_label("Wording")).to_have_value("Ida")


def test_while_a_list_is_made_typing_ticks_and_cursor_stay(desk: Page, open_shop, live_server) -> None:
    text = HEADER + "".join(f"P,{i},CREW-TAG,,Name {i},1,,\n" for i in range(6))
    order_list = take_list(text.encode(), name="long.csv", user=open_shop)
    desk.goto(f"{live_server.url}/orders/")
    ticked = desk.get_by_label("Choose P-2", exact=True)
    ticked.check()
    desk.get_by_label("Filter the lines").fill("Name")
    desk.wait_for_url("**q=Name*")
    ticked.check()
    link = desk.get_by_role("link", name="Name 3", exact=True)
    link.focus()
    make_list(order_list.pk)
    # The rows are put right where they stand …
    expect(desk.locator('[data-row][data-stage="ready"]')).to_have_count(6)
    # … and nothing else is touched.
    expect(ticked).to_be_checked()
    expect(link).to_be_focused()
    expect(desk.get_by_label("Filter the lines")).to_have_value("Name")
    expect(desk.locator("[data-many-count]")).to_have_text("1")

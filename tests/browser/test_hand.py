"""Lettering taken hold of at the Bench, by pointer, touch and keys; findings lit where they are; held together."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.browser.keys import press
from tests.browser.places import middle_of
from tests.workshop.lists import HEADER
from workshop.curing.tasks import look_for_cures
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine


@pytest.fixture
def tag(open_shop) -> OrderLine:
    orders = HEADER + "H1,1,CREW-TAG,,Owen,1,,Pia\nH1,2,CREW-TAG,,Una,1,,Pia\n"
    make_list(take_list(orders.encode(), name="hand.csv", user=open_shop).pk)
    return OrderLine.objects.get(order="H1", line="1")


def value(desk: Page, name: str) -> float:
    text = desk.locator(f"#set-{name}").input_value()
    return float(text) if text else 0.0


def open_at(desk: Page, line: OrderLine, live_server) -> Locator:
    desk.goto(live_server.url + line.get_absolute_url())
    hand = desk.locator(".k-hand")
    expect(hand).to_have_count(1)
    # Low enough that there is room all round.
    desk.locator('[data-group="Letters"] summary').click()
    desk.get_by_label("Height at most").fill("5")
    expect(desk.locator("[data-said]")).to_contain_text("5.00 mm")
    return hand


def middle(desk: Page) -> tuple[float, float]:
    return middle_of(desk.locator(".k-hand-grip"))


def px_per_mm(desk: Page) -> float:
    return float(
        desk.locator("svg[data-hand]").first.evaluate(
            "e => e.getBoundingClientRect().width / e.viewBox.baseVal.width"
        )
    )


def drag(desk: Page, by: tuple[float, float], *, free: bool = False) -> None:
    x, y = middle(desk)
    scale = px_per_mm(desk)
    if free:
        desk.keyboard.down("Alt")
    desk.mouse.move(x, y)
    desk.mouse.down()
    desk.mouse.move(x + by[0] * scale / 2.0, y - by[1] * scale / 2.0)
    desk.mouse.move(x + by[0] * scale, y - by[1] * scale)
    expect(desk.locator(".k-hand-gaps text").first).to_be_attached()
    desk.mouse.up()
    if free:
        desk.keyboard.up("Alt")


def test_moved_by_pointer_kept_and_taken_back(desk: Page, live_server, tag: OrderLine) -> None:
    open_at(desk, tag, live_server)
    drag(desk, (3.0, 2.2), free=True)
    expect(desk.locator("[data-said]")).to_contain_text("Not kept yet")
    expect(desk.locator("[data-said]")).to_contain_text("mm along")
    assert value(desk, "along_mm") == pytest.approx(3.0, abs=0.15)
    assert value(desk, "across_mm") == pytest.approx(2.2, abs=0.15)
    tag.refresh_from_db()
    assert tag.choices == {}
    desk.locator("#wording").press("Enter")
    expect(desk.get_by_role("button", name="Take back")).to_be_visible()
    tag.refresh_from_db()
    assert tag.choices["along_mm"] == pytest.approx(3.0, abs=0.15)
    press(desk, "Alt+u")
    expect(desk.get_by_role("button", name="Put back")).to_be_visible()
    tag.refresh_from_db()
    assert tag.choices == {}


def test_it_settles_on_its_own_place_and_lets_go_with_a_key_held(
    desk: Page, live_server, tag: OrderLine
) -> None:
    open_at(desk, tag, live_server)
    scale = px_per_mm(desk)
    drag(desk, (5.0 / scale, 3.0), free=False)
    expect(desk.locator("#set-across_mm")).not_to_have_value("")
    assert value(desk, "along_mm") == 0.0, "so near to its place it settles there"
    expect(desk.locator("[data-said]")).to_contain_text("mm up")
    expect(desk.locator(".k-hand")).to_have_count(1)
    drag(desk, (5.0 / scale, 0.0), free=True)
    expect(desk.locator("#set-along_mm")).not_to_have_value("")
    assert value(desk, "along_mm") == pytest.approx(5.0 / scale, abs=0.1)


def test_turned_and_sized_by_pointer(desk: Page, live_server, tag: OrderLine) -> None:
    open_at(desk, tag, live_server)
    x, y = middle(desk)
    reach = middle_of(desk.locator("circle.k-hand-knob"))[0] - x
    desk.mouse.move(x + reach, y)
    desk.mouse.down()
    desk.mouse.move(x + reach * 0.9, y - reach * 0.3)
    desk.mouse.move(x + reach * 0.866, y - reach * 0.5)
    desk.mouse.up()
    expect(desk.locator("#set-turned_deg")).to_have_value("30")
    expect(desk.locator("[data-said]")).to_contain_text("turned by 30.0°")
    desk.locator("#set-turned_deg").fill("")
    expect(desk.locator("[data-said]")).not_to_contain_text("turned by")
    at = middle_of(desk.locator("rect.k-hand-knob"))
    desk.mouse.move(*at)
    desk.mouse.down()
    desk.mouse.move(at[0] - 20, at[1] - 10)
    desk.mouse.move(at[0] - 40, at[1] - 15)
    desk.mouse.up()
    expect(desk.locator("#set-height_mm")).not_to_have_value("5")
    assert value(desk, "height_mm") < 5.0


def test_by_keys_alone(desk: Page, live_server, tag: OrderLine) -> None:
    open_at(desk, tag, live_server)
    press(desk, "Alt+m")
    expect(desk.locator(".k-hand")).to_be_focused()
    for key in ("ArrowRight", "ArrowRight", "Shift+ArrowUp", "["):
        press(desk, key)
    expect(desk.locator("#set-along_mm")).to_have_value("0.1")
    expect(desk.locator("#set-across_mm")).to_have_value("0.5")
    expect(desk.locator("#set-turned_deg")).to_have_value("1")
    # After the redraw the lettering still has the cursor.
    expect(desk.locator("[data-said]")).to_contain_text("moved by 0.10 mm along")
    expect(desk.locator(".k-hand")).to_be_focused()
    press(desk, "0")
    for name in ("along_mm", "across_mm", "turned_deg"):
        expect(desk.locator(f"#set-{name}")).to_have_value("")


def test_two_taps_put_it_back(desk: Page, live_server, tag: OrderLine) -> None:
    open_at(desk, tag, live_server)
    drag(desk, (3.0, 2.2), free=True)
    # Drawn anew where it was let go; before that the page says "not kept yet" of its height alone.
    expect(desk.locator("[data-said]")).to_contain_text("mm along")
    expect(desk.locator(".k-hand")).to_have_count(1)
    x, y = middle(desk)
    desk.mouse.dblclick(x, y)
    expect(desk.locator("#set-along_mm")).to_have_value("")


@pytest.mark.complains_of("ERR_FAILED")
def test_a_lost_connection_in_the_middle_of_a_drag_loses_nothing(
    desk: Page, live_server, tag: OrderLine
) -> None:
    open_at(desk, tag, live_server)
    desk.route("**/hand/**", lambda route: route.abort())
    drag(desk, (3.0, 2.0), free=True)
    assert value(desk, "along_mm") == pytest.approx(3.0, abs=0.15)


@pytest.fixture
def held(open_shop) -> OrderLine:
    orders = HEADER + "R1,1,GUEST-PLATE,,Oystercatcher,1,,Pia\nR1,2,GUEST-PLATE,,Kingfishertown,1,,Pia\n"
    make_list(take_list(orders.encode(), name="held.csv", user=open_shop).pk)
    return OrderLine.objects.get(order="R1", line="1")


def test_a_finding_lights_up_where_it_is_and_leads_to_what_cures_it(
    desk: Page, live_server, held: OrderLine
) -> None:
    desk.goto(live_server.url + held.get_absolute_url())
    code = desk.locator("svg[data-unrolled] g[data-code]").first.get_attribute("data-code")
    row = desk.locator(f"[data-finding={code}]")
    # Its name, as what it says may lead elsewhere.
    row.locator("span").first.click()
    expect(row).to_be_focused()
    expect(desk.locator("svg[data-unrolled] g[data-lit]")).to_have_count(1)
    expect(desk.locator("canvas[data-turning]")).to_have_attribute("data-spot", re.compile(r"\d"))
    press(desk, "ArrowDown")
    expect(row).not_to_be_focused()
    expect(desk.locator("[data-finding][data-lit]")).to_have_count(1)
    desk.locator("[data-leads]").first.click()
    expect(desk.locator("#wording")).to_be_focused()


def test_held_together_is_cured_in_one_step_and_taken_back_in_one(
    desk: Page, live_server, held: OrderLine
) -> None:
    look_for_cures()
    desk.goto(live_server.url + "/bench/together/")
    expect(desk.locator("[data-held]")).to_have_count(2)
    desk.locator(f"#cure-{held.pk}").uncheck()
    desk.get_by_role("button", name="Take what is ticked").first.click()
    expect(desk.locator("[data-state]")).to_contain_text("still to do")


def test_lettering_of_a_further_area_is_taken_hold_of_as_well(desk: Page, live_server, open_shop) -> None:
    orders = HEADER + "H2,1,FERRY-KEY,,Petrel,1,,Pia\n"
    make_list(take_list(orders.encode(), name="hand.csv", user=open_shop).pk)
    desk.goto(live_server.url + OrderLine.objects.get(order="H2").get_absolute_url())
    expect(desk.locator(".k-hand")).to_have_count(2)
    # The same key goes from one to the other.
    press(desk, "Alt+m")
    expect(desk.get_by_label("The lettering. Arrow")).to_be_focused()
    press(desk, "Alt+m")
    back = desk.get_by_label("The lettering on the back. Arrow")
    expect(back).to_be_focused()
    press(desk, "]")
    expect(desk.locator('[name="on.back.turned_deg"]')).to_have_value("-1")
    expect(desk.locator("[data-said]")).to_contain_text("on the back turned by 1.0° to the right")
    # The redraw leaves the cursor with the lettering that had it.
    expect(back).to_be_focused()
    assert value(desk, "turned_deg") == 0.0
    x, y = middle_of(desk.locator('svg[data-hand-area="back"] .k-hand-grip'))
    scale = px_per_mm(desk)
    with desk.expect_response(lambda answer: "/hand/" in answer.url and "area=back" in answer.url) as drawn:
        desk.mouse.move(x, y)
        desk.mouse.down()
        desk.keyboard.down("Alt")
        desk.mouse.move(x - 1.0 * scale, y + 2.0 * scale, steps=6)
    assert "QUAY" not in drawn.value.text() and drawn.value.json()["path"]
    desk.mouse.up()
    desk.keyboard.up("Alt")
    across = desk.locator('[name="on.back.across_mm"]')
    expect(across).not_to_have_value("")
    assert float(across.input_value()) == pytest.approx(-2.0, abs=0.15)
    assert value(desk, "across_mm") == 0.0
    expect(desk.locator("[data-said]")).to_contain_text("on the back moved by")


def test_a_gauge_of_one_area_lights_up_its_spot_on_that_area(desk: Page, live_server, open_shop) -> None:
    orders = HEADER + "H3,1,FERRY-KEY,,Petrel,1,,Pia\n"
    make_list(take_list(orders.encode(), name="hand.csv", user=open_shop).pk)
    desk.goto(live_server.url + OrderLine.objects.get(order="H3").get_absolute_url())
    desk.locator('[data-finding="gap-width"][data-area="back"]').focus()
    lit = desk.locator("svg[data-unrolled] g[data-lit]")
    expect(lit).to_have_count(1)
    expect(desk.locator('svg[data-unrolled="back"] g[data-lit]')).to_have_count(1)
    desk.locator('svg[data-unrolled="face"] g[data-code="gap-width"]').dispatch_event("click")
    expect(desk.locator('[data-finding="gap-width"][data-area="face"]')).to_be_focused()

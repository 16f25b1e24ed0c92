"""A held piece is cured at the Bench in two keys: to the held one, and what cures it; and taken back in one."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from tests.browser.keys import press
from tests.workshop.lists import HEADER
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine


@pytest.fixture
def held(open_shop) -> OrderLine:
    orders = HEADER + "R1,1,GUEST-PLATE,,Oystercatcher,1,,Pia\n"
    make_list(take_list(orders.encode(), name="held.csv", user=open_shop).pk)
    return OrderLine.objects.get(order="R1")


def test_cured_and_taken_back_by_keys_alone(desk: Page, held: OrderLine) -> None:
    desk.get_by_role("link", name="Bench").click()
    expect(desk.locator("[data-stage]")).to_have_text("held")
    offered = desk.locator('[data-remedy="1"]')
    expect(offered).to_contain_text("Lettering height 4.90 → 5")
    press(desk, "Alt+c")
    expect(desk.locator("[data-stage]")).to_have_text("ready")
    expect(desk.locator("[data-remedies]")).to_have_count(0)
    press(desk, "Alt+u")
    expect(desk.locator("[data-stage]")).to_have_text("held")
    expect(desk.locator('[data-remedy="1"]')).to_be_visible()
    press(desk, "Alt+r")
    expect(desk.locator("[data-stage]")).to_have_text("ready")


def test_a_setting_on_trial_that_fails_is_offered_a_cure_too(desk: Page, held: OrderLine) -> None:
    desk.get_by_role("link", name="Bench").click()
    desk.locator('[data-group="Letters"] summary').click()
    desk.get_by_label("Spacing between letters").fill("0.09")
    expect(desk.locator("[data-said]")).to_contain_text("Not kept yet")
    expect(desk.locator('[data-remedy="1"]')).to_contain_text("Lettering height 4.85")
    held.refresh_from_db()
    assert held.choices == {}, "what is only offered is not taken"

"""A product from nothing to its forecast, by somebody who was shown nothing, in a count of actions."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from workshop.catalogue.models import Product


def test_from_an_empty_catalogue_to_a_forecast(desk: Page, live_server, open_shop) -> None:
    Product.objects.all().delete()
    actions = 0

    def act(done: object) -> None:
        nonlocal actions
        actions += 1

    act(desk.get_by_role("link", name="Catalogue").click())
    act(desk.get_by_role("link", name="Choose what to begin with").click())
    act(desk.get_by_label("Code, as order lists name it").fill("MOON-22"))
    act(desk.get_by_label("Name, for people").fill("Moon tag, 22 mm"))
    # Every kind is drawn as it comes into sight, at one scale.
    round_tag = desk.locator('[data-start="ROUND-TAG"]')
    act(round_tag.click())
    expect(round_tag.locator("svg")).to_be_visible()
    act(desk.get_by_role("button", name="Begin it").click())
    expect(desk.get_by_role("heading", name="Moon tag, 22 mm")).to_be_visible()
    act(desk.get_by_label("letters at least").fill("3.0"))
    expect(desk.locator("#wall svg").first).to_be_visible()
    act(desk.get_by_role("button", name="Keep as a new version").click())
    expect(desk.get_by_text("is now version 2")).to_be_visible()
    act(desk.get_by_role("button", name="real names").click())
    expect(desk.locator("#share")).to_contain_text("%")
    assert actions <= 25
    assert Product.objects.current().get().to_spec().plan.lowest_height_mm == 3.0

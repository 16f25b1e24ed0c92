"""A product from nothing to its forecast, by somebody who was shown nothing, in a count of actions."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from workshop.catalogue.models import Product
from workshop.stations.models import Station


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


def test_the_first_hour_from_an_empty_shop_to_a_released_run(
    desk: Page, worker, live_server, open_shop
) -> None:
    """What a newcomer does with nothing but what the pages say, counted; common practice, no source: in an
    hour nobody does more than a few dozen things that are new."""
    Product.objects.all().delete()
    Station.objects.add_shipped()
    actions = 0

    def act(done: object) -> None:
        nonlocal actions
        actions += 1

    desk.goto(live_server.url)
    # The empty Order book says what comes first.
    act(desk.get_by_role("link", name="A product", exact=True).click())
    act(desk.get_by_label("Code, as order lists name it").fill("OAK-TAG"))
    act(desk.get_by_label("Name, for people").fill("Oak tag"))
    act(desk.locator('[data-start="TAG"]').click())
    act(desk.get_by_role("button", name="Begin it").click())
    expect(desk.get_by_role("heading", name="Oak tag")).to_be_visible()

    act(desk.get_by_role("link", name="Order book").click())
    expect(desk.locator("[data-first-hour]")).to_contain_text("A product is there")
    act(desk.get_by_role("link", name="An order list", exact=True).click())
    act(
        desk.get_by_label("or rows pasted").fill(
            "order,product,wording\nA1,OAK-TAG,Halloran\nA2,OAK-TAG,Ida\n"
        )
    )
    act(desk.get_by_role("button", name="See what it would do").click())
    act(desk.get_by_role("button", name="Take it in").click())
    expect(desk.locator('[data-row][data-stage="ready"]')).to_have_count(2, timeout=120_000)

    act(desk.get_by_role("link", name="Runs").click())
    act(desk.get_by_role("button", name="Propose runs").click())
    expect(desk.locator("li[data-run]")).to_have_count(1, timeout=120_000)
    act(desk.locator("li[data-run] a").first.click())
    act(desk.get_by_role("button", name="Lock and write files").click())
    expect(desk.locator("[data-released]")).to_be_visible(timeout=120_000)
    act(desk.get_by_role("link", name="Take all files away").click())
    assert actions <= 40

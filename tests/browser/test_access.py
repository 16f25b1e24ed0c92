"""Every page for those who can't see it, or not well: the rules of WCAG, as axe-core applies them."""

from __future__ import annotations

from axe_playwright_python.sync_playwright import Axe
from django.urls import reverse
from playwright.sync_api import Page, expect

from tests.browser.test_tablet import _PLAIN, ROWS
from workshop.guide.chapters import chapters
from workshop.intake.taking import open_intake, take_list
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine
from workshop.stations.models import Station


def violations(page: Page, *rules: str) -> list[str]:
    """What breaks a rule; all of them, or those that are named."""
    only = {"runOnly": {"type": "rule", "values": list(rules)}} if rules else None
    found = Axe().run(page, options=only).response["violations"]
    return [f"{one['id']}: {one['nodes'][0]['html'][:120]}" for one in found]


def test_no_page_breaks_a_rule(desk: Page, live_server, open_shop) -> None:
    made = take_list(ROWS.encode(), name="access", user=open_shop)
    make_list(made.pk)
    Station.objects.add_shipped()
    lines = OrderLine.objects.order_by("order").values_list("pk", flat=True)
    pages = [
        reverse("stations:station", args=["LASER-1"]),
        *(reverse("guide:chapter", args=[slug]) for slug in chapters()),
        *(reverse(name) for name in (*_PLAIN, "runs:runs", "stations:stations")),
        *(reverse("bench:piece", args=[line]) for line in lines),
        reverse("bench:beside", args=[lines[0]]),
        *(reverse("catalogue:product", args=[code]) for code in ("CHOIR-RING", "FERRY-KEY")),
        *(
            reverse("catalogue:standard", args=which)
            for which in (["process", "resin"], ["material", "bronze"])
        ),
        reverse("catalogue:beside", args=["CHOIR-RING"]),
        reverse("curing:version", args=["CHOIR-RING"]),
        open_intake(ROWS.encode(), name="again", source="another", user=open_shop).get_absolute_url(),
    ]
    for page in pages:
        desk.goto(f"{live_server.url}{page}")
        assert (page, violations(desk)) == (page, [])
        # By lamplight only the colours differ.
        desk.emulate_media(color_scheme="dark")
        assert (page, violations(desk, "color-contrast")) == (page, [])
        desk.emulate_media(color_scheme="light")


def test_the_light_of_a_page_is_chosen_and_kept(desk: Page, live_server, open_shop) -> None:
    ground = "getComputedStyle(document.documentElement).backgroundColor"
    desk.goto(f"{live_server.url}{reverse('book:book')}")
    light = desk.evaluate(ground)
    desk.get_by_role("button", name="Keys").click()
    desk.get_by_label("This browser’s pages are").select_option("dark")
    assert desk.evaluate(ground) != light
    desk.goto(f"{live_server.url}{reverse('stations:stations')}")
    assert desk.evaluate(ground) != light
    assert desk.locator("html").get_attribute("data-light") == "dark"
    desk.get_by_role("button", name="Keys").click()
    desk.get_by_label("This browser’s pages are").select_option("")
    desk.reload()
    assert desk.evaluate(ground) == light


def test_nor_does_a_products_page_with_every_part_of_it_open(desk: Page, live_server, open_shop) -> None:
    """Two colours, a typeface's other forms, another area, choices drawn cut through, a side pointed at."""
    desk.goto(f"{live_server.url}{reverse('catalogue:product', args=['CREW-TAG'])}")
    for part in desk.locator("[data-part] > summary").all():
        if part.locator("..").get_attribute("open") is None:
            part.click()
    desk.get_by_label("in two colours").select_option("yes")
    expect(desk.get_by_label("colour of the letters")).to_be_visible()
    desk.get_by_label("letter it as well").select_option("back")
    expect(desk.get_by_text("Also on the back", exact=True)).to_be_visible()
    desk.get_by_role("button", name="Draw each choice of “lettering is”").first.click()
    expect(desk.locator("[data-choices] svg").first).to_be_visible()
    assert violations(desk) == []
    desk.emulate_media(color_scheme="dark")
    assert violations(desk, "color-contrast") == []


def test_nor_does_the_bench_once_it_is_used(desk: Page, live_server, open_shop) -> None:
    """Fields open, a finding chosen, a trial that would be held with what cures it, and the piece cut open."""
    made = take_list(ROWS.encode(), name="access", user=open_shop)
    make_list(made.pk)
    line = OrderLine.objects.get(order="A1")
    desk.goto(live_server.url + line.get_absolute_url())
    for group in desk.locator("[data-group] summary").all():
        group.click()
    desk.get_by_label("Height at least").fill("14")
    expect(desk.locator("[data-verdict='held']")).to_be_visible()
    expect(desk.locator("[data-remedies]")).to_be_visible()
    assert violations(desk) == []
    desk.get_by_label("Height at least").fill("")
    expect(desk.locator("[data-verdict='ready']")).to_be_visible()
    desk.locator("[data-cut-open]").click()
    expect(desk.locator("[data-cut-said]")).to_contain_text("deep")
    assert violations(desk) == []

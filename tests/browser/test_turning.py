"""The turning view: cut open, at rest when nothing moves, and honest when it can't show."""

from __future__ import annotations

import io
import re

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Locator, Page, Route, expect

from tests.browser.keys import press
from tests.browser.places import box_of
from tests.workshop.lists import HEADER
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine


@pytest.fixture
def ring(open_shop) -> OrderLine:
    make_list(
        take_list((HEADER + "T1,1,CHOIR-RING,54,Anna,1,,Pia\n").encode(), name="turn", user=open_shop).pk
    )
    return OrderLine.objects.get(order="T1")


_SOME = re.compile(r"^[1-9]\d+$")


def picture(canvas: Locator) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(canvas.screenshot())).convert("L"), dtype=float)


def differ(one: np.ndarray, other: np.ndarray) -> float:
    """Share of points that are seen to differ."""
    return float((np.abs(one - other) > 12.0).mean())


def shown(desk: Page) -> None:
    expect(desk.locator("canvas[data-turning]")).to_have_attribute("data-triangles", _SOME)


def test_cut_open_by_key_it_shows_depth_and_wall_and_closes_again(
    desk: Page, live_server, ring: OrderLine
) -> None:
    desk.goto(live_server.url + ring.get_absolute_url())
    shown(desk)
    canvas = desk.locator("canvas[data-turning]")
    canvas.focus()
    whole = picture(canvas)
    press(desk, "Alt+x")
    expect(canvas).to_have_attribute("data-cut", "deep 0.45; left under it 1.35")
    expect(desk.locator("[data-cut-said]")).to_contain_text("0.45 mm deep, 1.35 mm left under it")
    expect(desk.locator("[data-cut-open]")).to_have_attribute("aria-pressed", "true")
    labels = desk.locator(".cut-label")
    expect(labels).to_have_count(2)
    one, other = sorted((box_of(label) for label in labels.all()), key=lambda box: box["y"])
    assert one["y"] + one["height"] <= other["y"] + 1
    assert differ(picture(canvas), whole) > 0.05
    press(desk, "Alt+x")
    expect(canvas).to_have_attribute("data-cut", "")
    expect(labels).to_have_count(0)
    assert differ(picture(canvas), whole) < 0.001


def test_what_is_cut_open_stays_so_when_something_else_of_the_page_comes_to_rest(
    desk: Page, live_server, ring: OrderLine
) -> None:
    asked: list[str] = []
    desk.on("request", lambda one: asked.append(one.url) if "/cut/" in one.url else None)
    desk.goto(live_server.url + ring.get_absolute_url())
    shown(desk)
    desk.locator("[data-cut-open]").click()
    canvas = desk.locator("canvas[data-turning]")
    expect(canvas).to_have_attribute("data-cut", "deep 0.45; left under it 1.35")
    left = desk.evaluate("""() => {
        document.querySelector("[data-cut-labels]").replaceChildren();
        document.querySelector("[data-cut-said]").textContent = "";
        document.dispatchEvent(new CustomEvent("htmx:afterSettle", {detail: {elt: document.body, target: document.body}}));
        return [document.querySelector("canvas[data-turning]").dataset.cut,
                document.querySelectorAll(".cut-label").length,
                document.querySelector("[data-cut-said]").textContent];
    }""")
    assert left[0] == "deep 0.45; left under it 1.35"
    assert left[1] == 2
    assert "1.35 mm left under it" in left[2]
    assert len(asked) == 1


def test_what_is_set_on_trial_is_what_is_cut(desk: Page, live_server, ring: OrderLine) -> None:
    desk.goto(live_server.url + ring.get_absolute_url())
    shown(desk)
    desk.locator("[data-cut-open]").click()
    canvas = desk.locator("canvas[data-turning]")
    expect(canvas).to_have_attribute("data-cut", "deep 0.45; left under it 1.35")
    desk.locator('[data-group="Making"] summary').click()
    desk.get_by_label("Depth").fill("0,6")
    expect(canvas).to_have_attribute("data-cut", "deep 0.60; left under it 1.20")


def test_nothing_is_drawn_while_nothing_moves(desk: Page, live_server, ring: OrderLine) -> None:
    desk.goto(live_server.url + ring.get_absolute_url())
    shown(desk)
    canvas = desk.locator("canvas[data-turning]")
    desk.wait_for_function(
        "() => new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)))"
    )
    before = canvas.get_attribute("data-drawn")
    desk.evaluate("""() => new Promise(done => {
        let left = 20;
        const next = () => (left-- ? requestAnimationFrame(next) : done());
        next();
    })""")
    assert canvas.get_attribute("data-drawn") == before
    canvas.focus()
    press(desk, "ArrowLeft")
    assert canvas.get_attribute("data-drawn") != before


@pytest.mark.complains_of("status of 503")
def test_a_lost_connection_is_said_and_what_was_there_stays(desk: Page, live_server, ring: OrderLine) -> None:
    desk.goto(live_server.url + ring.get_absolute_url())
    shown(desk)
    canvas = desk.locator("canvas[data-turning]")
    before = canvas.get_attribute("data-triangles")

    def gone(route: Route) -> None:
        route.fulfill(status=503)

    desk.route("**/solid/**", gone)
    desk.get_by_label("Wording").fill("Annabel")
    expect(desk.locator("[data-no-turning]")).to_contain_text("could not be fetched")
    assert canvas.get_attribute("data-triangles") == before
    desk.unroute("**/solid/**", gone)
    desk.get_by_label("Wording").fill("Annabella")
    expect(desk.locator("[data-no-turning]")).to_be_hidden()
    expect(canvas).not_to_have_attribute("data-triangles", before or "")


def test_a_piece_that_is_lettered_twice_is_cut_across_one_area_after_the_other(
    desk: Page, live_server, open_shop
) -> None:
    make_list(
        take_list((HEADER + "T2,1,FERRY-KEY,,Petrel,1,,Pia\n").encode(), name="turn", user=open_shop).pk
    )
    desk.goto(live_server.url + OrderLine.objects.get(order="T2").get_absolute_url())
    shown(desk)
    canvas, said = desk.locator("canvas[data-turning]"), desk.locator("[data-cut-said]")
    canvas.focus()
    whole = picture(canvas)
    press(desk, "Alt+x")
    expect(canvas).to_have_attribute("data-cut", re.compile(r"^proud 0\.80; "))
    expect(said).to_contain_text("Cut on the face across")
    expect(said).to_contain_text("once more: the back")
    face = picture(canvas)
    press(desk, "Alt+x")
    expect(canvas).to_have_attribute("data-cut", re.compile(r"^deep 0\.50; "))
    expect(said).to_contain_text("Cut on the back across")
    assert differ(picture(canvas), face) > 0.05
    press(desk, "Alt+x")
    expect(canvas).to_have_attribute("data-cut", "")
    expect(said).to_be_empty()
    assert differ(picture(canvas), whole) < 0.001


def test_lettering_inside_a_band_is_seen_at_first_sight(desk: Page, live_server, open_shop) -> None:
    """Two lines that differ in nothing but what stands inside of the same ring."""
    rows = "T7,1,WREN-RING,54,Anna,1,,Pia\nT8,1,WREN-RING,54,Mumm,1,,Pia\n"
    make_list(take_list((HEADER + rows).encode(), name="inside", user=open_shop).pk)
    seen = []
    for order in ("T7", "T8"):
        desk.goto(live_server.url + OrderLine.objects.get(order=order).get_absolute_url())
        shown(desk)
        seen.append(picture(desk.locator("canvas[data-turning]")))
    assert differ(*seen) > 0.005

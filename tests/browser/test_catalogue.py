"""A product tried in the Catalogue: values, grid, a shape that was sent, another place on it, a kept version."""

from __future__ import annotations

import json
import re
import time
from pathlib import Path

import pytest
import trimesh
from django.contrib.auth.models import User
from playwright.sync_api import Locator, Page, Route, expect

from tests.browser.places import box_of
from workshop.catalogue.models import Product
from workshop.intake.taking import take_list


def wait_for_solid(page: Page, *, other_than: str = "") -> str:
    page.wait_for_function(
        "before => { const shown = document.querySelector('canvas[data-turning]')?.dataset.shown;"
        " return shown && shown !== before; }",
        arg=other_than,
        timeout=90_000,
    )
    return str(page.locator("canvas[data-turning]").get_attribute("data-shown"))


def test_a_product_is_changed_looked_at_and_kept(desk: Page, live_server) -> None:
    desk.goto(f"{live_server.url}/catalogue/CREW-TAG/")
    first = wait_for_solid(desk)
    expect(desk.get_by_label("A section through the piece at its lettering")).to_be_visible()
    expect(desk.locator('[data-fits="no"]').first).to_be_visible()
    desk.get_by_label("Grid of").check()
    desk.wait_for_function("() => Number(document.querySelector('canvas[data-turning]').dataset.grid) > 50")
    desk.get_by_label("length", exact=True).fill("140")
    expect(desk.locator('[data-fits="no"]')).to_have_count(0)
    wait_for_solid(desk, other_than=first)
    # The grid stays chosen on what is drawn anew.
    expect(desk.get_by_label("Grid of")).to_be_checked()
    desk.get_by_role("button", name="Keep as a new version").click()
    expect(desk.get_by_text("is now version 2")).to_be_visible()
    assert Product.objects.current().get(code="CREW-TAG").table["blank"]["length_mm"] == 140.0


def test_a_shape_is_sent_made_a_product_of_and_lettered_elsewhere(
    desk: Page, live_server, tmp_path: Path
) -> None:
    file = tmp_path / "wedge.stl"
    trimesh.creation.box((60, 30, 10)).export(file)
    desk.goto(f"{live_server.url}/catalogue/shapes/")
    desk.get_by_label(re.compile("Add one")).set_input_files(file)
    desk.get_by_role("button", name="Add it").click()
    expect(desk.get_by_text("does not say its unit")).to_be_visible()
    desk.get_by_label(re.compile("Add one")).set_input_files(file)
    desk.get_by_label(re.compile("Its unit")).select_option("mm")
    desk.get_by_role("button", name="Add it").click()
    expect(desk.locator('[data-shape="wedge.stl"]')).to_contain_text("60.00 × 30.00 × 10.00 mm")

    desk.goto(f"{live_server.url}/catalogue/PEBBLE-FOB/file/")
    text = desk.get_by_label("Products file").input_value()
    text = text.replace('"PEBBLE-FOB"', '"WEDGE-FOB"').replace("shapes/pebble.3mf", "wedge.stl")
    text = text.replace('kind = "supplied shape"', 'kind = "supplied shape"\nunit = "mm"')
    text = re.sub(r"(\bpoint = \[)[^\]]*\]", r"\g<1>0.0, 0.0, 5.0]", text)
    desk.get_by_label("Products file").fill(text)
    desk.get_by_role("button", name="Keep").click()
    expect(desk.get_by_text("Kept WEDGE-FOB v1")).to_be_visible()

    shown = wait_for_solid(desk)
    point = desk.get_by_label("lettered about")
    expect(point).to_have_value("0 0 5")
    canvas = desk.locator("canvas[data-turning]")
    box = box_of(canvas)
    canvas.dblclick(position={"x": box["width"] * 0.56, "y": box["height"] * 0.5})
    expect(point).not_to_have_value("0 0 5")
    x, y, z = (float(c) for c in point.input_value().split())
    # On the skin of the block, to the right of its middle.
    assert 0 < x <= 30 and abs(y) <= 15.01 and abs(z) <= 5.01
    assert abs(x - 30) < 0.02 or abs(abs(y) - 15) < 0.02 or abs(z - 5) < 0.02
    wait_for_solid(desk, other_than=shown)


def boxes(page: Page, selector: str) -> list[dict[str, float]]:
    found = [one.bounding_box() for one in page.locator(selector).all()]
    return [box for box in found if box is not None]


@pytest.mark.parametrize("width", [1280, 1024, 820])
def test_measures_stand_in_the_drawings_where_they_are(desk: Page, live_server, width: int) -> None:
    desk.set_viewport_size({"width": width, "height": 900})
    desk.goto(f"{live_server.url}/catalogue/CREW-TAG/")
    expect(desk.locator('[data-place="depth_mm"]')).to_have_count(1)
    desk.wait_for_function("document.querySelectorAll('[data-placed]').length === 7")
    spot = box_of(desk.locator('[data-prefix="blank."] [data-place="length_mm"]'))
    field = box_of(desk.get_by_label("length", exact=True))
    assert spot["y"] - 2 <= field["y"] and field["y"] + field["height"] <= spot["y"] + spot["height"] + 2
    placed = boxes(desk, "[data-placed]")
    for number, one in enumerate(placed):
        for other in placed[number + 1 :]:
            apart = one["x"] + one["width"] <= other["x"] + 1 or other["x"] + other["width"] <= one["x"] + 1
            above = one["y"] + one["height"] <= other["y"] + 1 or other["y"] + other["height"] <= one["y"] + 1
            assert apart or above
    assert desk.evaluate("document.documentElement.scrollWidth") <= width


def test_typing_a_measure_redraws_and_never_loses_the_cursor(desk: Page, live_server) -> None:
    desk.goto(f"{live_server.url}/catalogue/CREW-TAG/")
    length = desk.get_by_label("length", exact=True)
    length.click()
    length.press("Control+a")
    for key in "72,5":
        length.press(key)
        desk.wait_for_timeout(120)
    expect(desk.locator('[data-area="face"] text').filter(has_text="70")).to_have_count(1)
    expect(length).to_be_focused()
    assert length.input_value() == "72,5"
    # What can't be is said, marked where it was typed, and what was drawn stays.
    corner = desk.get_by_label("rounded corner", exact=True)
    corner.fill("40")
    # Wall, section and solid of the values before are still being made.
    expect(desk.locator("#refused")).to_contain_text("Rounded corner is more than half", timeout=60_000)
    expect(corner).to_have_attribute("aria-invalid", "true")
    expect(desk.locator("#wall svg").first).to_be_visible()
    corner.fill("4")
    expect(desk.locator("#refused")).to_be_empty(timeout=60_000)
    expect(corner).not_to_have_attribute("aria-invalid", "true")


def test_another_kind_brings_its_own_fields_and_what_was_open_stays_open(desk: Page, live_server) -> None:
    desk.goto(f"{live_server.url}/catalogue/CREW-TAG/")
    expect(desk.get_by_label("stand proud")).to_have_count(0)
    desk.get_by_label("lettering is", exact=True).select_option("raised")
    expect(desk.get_by_label("stand proud")).to_have_value("0.5")
    expect(desk.locator('[name="treatment.depth_mm"]')).to_have_count(0)
    desk.get_by_text("How it stands", exact=True).click()
    line = desk.get_by_label("its line is", exact=True)
    line.select_option("arc")
    expect(desk.get_by_label("arc spans")).to_have_value("120")
    expect(line).to_be_visible()
    desk.get_by_role("button", name="Keep as a new version").click()
    expect(desk.get_by_text("is now version 2")).to_be_visible()
    table = Product.objects.current().get(code="CREW-TAG").table
    assert table["arrangement"]["shape"] == {"kind": "arc", "angle_deg": 120.0}
    assert table["treatment"] == {"kind": "raised", "height_mm": 0.5, "root_mm": 0.4}


def test_choices_are_drawn_and_one_is_taken_by_pressing_it(desk: Page, live_server) -> None:
    desk.goto(f"{live_server.url}/catalogue/CREW-TAG/")
    desk.get_by_role("button", name="Draw each choice of “outline”").click()
    choices = desk.locator("[data-choices] li")
    # “Free” needs a drawn outline, and says so instead of a picture.
    expect(choices).to_have_count(6)
    desk.locator('[data-value="oval"]').click()
    expect(desk.get_by_label("outline", exact=True)).to_have_value("oval")
    expect(desk.locator('[data-place="corner_mm"]')).to_have_count(0)


def test_what_would_raise_the_share_is_told_and_tried_by_pressing_it(desk: Page, live_server) -> None:
    desk.goto(f"{live_server.url}/catalogue/CREW-TAG/")
    desk.get_by_label("length", exact=True).fill("34")
    expect(desk.locator('[data-area="face"] text').filter(has_text="40")).to_have_count(0)
    # A share follows the values by itself, and goes on to many names while nothing is changed.
    share, now = desk.locator("#share"), desk.locator("#share-now")
    expect(now).to_have_attribute("data-names", re.compile(r"^(1[1-9]|[2-9]\d)\d+$"), timeout=60_000)
    share.get_by_role("button", name="Stop there").click()
    expect(share.get_by_role("button", name="Go on to 1000 names")).to_be_visible()
    shown = now.inner_text()
    with desk.expect_response(lambda answer: "/wall/" in answer.url):
        desk.get_by_label("Shown with").fill("Ottoline")
    expect(now).to_have_text(shown, use_inner_text=True)
    # A quick trial is told for less than a glance: what is asked for is waited for, not what is said meanwhile.
    with desk.expect_response(lambda answer: "/share/" in answer.url and "blank.length_mm=33" in answer.url):
        desk.get_by_label("length", exact=True).fill("33")
    expect(now).to_have_attribute("data-names", re.compile(r"^\d{3,}$"), timeout=60_000)
    desk.get_by_role("button", name="What would raise it most?").click(timeout=60_000)
    best = desk.locator("[data-sets]").first
    expect(best).to_contain_text("instead of", timeout=60_000)
    expect(desk.locator("#raised")).to_contain_text("single changes these raise it most", timeout=120_000)
    name, value = next(iter(json.loads(best.get_attribute("data-sets") or "{}").items()))
    best.click()
    filled = desk.locator(f'[name="{name}"]').evaluate_all("all => all.map(one => one.value)")
    wanted = [f"{value:g}" if isinstance(value, float) else str(value)]
    assert [one for one in filled if one] == (value if isinstance(value, list) else wanted)


def _until_many(desk: Page, live_server) -> tuple[Locator, Locator]:
    """A product's page that goes on to many names by itself: its share and the button that stops it."""
    desk.goto(f"{live_server.url}/catalogue/CREW-TAG/")
    desk.get_by_label("length", exact=True).fill("34")
    now = desk.locator("#share-now")
    expect(now).to_have_attribute("data-names", re.compile(r"^(1[1-9]|[2-9]\d)\d+$"), timeout=60_000)
    return now, desk.get_by_role("button", name="Stop there")


def test_a_press_that_is_answered_after_the_next_portion_still_stops_it(desk: Page, live_server) -> None:
    now, stop = _until_many(desk, live_server)

    def late(route: Route) -> None:
        time.sleep(2.5)
        route.continue_()

    desk.route(re.compile(r"/share/.*rest=1"), late)
    stop.click()
    expect(desk.get_by_role("button", name="Go on to 1000 names")).to_be_visible()
    expect(now).not_to_have_attribute("hx-trigger", re.compile("load"))


def test_a_button_that_is_pressed_stays_until_it_is_let_go(desk: Page, live_server) -> None:
    now, stop = _until_many(desk, live_server)
    told = now.get_attribute("data-names")
    stop.hover()
    with desk.expect_response(lambda answer: "/share/" in answer.url):
        desk.mouse.down()
    desk.wait_for_timeout(200)
    assert now.get_attribute("data-names") == told
    desk.mouse.up()
    expect(desk.get_by_role("button", name="Go on to 1000 names")).to_be_visible()
    expect(now).to_have_attribute("data-names", told or "")


def test_what_came_while_a_button_was_held_is_taken_in_when_it_is_let_go_elsewhere(
    desk: Page, live_server
) -> None:
    now, stop = _until_many(desk, live_server)
    told = now.get_attribute("data-names")
    stop.hover()
    with desk.expect_response(lambda answer: "/share/" in answer.url):
        desk.mouse.down()
    desk.mouse.move(5, 5)
    desk.mouse.up()
    expect(now).not_to_have_attribute("data-names", told or "")
    expect(desk.get_by_role("button", name="Stop there")).to_be_visible()


def test_a_side_that_is_pointed_at_is_lettered_as_well_or_instead(desk: Page, live_server) -> None:
    desk.goto(f"{live_server.url}/catalogue/CREW-TAG/")
    shown = wait_for_solid(desk)
    canvas = desk.locator("canvas[data-turning]")
    box = box_of(canvas)
    middle = {"x": box["width"] / 2, "y": box["height"] / 2}
    canvas.dblclick(position=middle)
    expect(desk.locator("#picked")).to_contain_text("The face is what the wording stands on")
    # Turned over, it is its back that one points at.
    canvas.focus()
    for _ in range(26):
        canvas.press("ArrowDown")
    canvas.dblclick(position=middle)
    picked = desk.locator("#picked")
    expect(picked).to_contain_text("The back")
    picked.get_by_role("button", name="Letter it as well").click()
    expect(desk.get_by_text("Also on the back", exact=True)).to_be_visible()
    wait_for_solid(desk, other_than=shown)
    expect(desk.locator('[data-area="back"]')).to_be_visible()
    # What was asked for once is asked for until it is kept, and then it is there.
    desk.get_by_role("button", name="Keep as a new version").click()
    expect(desk.get_by_text("is now version 2")).to_be_visible()
    assert [row["area"] for row in Product.objects.current().get(code="CREW-TAG").table["also"]] == ["back"]


def test_only_what_differs_is_sent_and_stays_through_other_fields(desk: Page, live_server) -> None:
    asked: list[str] = []
    desk.on("request", lambda request: asked.append(request.url))
    desk.goto(f"{live_server.url}/catalogue/FERRY-KEY/")
    desk.get_by_label("Shown with").fill("Wim")
    expect(desk.get_by_label("unrolled, with “Wim” on it").first).to_be_visible()
    # Another kind brings other fields; what was typed before them is no less on trial.
    desk.get_by_label("length", exact=True).fill("61")
    expect(desk.locator("[name='blank.length_mm']")).to_have_value("61")
    desk.locator("summary", has_text="How it stands").click()
    desk.locator("[name='arrangement.shape.kind']").first.select_option("arc")
    expect(desk.locator("[name='arrangement.shape.angle_deg']").first).to_be_visible()
    desk.locator("[name='arrangement.shape.angle_deg']").first.fill("90")
    walls = [url for url in asked if "/wall/" in url]
    desk.wait_for_function("() => document.querySelector('#wall li')")
    with desk.expect_request(lambda request: "/wall/" in request.url and "thickness" in request.url) as last:
        desk.get_by_label("thickness", exact=True).fill("4")
    for value in ("said=Wim", "blank.length_mm=61", "shape.kind=arc", "shape.angle_deg=90", "thickness_mm=4"):
        assert value in last.value.url
    assert walls and max(map(len, [*walls, last.value.url])) < 600


def test_words_of_the_book_are_tried_by_a_press_and_the_address_stays_the_pages_own(
    desk: Page, live_server
) -> None:
    rows = b"order,product,wording\nA1,CREW-TAG,Halloran\n"
    take_list(rows, name="x.csv", user=User.objects.get(username="owner"))
    own = f"{live_server.url}/catalogue/typefaces/"
    desk.goto(own)
    word = desk.locator("[data-fill=words]").first
    expect(word).to_be_visible()
    assert desk.url == own
    said = word.get_attribute("value") or ""
    word.click()
    expect(desk.locator("#words")).to_have_value(said)
    desk.wait_for_url("**/typefaces/?*words=*")
    assert "/typefaces/?" in desk.url

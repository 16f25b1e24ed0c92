"""A product tried in the Catalogue: values, grid, a shape that was sent, another place on it, a kept version."""

from __future__ import annotations

import re
from pathlib import Path

import trimesh
from playwright.sync_api import Page, expect

from workshop.catalogue.models import Product


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
    desk.get_by_label("length").fill("140")
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
    box = canvas.bounding_box()
    assert box is not None
    canvas.dblclick(position={"x": box["width"] * 0.56, "y": box["height"] * 0.5})
    expect(point).not_to_have_value("0 0 5")
    x, y, z = (float(c) for c in point.input_value().split())
    # On the skin of the block, to the right of its middle.
    assert 0 < x <= 30 and abs(y) <= 15.01 and abs(z) <= 5.01
    assert abs(x - 30) < 0.02 or abs(abs(y) - 15) < 0.02 or abs(z - 5) < 0.02
    wait_for_solid(desk, other_than=shown)

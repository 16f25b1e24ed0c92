"""Runs as production walks them: propose, take, move, take back, lock, take the files away, mark off."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.keys import press
from tests.browser.places import box_of, middle_of
from tests.workshop.runs.acts import LIST
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.orders.models import Piece
from workshop.runs.models import Placement, Run
from workshop.stations.models import Station


@pytest.fixture
def ready(open_shop) -> None:
    Station.objects.add_shipped()
    make_list(take_list(LIST.encode(), name="runs.csv", user=open_shop).pk)


def test_from_ready_pieces_to_marked_off_ones(desk: Page, worker, ready: None, tmp_path: Path) -> None:
    desk.get_by_role("link", name="Runs").click()
    expect(desk.locator('[data-count="free"]')).to_have_text("9")
    press(desk, "p")
    expect(desk.locator("li[data-run]")).to_have_count(3, timeout=120_000)
    desk.get_by_role("link", name="LASER-1-0001").click()

    # Dragged by hand: what would lie over another is put back, what is free stays where it is put.
    pieces = desk.locator(".k-piece")
    expect(pieces).to_have_count(3)
    other = middle_of(pieces.nth(1))

    def drag(to_x: float, to_y: float) -> None:
        desk.mouse.move(*middle_of(pieces.nth(0)))
        desk.mouse.down()
        desk.mouse.move(to_x, to_y, steps=5)
        desk.mouse.up()

    drag(*other)
    expect(desk.locator("[data-trouble]")).to_contain_text("lie over each other")
    bed = box_of(desk.locator("#bed"))
    drag(bed["x"] + bed["width"] * 0.7, bed["y"] + bed["height"] * 0.5)
    expect(desk.locator("[data-standing-said]")).to_have_text("being laid out")
    expect(desk.locator("[data-trouble]")).to_have_count(0)
    expect(desk.get_by_role("button", name="Take back: moved")).to_be_visible()
    moved = Placement.objects.get(run__code="LASER-1-0001", place=1)
    assert moved.x_mm > 300

    # By keys alone: chosen, nudged, turned; the piece keeps the cursor.
    drawn = desk.locator(f'[data-piece="{moved.pk}"].k-piece')
    drawn.focus()
    press(desk, "Space")
    expect(drawn).to_have_attribute("aria-checked", "true")
    expect(desk.locator("fieldset [data-chosen-count]").first).to_have_text("1")
    press(desk, "ArrowLeft")
    expect(desk.locator("#run")).to_have_attribute("data-edition", "3")
    expect(desk.locator(f'[data-piece="{moved.pk}"].k-piece')).to_be_focused()
    moved.refresh_from_db()
    before = moved.x_mm
    desk.get_by_role("button", name="Take back: moved").click()
    expect(desk.locator("#run")).to_have_attribute("data-edition", "4")
    assert Placement.objects.get(run__code="LASER-1-0001", place=1).x_mm == pytest.approx(before + 1)

    # Locked, released by the worker while the page watches, taken away, marked off.
    desk.get_by_role("button", name="Lock and write files").click()
    expect(desk.locator("[data-released]")).to_be_visible(timeout=120_000)
    with desk.expect_download() as waiting:
        desk.get_by_role("link", name="Take all files away").click()
    package = zipfile.ZipFile(io.BytesIO(Path(waiting.value.path()).read_bytes()))
    assert {"LASER-1-0001.svg", "LASER-1-0001.dxf", "LASER-1-0001-map.pdf"} <= set(package.namelist())
    desk.locator("[data-choose-piece]").first.check()
    desk.get_by_label("Why it failed").fill("burnt")
    desk.get_by_role("button", name="Mark off").click()
    expect(desk.get_by_text("2 made, 1 failed and ready again.")).to_be_visible()
    run = Run.objects.get(code="LASER-1-0001")
    assert sorted(Piece.objects.filter(placements__run=run).values_list("stage", flat=True)) == [
        "made", "made", "ready",
    ]  # fmt: skip


def test_a_released_plate_turns(desk: Page, worker, ready: None) -> None:
    desk.get_by_role("link", name="Runs").click()
    press(desk, "p")
    expect(desk.locator("li[data-run]")).to_have_count(3, timeout=120_000)
    desk.get_by_role("link", name="RESIN-1-0001").click()
    desk.get_by_role("button", name="Lock and write files").click()
    expect(desk.locator("[data-released]")).to_be_visible(timeout=120_000)
    desk.wait_for_function(
        "() => Number(document.querySelector('canvas[data-turning]')?.dataset.triangles) > 1000",
        timeout=90_000,
    )


def test_a_station_is_set(desk: Page, ready: None) -> None:
    desk.get_by_role("link", name="Stations").click()
    desk.locator('[data-station="RESIN-1"]').get_by_role("link", name="Settings").click()
    desk.get_by_label("Kept clear along the edges").fill("90")
    desk.get_by_role("button", name="Keep").click()
    expect(desk.locator("[data-trouble]")).to_contain_text("leaves nothing of its bed")
    expect(desk.get_by_label("Kept clear along the edges")).to_have_value("90")
    desk.get_by_label("Kept clear along the edges").fill("4")
    desk.get_by_role("button", name="Keep").click()
    expect(desk.locator("[data-trouble]")).to_contain_text("why it is set otherwise")
    desk.get_by_label("Why, for whoever asks later").fill("The tank's lip hides four")
    desk.get_by_role("button", name="Keep").click()
    expect(desk.get_by_text("is kept")).to_be_visible()
    expect(desk.get_by_role("region", name="Who set it, and why")).to_contain_text(
        "The tank's lip hides four"
    )
    assert Station.objects.get(code="RESIN-1").to_machine().margin_mm == 4.0

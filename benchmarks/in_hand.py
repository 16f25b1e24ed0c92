"""Group `remedies`, the browser: from a hand's move to the painted picture of what would be made there."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from typing import Any

from benchmarks.apart import figures_apart, row, tell
from benchmarks.database import shop_database
from benchmarks.figure import Figure, percentile
from benchmarks.serving import web_server

__all__ = ["figures"]

#: Lettering is pulled this way on one piece of each, mm a step, with a step every so often.
_PRODUCTS = (
    "CREW-TAG",
    "HIVE-PLATE",
    "VERSE-TAG",
    "BOW-TAG",
    "CHOIR-RING",
    "VOW-RING",
    "LINNET-HEART",
    "GUEST-PLATE",
)
_NAMES = ("Marlow", "Una Finch", "Jörg", "Ida")
_STEPS, _STEP_MM, _EVERY_MS = 24, 0.15, 70
_PLAIN = ("--no-sandbox", "--disable-gpu-compositing")
#: The first answers draw letters for the first time.
_FIRST = 4

#: Tells for every answer that is drawn how long ago it was asked for, once it is on the screen: a frame that
#: was handed over is shown when the second one after it begins, as at most one waits to be shown.
_WATCH = """() => {
  window.kPainted = [];
  new MutationObserver((changes) => {
    for (const change of changes) {
      const took = Number(change.target.dataset.handTook), at = performance.now();
      const painted = () => window.kPainted.push(took + performance.now() - at);
      requestAnimationFrame(() => requestAnimationFrame(() => requestAnimationFrame(painted)));
    }
  }).observe(document.body, { subtree: true, attributes: true, attributeFilter: ["data-hand-took"] });
}"""


def figures() -> Iterator[Figure]:
    """In a process of its own, on a database of its own."""
    return figures_apart("benchmarks.in_hand", group="remedies")


def _measure() -> Iterator[dict[str, Any]]:
    from django.contrib.auth.models import User
    from django.test import Client

    from workshop.intake.taking import take_list
    from workshop.making.tasks import make_list
    from workshop.orders.models import OrderLine

    owner = User.objects.get(username="maren")
    header = "order,line,product,size,wording,quantity,due,customer\n"
    rows = [
        f"H{place},1,{code},{'54' if 'RING' in code else ''},{_NAMES[place % len(_NAMES)]},1,,Pia\n"
        for place, code in enumerate(_PRODUCTS)
    ]
    make_list(take_list((header + "".join(rows)).encode(), name="hand", user=owner).pk)
    client = Client(SERVER_NAME="localhost")
    client.force_login(owner)
    session = client.cookies["sessionid"].value
    paths = [line.get_absolute_url() for line in OrderLine.objects.order_by("order")]
    with web_server() as (address, _):
        painted = list(_pulled(address, session, paths))
    yield row("pictures painted under the hand", len(painted), "pictures")
    yield row("from the hand to the painted picture, median", percentile(painted, 0.5), "ms")
    yield row("from the hand to the painted picture, p95", percentile(painted, 0.95), "ms", 120.0)


def _pulled(address: str, session: str, paths: list[str]) -> Iterator[float]:
    from playwright.sync_api import sync_playwright

    with sync_playwright() as play:
        browser = play.chromium.launch(
            executable_path=shutil.which("chromium"),
            # As a browser puts a page together where there is no graphics card; by a card that is imitated
            # every frame of the whole window takes 60 to 120 ms, whatever changed in it.
            args=[*_PLAIN, "--use-angle=swiftshader", "--enable-unsafe-swiftshader"],
        )
        desk = browser.new_page(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
        desk.context.add_cookies([{"name": "sessionid", "value": session, "url": address}])
        for path in paths:
            desk.goto(address + path)
            grip = desk.locator(".k-hand-grip").first
            grip.wait_for(timeout=60_000)
            # Whatever the page still asks for is answered first.
            desk.wait_for_load_state("networkidle")
            desk.evaluate(_WATCH)
            box = grip.bounding_box()
            assert box is not None
            scale = desk.locator("svg[data-hand]").first.evaluate(
                "e => e.getBoundingClientRect().width / e.viewBox.baseVal.width"
            )
            x, y = box["x"] + box["width"] / 2.0, box["y"] + box["height"] / 2.0
            desk.mouse.move(x, y)
            desk.mouse.down()
            for step in range(1, _STEPS + 1):
                desk.mouse.move(x + step * _STEP_MM * scale, y + 0.3 * step * _STEP_MM * scale)
                desk.wait_for_timeout(_EVERY_MS)
            found = desk.evaluate("() => window.kPainted")
            desk.mouse.move(x, y)
            desk.mouse.up()
            yield from found[_FIRST:]
        browser.close()


if __name__ == "__main__":
    with shop_database():
        tell(_measure())

"""Where something lies on the page, as the pointer has to know it."""

from __future__ import annotations

import time

from playwright.sync_api import FloatRect, Locator


def box_of(what: Locator, *, seconds: float = 30.0) -> FloatRect:
    """Its box in px, once the page's scripts listen to what is done there.

    A drawing that is put anew while one asks has no box for that moment, so one asks again.
    """
    what.page.wait_for_load_state("load")
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        box = what.bounding_box()
        if box is not None:
            return box
        time.sleep(0.02)
    raise AssertionError(f"{what} lies nowhere on the page")


def middle_of(what: Locator) -> tuple[float, float]:
    box = box_of(what)
    return box["x"] + box["width"] / 2.0, box["y"] + box["height"] / 2.0

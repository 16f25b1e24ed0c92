"""Keys as somebody presses them who sees the page."""

from __future__ import annotations

from playwright.sync_api import Page


def press(page: Page, key: str) -> None:
    """Press a key once the page's scripts listen: a link that was followed gives the page before it has them."""
    page.wait_for_load_state("load")
    page.keyboard.press(key)

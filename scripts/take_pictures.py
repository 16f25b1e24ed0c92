"""Takes the pictures of the documents from a demo shop that is running; see scripts/take-pictures.sh."""

from __future__ import annotations

import argparse
import re
import shutil
import sys
import tomllib
from pathlib import Path

from playwright.sync_api import Page, expect, sync_playwright

DOCS = Path(__file__).resolve().parents[1] / "docs"
#: The lists of the demo are made in the background; pictures are of a shop at rest.
_MOST_MADE_MS = 900_000
#: Looking for the cures of all that is held takes the longest of what a page waits for.
_MOST_WAITED_MS = 240_000


def _act(page: Page, step: str) -> None:
    verb, _, rest = step.partition(" ")
    selector, _, words = rest.partition(" = ")
    match verb:
        case "click":
            page.locator(selector).first.click()
        case "fill":
            page.locator(selector).first.fill(words)
        case "press":
            page.keyboard.press(rest)
        case "wait":
            page.locator(rest).first.wait_for(state="attached")
        case _:
            raise SystemExit(f"docs/pictures.toml: “{step}” begins with none of click, fill, press, wait.")


def main() -> int:
    """Take the pictures that are named, or all."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--log", type=Path, required=True, help="what the start command said")
    parser.add_argument("--address", required=True)
    parser.add_argument("--out", type=Path, default=DOCS / "screenshots", help="where they go")
    parser.add_argument("names", nargs="*")
    args = parser.parse_args()
    wanted = tomllib.loads((DOCS / "pictures.toml").read_text("utf-8"))["picture"]
    unknown = set(args.names) - {picture["name"] for picture in wanted}
    if unknown:
        raise SystemExit(f"docs/pictures.toml names no {', '.join(sorted(unknown))}.")
    found = re.search(r"^\s+maren\s+(\S+)$", args.log.read_text("utf-8"), re.MULTILINE)
    if found is None:
        raise SystemExit("The start command gave no password.")
    flags = ["--no-sandbox", "--use-angle=swiftshader", "--enable-unsafe-swiftshader"]
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=flags)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
        page.set_default_timeout(_MOST_WAITED_MS)
        page.goto(f"{args.address}/people/sign-in/")
        page.get_by_label("Name").fill("maren")
        page.get_by_label("Password").fill(found[1])
        page.get_by_role("button", name="Sign in").click()
        page.wait_for_url("**/orders/")
        expect(page.locator("[data-count=new]")).to_have_text("0", timeout=_MOST_MADE_MS)
        for picture in wanted:
            if args.names and picture["name"] not in args.names:
                continue
            page.goto(args.address + picture["path"])
            for step in picture.get("steps", ()):
                _act(page, step)
            page.wait_for_load_state("networkidle")
            page.mouse.move(0, 0)
            page.wait_for_timeout(500)
            page.screenshot(path=args.out / f"{picture['name']}.png")
            print(picture["name"], flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main())

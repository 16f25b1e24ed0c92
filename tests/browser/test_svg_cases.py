"""Generated drawings against an independent renderer, Debian's chromium: whatever a file uses comes out as the
browser shows it, or is named as not followed, or is refused; never wrong in silence.

librsvg is not asked here: it leaves symbols and clipped clipping paths open, which the browser cuts off.
"""

from __future__ import annotations

import base64
import io
from collections.abc import Iterator

import numpy as np
import pytest
from PIL import Image, ImageDraw
from playwright.sync_api import Browser, Page
from scipy.ndimage import binary_dilation

from kizami.artwork.artwork import Artwork
from kizami.artwork.svg_files import read_svg
from kizami.errors import ArtworkError
from tests.reference.svg_cases import cases

_SIDE, _FINER = 600, 4
#: Of the ink of either picture so much lies within a pixel of the other's.
_AGREE = 0.98


@pytest.fixture
def sheet(browser: Browser) -> Iterator[Page]:
    page = browser.new_page(viewport={"width": _SIDE, "height": _SIDE})
    yield page
    page.close()


def by_browser(page: Page, svg: str) -> np.ndarray:
    """Where there is ink, cut to it."""
    data = base64.b64encode(svg.encode()).decode()
    page.set_content(
        f'<body style="margin:0;background:white"><img src="data:image/svg+xml;base64,{data}" style="width:{_SIDE}px">'
    )
    page.wait_for_function("document.images[0].complete")
    ink = np.asarray(Image.open(io.BytesIO(page.screenshot())).convert("L")) < 128
    rows, columns = np.nonzero(ink)
    return ink[rows.min() : rows.max() + 1, columns.min() : columns.max() + 1]


def by_us(artwork: Artwork, high: int, wide: int) -> tuple[np.ndarray, float]:
    """Our outlines in the same box, and how much taller they are for their width."""
    outlines = artwork.outlines(sagitta=2e-4)
    low_x, low_y, high_x, high_y = outlines.bounds
    across, up = wide * _FINER / (high_x - low_x), high * _FINER / (high_y - low_y)
    picture = Image.new("L", (wide * _FINER, high * _FINER), 0)
    pen = ImageDraw.Draw(picture)
    for body in outlines.geoms:
        for ring, grey in [(body.exterior, 255), *((hole, 0) for hole in body.interiors)]:
            points = [((x - low_x) * across - 0.5, (high_y - y) * up - 0.5) for x, y in ring.coords]
            pen.polygon(points, fill=grey)
    small = np.asarray(picture.resize((wide, high), Image.Resampling.BOX))
    return small > 127, across / up


def agreement(one: np.ndarray, other: np.ndarray) -> float:
    """Share of the ink of each that lies within a pixel of the other's, the smaller of the two."""
    near = np.ones((3, 3), dtype=bool)
    return min(
        float((a & binary_dilation(b, near)).sum() / max(int(a.sum()), 1))
        for a, b in ((one, other), (other, one))
    )


def test_no_drawing_comes_out_wrong_in_silence(sheet: Page) -> None:
    followed, named, wrong = 0, 0, {}
    for name, svg in cases():
        try:
            artwork = read_svg(svg.encode(), name=name)
        except ArtworkError:
            named += 1
            continue
        if artwork.changed:
            named += 1
            continue
        followed += 1
        theirs = by_browser(sheet, svg)
        ours, taller = by_us(artwork, *theirs.shape)
        share = agreement(ours, theirs)
        if share < _AGREE or abs(taller - 1.0) > 0.03:
            wrong[name] = (round(share, 3), round(taller, 2))
    assert not wrong
    # What is followed is most of it: a reader that refuses everything is never wrong.
    assert followed >= 550 and named <= 130


def test_a_drawing_that_is_off_by_little_is_seen(sheet: Page) -> None:
    """The comparison finds a dot that lies two hundredths aside."""
    drawn = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100"><path d="M0 0H9V9H0zM90 90h9v9h-9z"/>{}</svg>'
    theirs = by_browser(sheet, drawn.format('<circle cx="50" cy="50" r="20"/>'))
    there = read_svg(drawn.format('<circle cx="52" cy="50" r="20"/>').encode(), name="x")
    assert agreement(by_us(there, *theirs.shape)[0], theirs) < _AGREE

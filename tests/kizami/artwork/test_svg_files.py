"""SVG logos: areas known by construction, and every trick refused in words."""

from __future__ import annotations

import math

import pytest

from kizami.artwork.artwork import Artwork
from kizami.artwork.svg_files import LARGEST_SVG_BYTES, MOST_SHAPES, read_svg
from kizami.errors import ArtworkError


def svg(body: str, *, head: str = 'viewBox="0 0 100 100"', before: str = "") -> bytes:
    return (
        f'{before}<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" {head}>{body}</svg>'
    ).encode()


def read(body: str, **how: str) -> Artwork:
    return read_svg(svg(body, **how), name="x.svg")


def area(of: Artwork, height: float) -> float:
    """Area in the drawing's own units, from its height there."""
    return float(of.shape.area) * height**2


@pytest.mark.parametrize(
    ("body", "height", "expected"),
    [
        pytest.param('<rect x="10" y="20" width="40" height="30"/>', 30, 1200, id="rectangle"),
        pytest.param('<rect width="40" height="30" rx="10"/>', 30, 1200 - (4 - math.pi) * 100, id="rounded"),
        pytest.param('<circle cx="50" cy="50" r="30"/>', 60, math.pi * 900, id="circle"),
        pytest.param('<ellipse cx="50" cy="50" rx="40" ry="20"/>', 40, math.pi * 800, id="ellipse"),
        pytest.param('<polygon points="0,0 40,0 40,40"/>', 40, 800, id="polygon"),
        pytest.param('<polyline points="0,0 40,0 40,40"/>', 40, 800, id="polyline is filled"),
        pytest.param('<path d="M0 50A50 50 0 0 1 100 50z"/>', 50, math.pi * 1250, id="arc"),
        pytest.param('<path d="M0 0q50 60 100 0z"/>', 30, 2 / 3 * 100 * 30, id="parabola: two thirds of its box"),
        pytest.param('<path d="M0 0h60v60h-60zM20 20h20v20h-20z"/>', 60, 3600, id="non-zero, same way round"),
        pytest.param('<path d="M0 0h60v60h-60zM20 20v20h20v-20z"/>', 60, 3200, id="non-zero, other way round"),
        pytest.param('<path fill-rule="evenodd" d="M0 0h60v60h-60zM20 20h20v20h-20z"/>', 60, 3200, id="even-odd"),
        pytest.param('<path style="fill-rule:evenodd" d="M0 0h60v60h-60zM20 20h20v20h-20z"/>', 60, 3200, id="even-odd by style"),
        pytest.param('<line x1="10" y1="50" x2="90" y2="50" stroke="#000" stroke-width="6"/>', 6, 480, id="stroke, butt"),
        pytest.param('<line x1="10" y1="50" x2="90" y2="50" stroke="#000" stroke-width="6" stroke-linecap="round"/>', 6, 480 + math.pi * 9, id="stroke, round"),
        pytest.param('<line x1="10" y1="50" x2="90" y2="50" stroke="#000" stroke-width="6" stroke-linecap="square"/>', 6, 516, id="stroke, square"),
        pytest.param('<circle cx="50" cy="50" r="30" fill="none" stroke="#000" stroke-width="10"/>', 70, math.pi * (35**2 - 25**2), id="ring by stroke"),
        pytest.param('<g transform="translate(5 5) scale(2)"><rect width="10" height="10"/></g>', 20, 400, id="group moved and scaled"),
        pytest.param('<rect x="40" y="40" width="20" height="20" transform="rotate(45 50 50)"/>', 20 * math.sqrt(2), 400, id="turned"),
        pytest.param('<rect width="20" height="10" transform="skewX(30)"/>', 10, 200, id="skewed"),
        pytest.param('<defs><rect id="a" width="20" height="20"/></defs><use href="#a"/><use xlink:href="#a" x="40"/>', 20, 800, id="use, twice"),
        pytest.param('<style>.b{fill:none;stroke:#000;stroke-width:4}</style><rect class="b" x="10" y="10" width="40" height="40"/>', 44, 44**2 - 36**2, id="style by class"),
        pytest.param('<rect width="60" height="60"/><rect x="20" y="20" width="20" height="20" fill="#fff"/>', 60, 3200, id="white over black"),
        pytest.param('<rect width="60" height="60"/><rect x="20" y="20" width="20" height="20" fill="none"/>', 60, 3600, id="no fill"),
        pytest.param('<rect width="60" height="60"/><rect width="90" height="90" display="none"/>', 60, 3600, id="not shown"),
        pytest.param('<rect x="80" y="0" width="60" height="60"/>', 60, 1200, id="outside its window"),
    ],
)  # fmt: skip
def test_areas_are_what_geometry_says(body: str, height: float, expected: float) -> None:
    # Chords of curves leave them by 3e-5 of the drawing: far below a thousandth of these areas.
    assert area(read(body), height) == pytest.approx(expected, rel=1e-3)


def test_y_points_up_and_the_height_is_one() -> None:
    """A triangle with its tip at the top of the page has it at y = 1."""
    artwork = read('<polygon points="50,0 100,100 0,100"/>')
    low_x, low_y, high_x, high_y = artwork.shape.bounds
    assert (low_x, low_y, high_x, high_y) == pytest.approx((0, 0, 1, 1))
    top = [x for x, y in artwork.shape.geoms[0].exterior.coords if y > 0.99]
    assert top == pytest.approx([0.5] * len(top))
    assert artwork.width == pytest.approx(1.0)


def test_text_is_reported_and_left_out() -> None:
    artwork = read('<rect width="9" height="9"/><text x="5" y="5">Saltgrass <tspan>Works</tspan></text>')
    assert any("Saltgrass Works" in note for note in artwork.notes)


@pytest.mark.parametrize("what", ['clip-path="circle(4px)"', 'mask="url(#m)"', 'filter="url(#f)"'])
def test_what_is_not_followed_is_said(what: str) -> None:
    artwork = read(f'<rect width="9" height="9" {what}/>')
    assert any("not followed" in note for note in artwork.notes)


def test_what_is_clipped_is_clipped_in_its_own_place() -> None:
    """A disc seen through a turned square window, of known area, used twice."""
    clip = '<clipPath id="c"><rect x="-2" y="-2" width="4" height="4" transform="rotate(45)"/></clipPath>'
    shape = '<defs><g id="g" clip-path="url(#c)"><circle r="9"/></g></defs>'
    artwork = read(
        clip + shape + '<use href="#g" x="10" y="10"/><use href="#g" transform="translate(30 10) scale(2)"/>'
    )
    # Two squares on their points, sides 4 and 8: from the left corner of the one to the right corner of the other.
    scale = max(artwork.width, 1.0) / (20 + 6 * 2**0.5)
    assert artwork.shape.area == pytest.approx((16 + 64) * scale**2, rel=1e-3)


def test_shapes_through_one_window_are_many_and_windows_within_windows_end() -> None:
    clip = '<clipPath id="c"><rect width="30" height="90"/></clipPath>'
    dots = "".join(
        f'<circle clip-path="url(#c)" cx="{x}" cy="{y}" r=".4"/>' for x in range(40) for y in range(50)
    )
    artwork = read(clip + dots)
    # 30 columns are seen, and half a column at the edge.
    assert len(artwork.shape.geoms) == 31 * 50
    with pytest.raises(ArtworkError, match="unfolds to more than"):
        read(
            '<clipPath id="c" clip-path="url(#c)"><rect width="9" height="9"/></clipPath><rect clip-path="url(#c)"/>'
        )


ENTITY = '<!DOCTYPE svg [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">]>'
REFUSED = [
    pytest.param(svg("<script>1</script><rect width='9' height='9'/>"), "script", id="script"),
    pytest.param(svg("<rect width='9' height='9' onload='x()'/>"), "script", id="handler"),
    pytest.param(svg("<image href='x.png'/>"), "picture inside", id="image"),
    pytest.param(svg("<foreignObject/>"), "another kind", id="foreign object"),
    pytest.param(svg("<rect width='9' height='9'><animate/></rect>"), "animation", id="animation"),
    pytest.param(svg("<use href='http://example.invalid/a.svg#b'/>"), "outside the file", id="reference out"),
    pytest.param(svg("<use xlink:href='file:///etc/passwd'/>"), "outside the file", id="file reference"),
    pytest.param(svg("<rect fill='url(http://example.invalid/p)' width='9' height='9'/>"), "outside", id="paint from out"),
    pytest.param(svg("<style>@import 'x.css';</style><rect width='9' height='9'/>"), "outside", id="import"),
    pytest.param(svg("<rect width='9' height='9'/>", before=ENTITY), "entities", id="entities"),
    pytest.param(svg("<rect width='9' height='9'/>", before='<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]>'), "entities", id="outer entity"),
    pytest.param(svg("<g id='a'><use href='#a'/></g>"), "within itself", id="uses itself"),
    pytest.param(svg("<g id='a'><use href='#b'/></g><g id='b'><use href='#a'/></g>"), "within itself", id="uses in a circle"),
    pytest.param(svg("".join(f"<g id='g{i}'>" + f"<use href='#g{i - 1}'/>" * 10 + "</g>" for i in range(1, 9)) + "<rect id='g0' width='9' height='9'/>"), "unfolds", id="a billion uses"),
    pytest.param(svg("<path d='M0 0h9v9z'/>" * 100_000), "100000 shapes", id="100,000 paths"),
    pytest.param(svg("<path d='M0 0h9v9z'/>" * (MOST_SHAPES + 1)), "4001 shapes", id="one path too many"),
    pytest.param(b"<svg>" + b" " * LARGEST_SVG_BYTES + b"</svg>", "4 MB", id="too large"),
    pytest.param(svg("<rect width='0' height='0'/>"), "size", id="zero size"),
    pytest.param(svg("<rect width='9' height='9'/>", head="viewBox='0 0 0 0' width='0' height='0'"), "size|area", id="window of zero size"),
    pytest.param(svg("<path d='M0 0L10 0L20 0'/>"), "area|size", id="no area"),
    pytest.param(svg("<path d='M NaN 0 L 10 NaN z'/>"), "size|read", id="NaN"),
    pytest.param(svg("<path d='M 0 0 L 1e999 0 L 9 9 z'/>"), "size|read|area", id="infinite"),
    pytest.param(svg(""), "size", id="empty"),
    pytest.param(b"<svg", "whole", id="cut short"),
    pytest.param(b"<html><svg/></html>", "not an SVG", id="another XML"),
]  # fmt: skip


@pytest.mark.parametrize(("data", "says"), REFUSED)
def test_what_can_not_or_may_not_be_read_is_refused_with_its_reason(data: bytes, says: str) -> None:
    with pytest.raises(ArtworkError, match=says) as caught:
        read_svg(data, name="logo.svg")
    assert "logo.svg" in str(caught.value)

"""What a logo's file uses that is not followed is named, and a piece that would carry it is held."""

from __future__ import annotations

import pytest
import shapely

from kizami.artwork.shelf import Shelf
from kizami.artwork.svg_files import read_svg
from kizami.checks.finding import Level
from kizami.pieces.laying_out import lay_out
from kizami.pieces.lines import inputs_of
from kizami.products.product_file import product_from_table
from kizami.wording.settling import settle
from tests.kizami.samples import TAG_TABLE

BOX = '<rect class="b" id="b" width="9" height="9"'


def svg(body: str) -> bytes:
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 100 100">{body}</svg>'
    ).encode()


def styled(rule: str) -> str:
    return f"<style>{rule}</style>{BOX}/>"


NOT_FOLLOWED = [
    pytest.param(f'{BOX} style="clip-path:circle(4px at 5px 5px)"/>', "basic shape", id="clip, by a shape"),
    pytest.param(
        f'<clipPath id="c" clipPathUnits="objectBoundingBox"><circle r="1"/></clipPath>{BOX} clip-path="url(#c)"/>',
        "units of the shape", id="clip, in box units",
    ),
    pytest.param('<rect width="2em" height="9"/><rect width="9" height="9"/>', "in letters", id="em"),
    pytest.param(f'{BOX}/><path d="M0 0L9 x"/>', "break off", id="broken path"),
    pytest.param(styled("g " * 30 + "rect{fill:white}"), "very many parts", id="many ancestors"),
    pytest.param(styled("@media print{.b{fill:white}}"), "some media", id="media"),
    pytest.param(styled(".b{fill:var(--c)}"), "variables", id="variable"),
    pytest.param(f'{BOX} stroke="black" vector-effect="non-scaling-stroke"/>', "keep their width", id="fixed lines"),
    pytest.param(f'{BOX} requiredExtensions="urn:x"/>', "alternatives", id="extensions"),
    pytest.param(styled("#b{mask:url(#m)}"), "masking", id="mask, id"),
    pytest.param(styled("rect{filter:url(#f)}"), "filters", id="filter, element"),
    pytest.param(styled("/* a { } */ .b{mix-blend-mode:screen}"), "blending", id="blending behind a comment"),
    pytest.param('<path d="M0 0L9 9" stroke="black" stroke-width="2" marker-end="url(#m)"/>', "markers", id="marker"),
    pytest.param(f'<defs><pattern id="p"/></defs>{BOX} fill="url(#p)"/>', "patterns", id="pattern"),
    pytest.param(
        f'<defs><linearGradient id="g"><stop stop-color="#000"/><stop offset="1" stop-color="#fff"/></linearGradient></defs>{BOX} fill="url(#g)"/>',
        "run to white", id="to white",
    ),
    pytest.param(
        f'<defs><radialGradient id="h"><stop stop-color="white"/></radialGradient><linearGradient id="g" xlink:href="#h"/></defs>{BOX} style="fill:url(#g)"/>',
        "run to white", id="to white, by reference",
    ),
    pytest.param(
        f'<defs><linearGradient id="g"><stop stop-color="#000"/><stop stop-color="#000" stop-opacity="0"/></linearGradient></defs>{BOX} fill="url(#g)"/>',
        "run to white", id="to clear",
    ),
    pytest.param(f"<switch>{BOX}/></switch>", "alternatives", id="switch"),
    pytest.param('<rect width="50%" height="9"/>', "percent", id="percent"),
    pytest.param(f'{BOX}/><text y="50">Since 1987</text>', "Since 1987", id="text"),
]  # fmt: skip


@pytest.mark.parametrize(("body", "said"), NOT_FOLLOWED)
def test_what_is_not_followed_is_named(body: str, said: str) -> None:
    artwork = read_svg(svg(body), name="mark.svg")
    assert [what for what in artwork.changed if said in what]
    assert any(said in note for note in artwork.notes)


@pytest.mark.parametrize(
    "body",
    [
        f"{BOX}/>",
        styled(".b, #b, rect { fill: black; clip-path: none }"),
        f'{BOX} mask="none" filter="none"/>',
        f'<defs><linearGradient id="g"><stop stop-color="#000"/><stop stop-color="#333"/></linearGradient></defs>{BOX} fill="url(#g)"/>',
        f'{BOX} fill="url(#nowhere) black"/>',
        styled("g .b{fill:white} rect[id]{fill:black!important} rect:hover{fill:white}"),
        f'<clipPath id="c"><circle cx="4" cy="4" r="3"/></clipPath>{BOX} clip-path="url(#c)"/>',
        f'<defs><linearGradient id="g" xlink:href="#g"/></defs>{BOX} fill="url(#g)"/>',
    ],
    ids=["plain", "simple rules", "none of it", "dark shades", "to nowhere", "rules of all kinds", "clipped", "of itself"],
)  # fmt: skip
def test_what_is_followed_is_not_named(body: str) -> None:
    artwork = read_svg(svg(body), name="mark.svg")
    assert artwork.changed == ()


LOGO_TAG = {**TAG_TABLE, "takes_logo": True, "arrangement": {"logo": "above the words"}}


@pytest.mark.parametrize(("body", "holds"), [(f"{BOX}/>", False), (f'{BOX} mask="url(#m)"/>', True)])
def test_a_logo_that_would_not_look_as_sent_holds_its_piece(body: str, holds: bool) -> None:
    product = product_from_table(LOGO_TAG)
    logos = Shelf.of({"mark.svg": svg(body)})
    made = lay_out(
        inputs_of(product, settle("Ida", product.wording), second="", logo="mark.svg", logos=logos, size=None)
    )
    found = [f for f in made.findings if f.code == "logo-as-sent"]
    assert bool(found) is holds
    if holds:
        assert found[0].level is Level.FAILS and "masking" in found[0].message and found[0].spot is not None


@pytest.mark.parametrize("number", ["1e400", "-1e400", "1e308", "9" * 400])
def test_numbers_beyond_all_measure_are_refused_or_left_out(number: str) -> None:
    from kizami.errors import ArtworkError

    body = f'{BOX}/><path d="M0 0 L{number} 5 L5 9 Z"/><circle cx="{number}" cy="3" r="2"/>'
    try:
        artwork = read_svg(svg(body), name="far.svg")
    except ArtworkError as error:
        assert "far.svg" in str(error)
    else:
        assert artwork.shape.area > 0


def test_thousands_of_dots_are_all_there() -> None:
    dots = "".join(f'<circle cx="{x + 0.5}" cy="{y + 0.5}" r="0.4"/>' for x in range(30) for y in range(60))
    artwork = read_svg(svg(dots), name="dots.svg")
    assert len(shapely.get_parts(artwork.shape)) == 1800


def test_paper_over_ink_over_paper_keeps_its_order() -> None:
    """Neighbours of one paint are joined together, but nothing passes a neighbour of the other."""
    disc = '<circle cx="50" cy="50" r="{}" fill="{}"/>'
    body = "".join(
        disc.format(r, c)
        for r, c in ((40, "black"), (30, "white"), (25, "#fff"), (20, "black"), (10, "white"))
    )
    artwork = read_svg(svg(body), name="rings.svg")
    # Two rings: 40 to 30 and 20 to 10, in a box of 80.
    assert artwork.shape.area == pytest.approx(3.14159265 * (40**2 - 30**2 + 20**2 - 10**2) / 80**2, rel=1e-3)

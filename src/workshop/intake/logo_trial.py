"""A logo tried on a product at once: at several greys, and how small it may be."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from kizami.artwork.artwork import Artwork
from kizami.artwork.shelf import Shelf
from kizami.checks.finding import Level
from kizami.drawing.strip import strip_drawing, strips_drawing
from kizami.errors import KizamiError
from kizami.outlines.narrow import measure_shape
from kizami.pieces.forecast import usual_size
from kizami.pieces.laying_out import LaidOut, lay_out
from kizami.pieces.lines import inputs_of
from kizami.products.product import Product as ProductSpec
from kizami.wording.settling import settle
from workshop.artwork.models import Logo
from workshop.catalogue.samples import own_typeface

__all__ = ["GREYS", "Tried", "tried_on"]

#: Greys that a picture is tried at beside its own: from little ink to much.
GREYS = (0.2, 0.35, 0.5, 0.65, 0.8)
_PX_A_MM = 7.0


@dataclass(frozen=True, kw_only=True, slots=True)
class Tried:
    """A logo at one grey.

    Attributes
    ----------
    percent : the grey; None for the one that is found, and for drawn logos
    is_own : it is what the logo is kept with
    high_mm : of the logo on the piece
    least_mm : the height from which its own strokes and openings hold
    said : why it can't be, or the first thing that fails
    strip : how it is drawn
    """

    percent: int | None
    is_own: bool
    high_mm: float = 0.0
    least_mm: float = 0.0
    said: str = ""
    strip: dict[str, Any] | None = None


def tried_on(logo: Logo, product: ProductSpec, words: str) -> Iterator[Tried]:
    """The logo on a product, once as it is kept and, where it is a picture, once at each grey beside that."""
    data = logo.file.read()
    asked: list[float | None] = [logo.threshold]
    if logo.facts.get("pixels_high"):
        others = [None, *GREYS] if logo.threshold is not None else list(GREYS)
        asked += [grey for grey in others if grey != logo.threshold]
    for grey in asked:
        percent = None if grey is None else round(100 * grey)
        shelf = Shelf(files={logo.folded: lambda grey=grey: (data, logo.name, grey)})  # type: ignore[misc]
        try:
            yield _tried(shelf, logo, product, words, percent, is_own=grey == logo.threshold)
        except KizamiError as error:
            yield Tried(percent=percent, is_own=grey == logo.threshold, said=str(error))


def _tried(
    shelf: Shelf, logo: Logo, product: ProductSpec, words: str, percent: int | None, *, is_own: bool
) -> Tried:
    inputs = inputs_of(
        product, settle(words, product.wording, typed=True), second="", logo=logo.name, logos=shelf,
        size=product.read_size(usual_size(product)), typeface=own_typeface(product),
    )  # fmt: skip
    artwork = inputs.artwork
    if artwork is None:
        return Tried(percent=percent, is_own=is_own, said=inputs.open_question or "There is nothing to draw.")
    laid_out = lay_out(inputs)
    failing = [finding.message for finding in laid_out.findings if finding.level is Level.FAILS]
    drawing = strips_drawing([strip_drawing(part.area, part.layout) for part in laid_out.every_area])
    _, _, width, height = drawing.view_box
    return Tried(
        percent=percent,
        is_own=is_own,
        high_mm=_height_mm(laid_out, artwork),
        least_mm=_least_mm(artwork, product),
        said=failing[0] if failing else "",
        strip={
            "content": drawing.content,
            "view_box": drawing.view_box_text,
            "width": round(width * _PX_A_MM, 1),
            "height": round(height * _PX_A_MM, 1),
        },
    )


def _height_mm(laid_out: LaidOut, artwork: Artwork) -> float:
    """How high it stands; 0 where there was no room for it."""
    layout = laid_out.layout
    shapes = (s for m, s in zip(layout.marks, layout.shapes, strict=True) if m.source == artwork)
    return max((float(s.bounds[3] - s.bounds[1]) for s in shapes if not s.is_empty), default=0.0)


def _least_mm(artwork: Artwork, product: ProductSpec) -> float:
    """The height from which its finest stroke and its narrowest opening hold, by themselves."""
    facts = measure_shape(artwork.shape, cap_height=1.0)
    limits, sunk = product.process.limits, product.treatment.sinks
    stroke = limits.of("stroke-width", sunk=sunk) / facts.stroke.width if facts.stroke else 0.0
    gap = limits.of("gap-width") / facts.gap.width if facts.gap else 0.0
    return max(stroke, gap)

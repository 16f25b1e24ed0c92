"""Sample wordings on products: names of rising difficulty, and what stands on products that carry none."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from kizami.checks.finding import Level, finding_table
from kizami.drawing.strip import strip_drawing, strips_drawing
from kizami.lettering.typeface import Typeface
from kizami.pieces.forecast import tried
from kizami.pieces.inputs import fingerprint
from kizami.pieces.laying_out import LaidOut
from kizami.products.product import Carries
from kizami.products.product import Product as ProductSpec
from kizami.remedies.by_itself import make_by_itself
from kizami.wording.plan import WordingKind
from workshop.catalogue.models import OWN, Product, ProductSample, typeface_named
from workshop.memory.made_once import MadeOnce

__all__ = [
    "SAMPLE_NAMES",
    "kept_sample",
    "own_typeface",
    "sample_laid_out",
    "samples_of",
    "shown_of",
    "strip_of",
]

#: What a product makes of them shows where it stops.
SAMPLE_NAMES = (
    "Bo", "Ida", "Owen", "Ottoline", "Gregory", "WILMA", "Żółkiewska", "Bartholomew", "Anne-Sophie",
    "Wilhelmina Odell", "Featherstonehaugh", "Maximilian-Alexander",
)  # fmt: skip
_OTHER_SAMPLES: dict[WordingKind, tuple[str, ...]] = {
    WordingKind.DATE: ("2027-03-31", "1 May 2027", "24 December 1999"),
    WordingKind.YEAR: ("1987", "2027"),
    WordingKind.COORDINATES: ("54.7753, -1.5849", "-33.8568, 151.2153"),
    WordingKind.QR_CODE: ("EBB-0412", "saltgrass.example/t/4711"),
    WordingKind.DATA_MATRIX: ("EBB-0412", "saltgrass.example/t/4711"),
}
#: Place of the sample that stands for a product where only one is shown.
_SHOWN = 3
_PX_A_MM = 4.0


def own_typeface(spec: ProductSpec) -> Typeface | None:
    """The product's typeface when the shop added it; those that ship are found by the core."""
    return typeface_named(spec.typeface) if spec.typeface.startswith(OWN) else None


def _second(spec: ProductSpec) -> str:
    """A usual second wording for products that have an area for one."""
    if not any(f.carries is Carries.SECOND for f in spec.also) or spec.second_plan is None:
        return ""
    return _OTHER_SAMPLES.get(spec.second_plan.kind, ("Forever yours",))[0]


def samples_of(spec: ProductSpec) -> tuple[str, ...]:
    """What is tried on a product, the easy ones first."""
    return _OTHER_SAMPLES.get(spec.wording.kind, SAMPLE_NAMES)


def sample_laid_out(spec: ProductSpec, name: str) -> LaidOut:
    """One sample on a product, with what the product does by itself where it would be held."""
    laid_out = tried(spec, name, second=_second(spec), typeface=own_typeface(spec))
    if not spec.plan.remedies or all(f.level is not Level.FAILS for f in laid_out.findings):
        return laid_out
    return _taken.get(_Asked(key=fingerprint(laid_out.inputs), laid_out=laid_out))


@dataclass(frozen=True, kw_only=True, slots=True)
class _Asked:
    """A sample that would be held; the same one is searched for once."""

    key: str
    laid_out: LaidOut = field(compare=False)


#: Searching takes up to a second, and a page asks for the same sample several times.
_taken: MadeOnce[_Asked, LaidOut] = MadeOnce(
    lambda asked: make_by_itself(asked.laid_out.inputs, asked.laid_out).laid_out,
    size_of=lambda _: 1,
    most_bytes=256,
)


def shown_of(spec: ProductSpec) -> str:
    """The sample that stands for a product where only one is shown."""
    names = samples_of(spec)
    return names[min(_SHOWN, len(names) - 1)]


def strip_of(laid_out: LaidOut) -> dict[str, Any]:
    """The strip of a sample, with its size on the screen and the worst that fails."""
    drawing = strips_drawing([strip_drawing(part.area, part.layout) for part in laid_out.every_area])
    failing = [finding_table(f) for f in laid_out.findings if f.level is Level.FAILS]
    _, _, width, height = drawing.view_box
    return {
        "content": drawing.content,
        "view_box": drawing.view_box_text,
        "width": width * _PX_A_MM,
        "height": height * _PX_A_MM,
        "height_mm": laid_out.layout.height_mm,
        "said": laid_out.inputs.wording,
        "worst": failing[0] if failing else None,
    }


def kept_sample(product: Product) -> ProductSample:
    """A version's sample: drawn at first sight, and kept, as versions never change."""
    kept = ProductSample.objects.drawn_now().filter(product=product).first()
    if kept is None:
        spec = product.to_spec()
        values = {**strip_of(sample_laid_out(spec, shown_of(spec))), "drawn_by": ProductSample.DRAWN_BY}
        kept, _ = ProductSample.objects.update_or_create(product=product, defaults=values)
    return kept

"""What the newest version of a product would do to lines of an older one; taken for those that are ticked."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.db.models import F, QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from kizami.checks.finding import Level
from kizami.counting import so_many
from kizami.drawing.strip import strip_drawing, strips_drawing
from kizami.errors import KizamiError
from kizami.pieces.inputs import fingerprint
from kizami.pieces.make import Made, make_piece
from workshop.catalogue.models import Product, current_product
from workshop.catalogue.portions import counted, next_portion
from workshop.catalogue.versions import told_since
from workshop.curing.asked import asked_lines
from workshop.curing.services import take_versions_for
from workshop.making.models import STRIP_PX_PER_MM
from workshop.orders.models import OrderLine

#: So many lines are compared; more follow once these have the version.
_MOST_LINES = 300


@dataclass(frozen=True, kw_only=True, slots=True)
class Compared:
    """A line as it is and as the version would have it.

    Attributes
    ----------
    becomes : “the same”, “drawn otherwise”, “ready” or “held”, where its stage would change, or “impossible”
    why : of a line that would be held, or that can't be
    strip : as the version would have it; None where it is the same, or can't be
    """

    line: OrderLine
    becomes: str
    why: str = ""
    strip: dict[str, Any] | None = None


def lines_behind(product: Product) -> QuerySet[OrderLine]:
    """Lines of older versions of a product that can still be made otherwise."""
    behind = OrderLine.objects.filter(product__code=product.code, under_way__lt=F("quantity"))
    return behind.exclude(product=product).order_by("pk")


@require_GET
def version(request: HttpRequest, code: str) -> HttpResponse:
    """The page: what the version changes, and its lines as they come."""
    product = current_product(code)
    behind = lines_behind(product)
    oldest = behind.select_related("product").order_by("product__version").first()
    context = {
        "place": "catalogue",
        "product": product,
        "count": behind.count(),
        "most": _MOST_LINES,
        "said": told_since(oldest.product, product) if oldest is not None else [],
        "since": oldest.product.version if oldest is not None else 0,
    }
    return render(request, "curing/version.html", context)


@require_GET
def lines(request: HttpRequest, code: str) -> HttpResponse:
    """A portion of the lines, each made with the version."""
    product = current_product(code)
    rows = list(lines_behind(product).values_list("pk", flat=True)[:_MOST_LINES])

    def made(pk: int) -> Compared | None:
        line = OrderLine.objects.select_related("product", "revision").filter(pk=pk).first()
        return None if line is None else compared(line, product)

    portion = next_portion(rows, made, start=counted(request, "start"))
    counts = {name: counted(request, name) for name in COUNTED}
    for one in portion.results:
        if one is not None:
            name = one.becomes.replace(" ", "_")
            counts[name] = counts.get(name, 0) + 1
    context = {"product": product, "portion": portion, "counts": counts}
    return render(request, "curing/_version_lines.html", context)


COUNTED = ("the_same", "drawn_otherwise", "ready", "held", "impossible")


def compared(line: OrderLine, product: Product) -> Compared:
    """A line made with another version of its product, which need not be stored."""
    try:
        inputs = line.to_inputs(line.state.of_version(product))
        if line.revision is not None and fingerprint(inputs) == line.revision.fingerprint:
            return Compared(line=line, becomes="the same")
        made = make_piece(inputs)
    except KizamiError as error:
        return Compared(line=line, becomes="impossible", why=str(error))
    drawing = strips_drawing([strip_drawing(part.area, part.layout) for part in made.laid_out.every_area])
    _, _, width, height = drawing.view_box
    failing = [f.message for f in made.findings if f.level is Level.FAILS]
    before = line.revision.stage if line.revision is not None else "new"
    if made.stage == before and _is_as_it_was(line, made, drawing.content):
        return Compared(line=line, becomes="the same")
    return Compared(
        line=line,
        becomes=made.stage if made.stage != before else "drawn otherwise",
        why=failing[0] if failing else "",
        strip={
            "content": drawing.content,
            "view_box": drawing.view_box_text,
            "width": round(width * STRIP_PX_PER_MM, 1),
            "height": round(height * STRIP_PX_PER_MM, 1),
            "height_mm": made.laid_out.layout.height_mm,
        },
    )


def _is_as_it_was(line: OrderLine, made: Made, drawn: str) -> bool:
    """Whether a version that says otherwise comes to the very same piece: drawn and as heavy as it was."""
    revision = line.revision
    volume = round(made.solid.volume_mm3, 3) if made.solid is not None else None
    return revision is not None and (revision.strip, revision.facts["volume_mm3"]) == (drawn, volume)


@require_POST
def take(request: HttpRequest, code: str) -> HttpResponse:
    """Take the version for the lines that are ticked."""
    asked = list(asked_lines(request.POST.getlist("line")))
    product = current_product(code)
    said = f"{product.code}: version {product.version} taken"
    taking = take_versions_for(asked, [product], user=request.user, said=said) if asked else None  # type: ignore[arg-type]
    if taking is None:
        messages.error(request, "Nothing was taken: tick a line that has an older version.")
        return redirect("curing:version", code=code)
    lines = so_many(len(asked), "line; it is made", "lines; they are made one after the other")
    messages.success(request, f"{taking.said} for {lines}.")
    return redirect("curing:together")

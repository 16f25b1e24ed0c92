"""A product with values on trial: drawn, in section, turning, and on the wall of samples.

Nothing here is stored: every request carries what differs from the product as it is kept.
"""

from __future__ import annotations

import zlib
from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from copy import deepcopy
from dataclasses import replace
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from kizami.as_made.as_made import AsMade
from kizami.blanks.grid import area_grid
from kizami.checks.finding import Level
from kizami.drawing.blank_views import blank_views
from kizami.drawing.measured_views import View, view_drawing
from kizami.drawing.section import section_view
from kizami.drawing.shown import shown, shown_bytes
from kizami.drawing.unrolled import Drawing
from kizami.errors import KizamiError
from kizami.pieces.building import make_solid
from kizami.pieces.laying_out import LaidOut
from kizami.products.product import Product as ProductSpec
from kizami.solids.quality import lettering_quality
from kizami.tolerance import SAGITTA_MM
from workshop.catalogue.field import ProductField
from workshop.catalogue.models import Product, current_product
from workshop.catalogue.portions import counted, next_portion
from workshop.catalogue.product_fields import Known, fields_of, known_for
from workshop.catalogue.product_form import changed_table, given_of, without_gone
from workshop.catalogue.samples import sample_laid_out, samples_of, shown_of, strip_of
from workshop.catalogue.share_views import NAMES_TRIED
from workshop.catalogue.trial import (
    LONGEST_SAID,
    SHARE_OF,
    refused_for,
    said_in,
    spec_of,
    table_mark,
    trial_table,
    without,
)
from workshop.drawing.turning import colours_of, stand_of
from workshop.drawing.unrolled import unrolled_areas

__all__ = ["cut_drawing", "fields_shown", "trial_shown"]

#: Room for the unrolled areas, and for each of the drawings with their measures.
_UNROLLED_PX, _DRAWN_PX = (640.0, 250.0), (464.0, 226.0)


def fields_shown(
    table: Mapping[str, Any], known: Known, *, kept: Sequence[ProductField] | None = None
) -> dict[str, Any]:
    """The fields of a table by their parts: those that stand in the drawings, and the others.

    Parameters
    ----------
    kept : those of the product as it is kept, where the table is on trial; a page sends what differs from it
    """
    parts: dict[str, list[ProductField]] = defaultdict(list)
    measures = []
    fields = fields_of(table, known)
    stands = {field.name: field.value for field in (fields if kept is None else kept)}
    for one in fields:
        on_trial = one.name not in stands or stands[one.name] != one.value
        field = replace(one, is_on_trial=True) if on_trial else one
        if field.is_measure:
            measures.append(field)
        else:
            parts[field.part].append(field)
    return {
        "parts": [
            {"name": name, "fields": fields, "is_open": name in _OPEN} for name, fields in parts.items()
        ],
        "measures": measures,
        "mark": _mark(fields, table),
        "names_tried": NAMES_TRIED,
    }


#: Which fields a page has, as it says with every request.
MARK = "fields"


def _mark(fields: Iterable[ProductField], table: Mapping[str, Any]) -> str:
    """Short words for which fields there are, and of which typeface its other forms are shown."""
    return f"{zlib.crc32(repr([table.get('typeface'), *(field.name for field in fields)]).encode()):08x}"


#: Parts that are seen at once; the others are opened.
_OPEN = ("Blank", "Treatment", "Lettering", "Making")


def trial_shown(spec: ProductSpec) -> dict[str, Any]:
    """What the page shows of a product: its face, its drawings, and the first samples of the wall."""
    shown_first = sample_laid_out(spec, shown_of(spec))
    face = {**_face(spec, shown_first), "longest_said": LONGEST_SAID}
    return {**face, **_samples(spec, start=0, fitting=0, first=shown_first)}


def _face(spec: ProductSpec, shown_first: LaidOut) -> dict[str, Any]:
    grid = area_grid(shown_first.area)
    width, height = _UNROLLED_PX
    return {
        "spec": spec,
        "areas": unrolled_areas(shown_first, width_px=width, height_px=height, with_grid=True),
        "grid_step_mm": grid.step_mm,
        "several_areas": len(shown_first.blank.areas) > 1,
        "said": shown_first.inputs.wording,
        "views": [_drawn(view) for view in blank_views(shown_first.blank)],
        **colours_of(spec),
        **stand_of(shown_first.area, spec.treatment),
    }


def _drawn(view: View) -> dict[str, Any]:
    return {"title": view.title, "drawing": view_drawing(view, px=_DRAWN_PX)}


def _samples(spec: ProductSpec, *, start: int, fitting: int, first: LaidOut | None = None) -> dict[str, Any]:
    """Strips of samples from one on; with how many of those before fitted, and the one that is shown."""

    def laid_out(name: str) -> LaidOut:
        return first if first is not None and name == shown_of(spec) else sample_laid_out(spec, name)

    portion = next_portion(samples_of(spec), laid_out, start=start)
    fitting += sum(all(f.level is not Level.FAILS for f in one.findings) for one in portion.results)
    return {"portion": portion, "strips": [strip_of(one) for one in portion.results], "fitting": fitting}


@require_GET
def wall(request: HttpRequest, code: str) -> HttpResponse:
    """The drawings for values on trial, and other fields where these ask for others; the wall follows."""
    row = current_product(code)
    table: Mapping[str, Any] = row.table
    known = known_for(row.table)
    try:
        changed = changed_table(row.table, given_of(request.GET), with_gone=True, known=known)
        table = without_gone(deepcopy(changed))
        spec = spec_of(table, known=known)
        context = {"product": row, **_face(spec, sample_laid_out(spec, said_in(request, spec)))}
    except KizamiError as error:
        return refused_for(request, error, table)
    context["query"] = without(request, SHARE_OF)
    # Words that a product is shown with say nothing of other names.
    context["share_again"] = table_mark(table) != (request.GET.get(SHARE_OF) or table_mark(row.table))
    fields, kept = fields_of(changed, known), fields_of(row.table, known)
    shown = {field.name: f"{field.value:g}" for field in kept if field.is_number} | request.GET.dict()
    # A kind that has other values than the one before, an area or ornament that came or went, or a measure
    # that a word asks for.
    filled_in = any(field.is_number and _differs(shown.get(field.name), field.value) for field in fields)
    if filled_in or request.GET.get(MARK, "") not in ("", _mark(fields, changed)):
        news = [
            (name, one)
            for name in request.GET
            if name.endswith(".new")
            for one in request.GET.getlist(name)
            if one
        ]
        context |= {"other_fields": True, "news": news, **fields_shown(changed, known, kept=kept)}
    return render(request, "catalogue/_trial.html", context)


def _differs(text: str | None, value: float) -> bool:
    """Whether a number was filled in where 0 was given."""
    return bool(text) and set(text or "") <= set("0.,") and value != 0


@require_GET
def more_samples(request: HttpRequest, code: str) -> HttpResponse:
    """The next strips of the wall, for values on trial."""
    row = current_product(code)
    spec = _trial_spec(request, row)
    start, fitting = counted(request, "start"), counted(request, "fitting")
    context = {"product": row, **_samples(spec, start=start, fitting=fitting)}
    context["query"] = without(request, "start", "fitting")
    return render(request, "catalogue/_samples.html", context)


def _trial_spec(request: HttpRequest, row: Product) -> ProductSpec:
    try:
        return spec_of(trial_table(request, row))
    except KizamiError as error:
        raise Http404(str(error)) from error


def _trial(request: HttpRequest, code: str) -> LaidOut:
    """The words that are shown, on a product with the values on trial."""
    spec = _trial_spec(request, current_product(code))
    return sample_laid_out(spec, said_in(request, spec))


@require_GET
def section(request: HttpRequest, code: str) -> HttpResponse:
    """A section through the shown sample at its lettering, with what the treatment measures."""
    laid_out = _trial(request, code)
    try:
        view = _cut(laid_out)
    except KizamiError as error:
        return render(request, "catalogue/_refused.html", {"refused": str(error)})
    quality = lettering_quality(laid_out.made, sagitta_mm=SAGITTA_MM)
    context = {"view": view and _drawn(view), "quality": quality}
    return render(request, "catalogue/_section.html", context)


def _cut(laid_out: LaidOut) -> View | None:
    """The piece cut through at its lettering; None where there is nothing to build."""
    made = make_solid(laid_out)
    if made is None:
        return None
    treatment = laid_out.inputs.as_set.product.treatment
    return section_view(made.manifold(), laid_out.area, treatment, at=_through(laid_out.made))


def cut_drawing(laid_out: LaidOut, *, px: tuple[float, float]) -> Drawing | None:
    """It as a drawing that fits into a box.

    Raises
    ------
    kizami.errors.KizamiError : it can't be built
    """
    view = _cut(laid_out)
    return None if view is None else view_drawing(replace(view, measures=()), px=px)


def _through(made: AsMade) -> tuple[float, float]:
    """Within the first letter, where a section shows it."""
    first = min(made.layout.outlines.geoms, key=lambda body: body.bounds[0], default=None)
    if first is None:
        return made.area.anchor
    inside = first.representative_point()
    return (inside.x, inside.y)


@require_GET
def solid(request: HttpRequest, code: str) -> HttpResponse:
    """The shown sample as a solid for the turning view."""
    try:
        made = make_solid(_trial(request, code))
    except KizamiError as error:
        raise Http404(str(error)) from error
    if made is None:
        raise Http404("There is nothing to build.")
    data = shown_bytes(shown(made.vertices, made.triangles, made.is_lettering))
    response = HttpResponse(data, content_type="application/octet-stream")
    response["Cache-Control"] = "private, no-cache"
    return response


@require_GET
def grid(request: HttpRequest, code: str) -> JsonResponse:
    """The millimetre grid of the lettered area in space: each line as x, y, z, x, y, z …"""
    area = _trial(request, code).area
    found = area_grid(area)
    lines = [line.round(3).ravel().tolist() for line in found.on_body(area, proud_mm=_PROUD_MM)]
    return JsonResponse({"step_mm": found.step_mm, "lines": lines})


#: So that lines on the body are not hidden by its facets.
_PROUD_MM = 0.03

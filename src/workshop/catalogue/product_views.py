"""The Catalogue's products: tried on a wall of names while their values change, kept as new versions."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from kizami.blanks.grid import area_grid
from kizami.checks.finding import Level
from kizami.drawing.section import section_drawing
from kizami.drawing.shown import shown, shown_bytes
from kizami.errors import CatalogueError, KizamiError
from kizami.pieces.building import make_solid
from kizami.pieces.forecast import Misfit, misfit_of, shipped_names, usual_size
from kizami.pieces.inputs import SAGITTA_MM
from kizami.pieces.laying_out import LaidOut
from kizami.pieces.letters_held import NeverHeld, common_letters, letter_held
from kizami.products.product import Product as ProductSpec
from kizami.products.product_file import product_from_table, product_tables, write_products
from kizami.remedies.by_itself import cured_by_itself
from kizami.solids.quality import lettering_quality
from workshop.catalogue.models import Product, ProductSample, ShopTypeface, stored_body, typeface_named
from workshop.catalogue.portions import Portion, counted, next_portion
from workshop.catalogue.product_form import changed_table, fields_of
from workshop.catalogue.samples import (
    kept_sample,
    own_typeface,
    sample_laid_out,
    samples_of,
    shown_of,
    strip_of,
)
from workshop.catalogue.versions import versions_of
from workshop.drawing.turning import colours_of, stand_of
from workshop.drawing.unrolled import unrolled_areas

_MOST_LISTED = 200
#: Names that the share on the page is told from; the command line tries a thousand.
_NAMES_TRIED = 100
#: Room in height for the unrolled areas.
_UNROLLED_PX = 290.0


@require_GET
def products(request: HttpRequest) -> HttpResponse:
    """Every product with a name on it; those that were never drawn are asked for as they come into sight."""
    found = list(Product.objects.current().order_by("code")[:_MOST_LISTED])
    drawn = ProductSample.objects.drawn_now().filter(product__in=found).in_bulk()
    rows = [_row(product, drawn.get(product.pk)) for product in found]
    return render(request, "catalogue/products.html", {"place": "catalogue", "rows": rows})


@require_GET
def sample(request: HttpRequest, code: str) -> HttpResponse:
    """One row of the list, drawn."""
    row = _product(code)
    return render(request, "catalogue/_product_row.html", {"row": _row(row, kept_sample(row))})


def _row(product: Product, drawn: ProductSample | None) -> dict[str, Any]:
    """From what is written of it alone: reading a supplied body, say, takes a while."""
    table = product.table
    return {
        "product": product,
        "blank": table["blank"]["kind"],
        "treatment": table["treatment"]["kind"],
        "typeface": typeface_named(table["typeface"]).name,
        "sample": drawn,
    }


def _product(code: str) -> Product:
    return get_object_or_404(Product.objects.current(), code=code)


def _spec_of(table: dict[str, Any]) -> ProductSpec:
    own = ShopTypeface.objects.values_list("code", flat=True)
    return product_from_table(table, typefaces=tuple(own), bodies=stored_body)


@require_GET
def product(request: HttpRequest, code: str) -> HttpResponse:
    """One product: its values beside its drawings and the wall."""
    row = _product(code)
    context = {
        "place": "catalogue",
        "product": row,
        "fields": fields_of(row.table),
        "versions": versions_of(row),
        "names_tried": _NAMES_TRIED,
        **_wall(row.to_spec()),
        "query": "",
    }
    return render(request, "catalogue/product.html", context)


def _wall(spec: ProductSpec) -> dict[str, Any]:
    shown = sample_laid_out(spec, shown_of(spec))
    grid = area_grid(shown.area)
    return {
        "spec": spec,
        "areas": unrolled_areas(shown, width_px=900.0, height_px=_UNROLLED_PX, with_grid=True),
        "grid_step_mm": grid.step_mm,
        "said": shown.inputs.wording,
        **colours_of(spec),
        **stand_of(shown.area.surface, spec.treatment),
        **_samples(spec, start=0, fitting=0, shown=shown),
    }


def _samples(spec: ProductSpec, *, start: int, fitting: int, shown: LaidOut | None = None) -> dict[str, Any]:
    """Strips of samples from one on; with how many of those before fitted, and the one that is shown."""

    def laid_out(name: str) -> LaidOut:
        return shown if shown is not None and name == shown_of(spec) else sample_laid_out(spec, name)

    portion = next_portion(samples_of(spec), laid_out, start=start)
    fitting += sum(all(f.level is not Level.FAILS for f in one.findings) for one in portion.results)
    return {"portion": portion, "strips": [strip_of(one) for one in portion.results], "fitting": fitting}


@require_GET
def wall(request: HttpRequest, code: str) -> HttpResponse:
    """The drawings and the wall for values on trial; nothing is stored."""
    row = _product(code)
    try:
        context = {"product": row, **_wall(_spec_of(changed_table(row.table, request.GET)))}
    except KizamiError as error:
        return render(request, "catalogue/_refused.html", {"refused": str(error)})
    context["query"] = request.GET.urlencode()
    return render(request, "catalogue/_wall.html", context)


@require_GET
def more_samples(request: HttpRequest, code: str) -> HttpResponse:
    """The next strips of the wall, for values on trial."""
    row = _product(code)
    spec = _trial_spec(request, row)
    start, fitting = counted(request, "start"), counted(request, "fitting")
    context = {"product": row, **_samples(spec, start=start, fitting=fitting)}
    context["query"] = _without(request, "start", "fitting")
    return render(request, "catalogue/_samples.html", context)


def _without(request: HttpRequest, *names: str) -> str:
    """The values on trial alone."""
    values = request.GET.copy()
    for name in names:
        values.pop(name, None)
    return values.urlencode()


def _trial_spec(request: HttpRequest, row: Product) -> ProductSpec:
    try:
        return _spec_of(changed_table(row.table, request.GET))
    except KizamiError as error:
        raise Http404(str(error)) from error


def _trial(request: HttpRequest, code: str) -> LaidOut:
    """The shown sample on a product with the values on trial."""
    spec = _trial_spec(request, _product(code))
    return sample_laid_out(spec, shown_of(spec))


@require_GET
def section(request: HttpRequest, code: str) -> HttpResponse:
    """A section through the shown sample."""
    laid_out = _trial(request, code)
    try:
        made = make_solid(laid_out)
    except KizamiError as error:
        return render(request, "catalogue/_refused.html", {"refused": str(error)})
    drawing = section_drawing(made.manifold(), laid_out.area, at=_through(laid_out)) if made else None
    quality = lettering_quality(laid_out.made, sagitta_mm=SAGITTA_MM)
    return render(request, "catalogue/_section.html", {"drawing": drawing, "quality": quality, "made": made})


def _through(laid_out: LaidOut) -> tuple[float, float]:
    """Where a section meets lettering: at the middle of the first letter's widest part."""
    first = min(laid_out.layout.outlines.geoms, key=lambda body: body.bounds[0], default=None)
    if first is None:
        return laid_out.area.anchor
    inside = first.representative_point()
    return (inside.x, laid_out.area.anchor[1])


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


@require_GET
def share(request: HttpRequest, code: str) -> HttpResponse:
    """The share of real names that fits with values on trial, then the letters that never can: a portion."""
    row = _product(code)
    try:
        spec = _spec_of(changed_table(row.table, request.GET))
        found = _tried_from(spec, counted(request, "start"))
    except KizamiError as error:
        return render(request, "catalogue/_refused.html", {"refused": str(error)})
    names = min(found.done, _NAMES_TRIED)
    misfits = [result for result in found.results if isinstance(result, Misfit)]
    missed = min(counted(request, "missed") + len(misfits), names)
    context = {
        "product": row,
        "portion": found,
        "misfits": misfits,
        "never": [result for result in found.results if isinstance(result, NeverHeld)],
        "names": names,
        "names_tried": _NAMES_TRIED,
        "missed": missed,
        "percent": 100.0 * (names - missed) / names,
        "query": _without(request, "start", "missed"),
    }
    return render(request, "catalogue/_share.html", context)


def _tried_from(spec: ProductSpec, start: int) -> Portion[Misfit | NeverHeld | None]:
    """What is wrong with real names, and after them with letters that stand alone."""
    typeface, size = own_typeface(spec), usual_size(spec)
    names = shipped_names()[:: len(shipped_names()) // _NAMES_TRIED][:_NAMES_TRIED]

    def work(trial: tuple[bool, str]) -> Misfit | NeverHeld | None:
        is_name, text = trial
        if is_name:
            return misfit_of(spec, text, size=size, typeface=typeface, cured=cured_by_itself)
        return letter_held(spec, text, size=size, typeface=typeface)

    trials = [(True, name) for name in names] + [(False, letter) for letter in common_letters(spec)]
    return next_portion(trials, work, start=start)


@require_POST
def keep(request: HttpRequest, code: str) -> HttpResponse:
    """Keep the values as a new version; lines stay with the one that they were made with."""
    row = _product(code)
    try:
        kept = Product.objects.put(changed_table(row.table, request.POST))
    except KizamiError as error:
        messages.error(request, f"{error} Nothing was kept.")
    else:
        said = "is as it was" if kept.pk == row.pk else f"is now version {kept.version}; lines keep theirs"
        messages.success(request, f"{kept.name} {said}.")
    return redirect("catalogue:product", code=code)


@require_GET
def file(request: HttpRequest, code: str) -> HttpResponse:
    """A product as a products file, to be read, changed, or copied under another code."""
    row = _product(code)
    context = {"place": "catalogue", "product": row, "text": write_products([row.table])}
    return render(request, "catalogue/file.html", context)


@require_GET
def all_files(request: HttpRequest) -> HttpResponse:
    """The whole catalogue as one products file."""
    tables = Product.objects.current().order_by("code").values_list("table", flat=True)
    response = HttpResponse(write_products(tables), content_type="application/toml; charset=utf-8")
    response["Content-Disposition"] = 'attachment; filename="products.toml"'
    return response


_LONGEST_FILE = 200_000


@require_POST
def keep_file(request: HttpRequest) -> HttpResponse:
    """Take products in from the text of a products file: all of them, or none."""
    text, came_from = request.POST.get("text", ""), request.POST.get("code", "")
    try:
        if len(text) > _LONGEST_FILE:
            raise CatalogueError(f"A products file may have {_LONGEST_FILE:,} characters here.")
        with transaction.atomic():
            before = set(Product.objects.values_list("pk", flat=True))
            kept = [Product.objects.put(table) for table in product_tables(text)]
    except KizamiError as error:
        messages.error(request, f"{error} Nothing was kept.")
        row = Product.objects.current().filter(code=came_from).first()
        context = {"place": "catalogue", "product": row, "text": text[:_LONGEST_FILE]}
        return render(request, "catalogue/file.html", context, status=422)
    new = [f"{product.code} v{product.version}" for product in kept if product.pk not in before]
    said = f"Kept {', '.join(new[:8])}." if new else "Nothing differs from what is kept."
    messages.success(request, said)
    return redirect("catalogue:product", code=kept[0].code)

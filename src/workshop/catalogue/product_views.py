"""The Catalogue's products: tried on a wall of names while their values change, kept as new versions."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from django.contrib import messages
from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from kizami.blanks.grid import area_grid
from kizami.checks.finding import Level, finding_table
from kizami.drawing.section import section_drawing
from kizami.drawing.strip import strip_drawing, strips_drawing
from kizami.errors import CatalogueError, KizamiError
from kizami.formats.stl import stl_bytes
from kizami.lettering.typeface import Typeface
from kizami.pieces.building import make_solid
from kizami.pieces.forecast import forecast, shipped_names, tried
from kizami.pieces.inputs import SAGITTA_MM
from kizami.pieces.laying_out import LaidOut
from kizami.processes import shipped_materials
from kizami.products.product import Carries
from kizami.products.product import Product as ProductSpec
from kizami.products.product_file import product_from_table, product_tables, write_products
from kizami.solids.quality import lettering_quality
from kizami.wording.plan import WordingKind
from workshop.catalogue.models import OWN, Product, ShopTypeface, stored_body, typeface_named
from workshop.catalogue.product_form import changed_table, fields_of
from workshop.drawing.turning import stand_of
from workshop.drawing.unrolled import unrolled_areas

#: Names of rising difficulty; what a product makes of them shows where it stops.
SAMPLE_NAMES = (
    "Bo", "Ida", "Owen", "Ottoline", "Gregory", "WILMA", "Żółkiewska", "Bartholomew", "Anne-Sophie",
    "Wilhelmina Odell", "Featherstonehaugh", "Maximilian-Alexander",
)  # fmt: skip
#: What stands on products that carry no names.
_OTHER_SAMPLES: dict[WordingKind, tuple[str, ...]] = {
    WordingKind.DATE: ("2027-03-31", "1 May 2027", "24 December 1999"),
    WordingKind.YEAR: ("1987", "2027"),
    WordingKind.COORDINATES: ("54.7753, -1.5849", "-33.8568, 151.2153"),
    WordingKind.QR_CODE: ("EBB-0412", "saltgrass.example/t/4711"),
    WordingKind.DATA_MATRIX: ("EBB-0412", "saltgrass.example/t/4711"),
}
#: Place of the sample that stands for a product where only one is shown.
_SHOWN = 3
#: Names that the share on the page is told from; the command line tries a thousand.
_NAMES_TRIED = 100
_PX_A_MM = 4.0
#: Room in height for the unrolled areas.
_UNROLLED_PX = 290.0


@require_GET
def products(request: HttpRequest) -> HttpResponse:
    """Every product with a name on it."""
    rows = [_row(product) for product in Product.objects.current().order_by("code")[:200]]
    return render(request, "catalogue/products.html", {"place": "catalogue", "rows": rows})


def _row(product: Product) -> dict[str, Any]:
    spec = product.to_spec()
    laid_out = _listed(spec, _samples(spec)[_shown(spec)])
    return {
        "product": product,
        "spec": spec,
        "blank": product.table["blank"]["kind"],
        "typeface": typeface_named(spec.typeface).name,
        **_strip(laid_out),
    }


@lru_cache(maxsize=256)
def _listed(spec: ProductSpec, name: str) -> LaidOut:
    """A name on a version of a product; versions never change."""
    return tried(spec, name, second=_second(spec), typeface=_own(spec))


def _own(spec: ProductSpec) -> Typeface | None:
    """The product's typeface when the shop added it; those that ship are found by the core."""
    return typeface_named(spec.typeface) if spec.typeface.startswith(OWN) else None


def _second(spec: ProductSpec) -> str:
    """A usual second wording for products that have an area for one."""
    if not any(f.carries is Carries.SECOND for f in spec.also) or spec.second_plan is None:
        return ""
    return _OTHER_SAMPLES.get(spec.second_plan.kind, ("Forever yours",))[0]


def _samples(spec: ProductSpec) -> tuple[str, ...]:
    return _OTHER_SAMPLES.get(spec.wording.kind, SAMPLE_NAMES)


def _strip(laid_out: LaidOut) -> dict[str, Any]:
    drawing = strips_drawing([strip_drawing(part.area, part.layout) for part in laid_out.every_area])
    failing = [finding_table(f) for f in laid_out.findings if f.level is Level.FAILS]
    _, _, width, height = drawing.view_box
    return {
        "drawing": drawing,
        "width": width * _PX_A_MM,
        "height": height * _PX_A_MM,
        "height_mm": laid_out.layout.height_mm,
        "said": laid_out.inputs.wording,
        "worst": failing[0] if failing else None,
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
        "names_tried": _NAMES_TRIED,
        **_wall(row.to_spec()),
        "query": "",
    }
    return render(request, "catalogue/product.html", context)


def _wall(spec: ProductSpec) -> dict[str, Any]:
    own = _own(spec)
    laid = [tried(spec, name, second=_second(spec), typeface=own) for name in _samples(spec)]
    shown = laid[_shown(spec)]
    grid = area_grid(shown.area)
    return {
        "spec": spec,
        "wall": [_strip(one) for one in laid],
        "areas": unrolled_areas(shown, width_px=900.0, height_px=_UNROLLED_PX, with_grid=True),
        "grid_step_mm": grid.step_mm,
        "said": shown.inputs.wording,
        "fitting": sum(all(f.level is not Level.FAILS for f in one.findings) for one in laid),
        "colour": shipped_materials()[spec.material].colour,
        **stand_of(shown.area.surface, spec.treatment),
    }


def _shown(spec: ProductSpec) -> int:
    return min(_SHOWN, len(_samples(spec)) - 1)


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


def _trial(request: HttpRequest, code: str) -> LaidOut:
    """The shown sample on a product with the values on trial."""
    row = _product(code)
    try:
        spec = _spec_of(changed_table(row.table, request.GET))
    except KizamiError as error:
        raise Http404(str(error)) from error
    return tried(spec, _samples(spec)[_shown(spec)], second=_second(spec), typeface=_own(spec))


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
    response = HttpResponse(stl_bytes(made, title=code), content_type="model/stl")
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
    """The share of real names that fits with values on trial."""
    row = _product(code)
    try:
        spec = _spec_of(changed_table(row.table, request.GET))
        names = shipped_names()[:: len(shipped_names()) // _NAMES_TRIED][:_NAMES_TRIED]
        found = forecast(spec, names, typeface=_own(spec))
    except KizamiError as error:
        return render(request, "catalogue/_refused.html", {"refused": str(error)})
    return render(request, "catalogue/_share.html", {"found": found, "percent": 100.0 * found.share})


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

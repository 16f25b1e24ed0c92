"""The Catalogue's supplied shapes: what they measure, and adding one."""

from __future__ import annotations

from django.contrib import messages
from django.core.files.uploadedfile import UploadedFile
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from kizami.blanks.supplied_body import (
    LARGEST_HOLE_MM,
    LARGEST_SIDE_MM,
    MOST_FACETS,
    SMALLEST_SIDE_MM,
    UNITS_MM,
)
from kizami.drawing.shown import shown, shown_bytes
from kizami.errors import SurfaceError
from kizami.formats.body_files import BODY_SUFFIXES, LARGEST_BODY_BYTES
from kizami.solids.solid import solid_of
from workshop.catalogue.models import Product, SuppliedFile, stored_body
from workshop.catalogue.services import add_shape


@require_GET
def shapes(request: HttpRequest) -> HttpResponse:
    """Every shape with its measures and the products made from it."""
    rows = list(SuppliedFile.objects.all()[:200])
    used: dict[str, list[str]] = {}
    for code, file in (
        Product.objects.current()
        .filter(table__blank__has_key="file")
        .values_list("code", "table__blank__file")
    ):
        used.setdefault(file, []).append(code)
    context = {
        "place": "catalogue",
        "rows": [{"shape": row, "codes": used.get(row.name, [])} for row in rows],
        "suffixes": ", ".join(BODY_SUFFIXES),
        "units": list(UNITS_MM),
        "most_mb": LARGEST_BODY_BYTES // 1024 // 1024,
        "most_facets": MOST_FACETS,
        "smallest_mm": SMALLEST_SIDE_MM,
        "largest_mm": LARGEST_SIDE_MM,
        "hole_mm": LARGEST_HOLE_MM,
    }
    return render(request, "catalogue/shapes.html", context)


@require_POST
def add(request: HttpRequest) -> HttpResponse:
    """Add a shape."""
    file = request.FILES.get("shape")
    if not isinstance(file, UploadedFile):
        messages.error(request, "Choose an STL, OBJ or 3MF file.")
        return redirect("catalogue:shapes")
    name = file.name or ""
    # A file that says its unit is never asked for it twice.
    unit = "" if name.lower().endswith(".3mf") else request.POST.get("unit", "")
    try:
        if file.size is not None and file.size > LARGEST_BODY_BYTES:
            raise SurfaceError(f"A shape may have {LARGEST_BODY_BYTES // 1024 // 1024} MB.")
        added = add_shape(file.read(), name=name, unit=unit, user=request.user)  # type: ignore[arg-type]
    except SurfaceError as error:
        messages.error(request, f"{error} Nothing was added.")
    else:
        messages.success(request, f"{added.name} is here. Products name it by its file.")
    return redirect("catalogue:shapes")


@require_GET
def solid(request: HttpRequest, pk: int) -> HttpResponse:
    """The shape for the turning view."""
    row = get_object_or_404(SuppliedFile, pk=pk)
    body = stored_body(row.name, row.unit)
    solid = solid_of(body.manifold)
    data = shown_bytes(shown(solid.vertices, solid.triangles))
    response = HttpResponse(data, content_type="application/octet-stream")
    response["Cache-Control"] = "private, max-age=86400, immutable"
    return response

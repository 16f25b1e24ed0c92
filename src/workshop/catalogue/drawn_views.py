"""What a product takes from drawings made elsewhere.

A plate takes its outline, lettering the line that it stands on or the outline that it fills.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, Protocol, TypeVar

from django.contrib import messages
from django.core.files.uploadedfile import UploadedFile
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_POST

from kizami.artwork.outline_files import LARGEST_OUTLINE_BYTES
from kizami.drawing.outline_fault import fault_drawing
from kizami.errors import KizamiError, OutlineError
from kizami.outlines.openings import openings_told
from kizami.products.starting import starting_drawn
from kizami.setting.typed import typed_number
from workshop.cage.readers import look_at_outline, look_at_path
from workshop.catalogue.models import Product
from workshop.catalogue.product_views import product_context
from workshop.catalogue.telling import refusal_words

__all__ = ["fault_of", "outline_sent"]

_Read_co = TypeVar("_Read_co", covariant=True)


class _Reader(Protocol[_Read_co]):
    def __call__(self, data: bytes, *, name: str) -> _Read_co: ...


def _sent(request: HttpRequest, reader: _Reader[_Read_co]) -> _Read_co:
    """The drawing that was sent, read.

    Raises
    ------
    OutlineError : there is none, or it can't be used
    """
    file = request.FILES.get("outline")
    if not isinstance(file, UploadedFile):
        raise OutlineError("Choose an SVG or DXF file with the drawing.")
    if file.size is not None and file.size > LARGEST_OUTLINE_BYTES:
        raise OutlineError(f"A drawing may have {LARGEST_OUTLINE_BYTES // 1024 // 1024} MB.")
    return reader(file.read(), name=file.name or "")


#: Room for a drawing that could not be used.
_FAULT_PX = (560.0, 280.0)


def fault_of(error: KizamiError) -> dict[str, Any] | None:
    """What was read of a drawing, with the place of what is wrong; None where nothing was."""
    if not isinstance(error, OutlineError):
        return None
    drawing = fault_drawing(error.lines, error.at, px=_FAULT_PX)
    return None if drawing is None else {"drawing": drawing, "said": str(error)}


#: As a plate may be.
_SHORTEST_MM, _LONGEST_MM, _HIGHEST_MM, _LOWEST_MM = 5.0, 300.0, 200.0, 3.0


def outline_sent(request: HttpRequest) -> tuple[Mapping[str, Any], tuple[str, ...]]:
    """The table of a plate of the outline that was sent, as long as was said, else as it was drawn."""
    read = _sent(request, look_at_outline)
    wide, high = read.outline.size
    text = request.POST.get("length", "")
    typed = typed_number(text, "mm", low=_SHORTEST_MM, high=_LONGEST_MM, label="Its length")
    length = wide if typed is None else typed
    height = length * high / wide
    if not _SHORTEST_MM <= length <= _LONGEST_MM or not _LOWEST_MM <= height <= _HIGHEST_MM:
        raise OutlineError(
            f"It would be {length:.2f} mm long and {height:.2f} mm high; a plate may be {_SHORTEST_MM:g} to "
            f"{_LONGEST_MM:g} mm long and {_LOWEST_MM:g} to {_HIGHEST_MM:g} mm high. Say how long it is."
        )
    told = (f"{wide:.2f} × {high:.2f} mm as drawn", *read.notes)
    table = starting_drawn(read.outline, length_mm=round(length, 3), height_mm=round(height, 3))
    openings = openings_told(read.outline, length / wide)
    if openings:
        told = (*told, f"right through it: {', '.join(openings)}")
    return table, told


@require_POST
def other_outline(request: HttpRequest, code: str) -> HttpResponse:
    """Give a plate another outline, as a new version; all else stays."""
    row = get_object_or_404(Product.objects.current(), code=code)
    if row.table["blank"]["kind"] != "plate":
        raise Http404("Only a plate has an outline that can be drawn.")
    try:
        table, notes = outline_sent(request)
        blank = {**row.table["blank"], **{key: table["blank"][key] for key in _OF_OUTLINE}}
        blank.pop("openings", None)
        if "openings" in table["blank"]:
            blank["openings"] = table["blank"]["openings"]
        kept = Product.objects.put({**row.table, "blank": blank})
    except KizamiError as error:
        messages.error(request, f"{refusal_words(error)} Nothing was kept.")
        return render(
            request, "catalogue/product.html", product_context(row, fault=fault_of(error)), status=422
        )
    messages.success(
        request, f"{kept.name} has another outline, as version {kept.version}; lines keep theirs."
    )
    messages.info(request, f"Of its outline: {'; '.join(notes)}.")
    return redirect("catalogue:product", code=code)


#: What of a plate its outline says.
_OF_OUTLINE = ("outline", "points", "length_mm", "height_mm")


@require_POST
def lettering_drawn(request: HttpRequest, code: str) -> HttpResponse:
    """Let a product's lettering stand on a drawn line, or fill a drawn outline, as a new version."""
    row = get_object_or_404(Product.objects.current(), code=code)
    how = _SHAPES.get(request.POST.get("how", ""))
    if how is None:
        raise Http404("Letters stand on a line or fill an outline.")
    try:
        shape, notes = how(request)
        arrangement = {**row.table.get("arrangement", {}), "shape": shape}
        kept = Product.objects.put({**row.table, "arrangement": arrangement})
    except KizamiError as error:
        messages.error(request, f"{refusal_words(error)} Nothing was kept.")
        context = {**product_context(row, fault=fault_of(error)), "of_lettering": True}
        return render(request, "catalogue/product.html", context, status=422)
    messages.success(
        request, f"{kept.name} is lettered as it was drawn, as version {kept.version}; lines keep theirs."
    )
    messages.info(request, f"Of its drawing: {'; '.join(notes)}.")
    return redirect("catalogue:product", code=code)


#: As long as lines of lettering may be.
_SHORTEST_LINE_MM, _LONGEST_LINE_MM = 3.0, 1000.0


def _along(request: HttpRequest) -> tuple[dict[str, Any], tuple[str, ...]]:
    """The shape of lettering that stands on a line, as long as was said, else as it was drawn."""
    read = _sent(request, look_at_path)
    drawn = read.path.length
    text = request.POST.get("length", "")
    typed = typed_number(text, "mm", low=_SHORTEST_LINE_MM, high=_LONGEST_LINE_MM, label="Its length")
    length = drawn if typed is None else typed
    if not _SHORTEST_LINE_MM <= length <= _LONGEST_LINE_MM:
        raise OutlineError(
            f"It would be {length:.2f} mm long; a line may be {_SHORTEST_LINE_MM:g} to "
            f"{_LONGEST_LINE_MM:g} mm long. Say how long it is."
        )
    points = (read.path.points - read.path.points[0]) * (length / drawn)
    table = {"kind": "path", "points": [[round(float(x), 4), round(float(y), 4)] for x, y in points]}
    return table, (f"a line {length:.2f} mm long", *read.notes)


#: Of an outline that letters fill: how wide it may be against its height.
_NARROWEST, _WIDEST = 0.3, 4.0


def _filling(request: HttpRequest) -> tuple[dict[str, Any], tuple[str, ...]]:
    """The shape of lettering that fills an outline; how large it is the lettering's height says."""
    read = _sent(request, look_at_outline)
    wide, high = read.outline.size
    if not _NARROWEST <= wide / high <= _WIDEST:
        raise OutlineError(
            f"It is {wide / high:.2f} times as wide as it is high; letters fill one that is "
            f"{_NARROWEST:g} to {_WIDEST:g} times as wide."
        )
    points = (read.outline.edge - read.outline.edge.min(axis=0)) * (100.0 / high)
    notes = list(read.notes)
    if read.outline.openings:
        notes.append("what is open within it was left out")
    table = {
        "kind": "filled",
        "outline": "free",
        "width": round(wide / high, 4),
        "points": [[round(float(x), 3), round(float(y), 3)] for x, y in points],
    }
    return table, (f"an outline {wide / high:.2f} times as wide as it is high", *notes)


_SHAPES: Mapping[str, Callable[[HttpRequest], tuple[dict[str, Any], tuple[str, ...]]]] = {
    "along": _along,
    "filling": _filling,
}

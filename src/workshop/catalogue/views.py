"""The Catalogue's typefaces, those that ship and the shop's own."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.core.files.uploadedfile import UploadedFile
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from kizami.drawing.specimen import specimen_drawing
from kizami.errors import AdjustmentError, TypefaceError
from kizami.lettering.own_typeface import LARGEST_TYPEFACE_BYTES
from kizami.lettering.shipped import shipped_facts, shipped_typefaces
from kizami.lettering.single_stroke import shipped_single_stroke, single_stroke_codes
from kizami.lettering.typeface_facts import TypefaceFacts, words_hold
from kizami.processes import Limits
from kizami.setting.typed import typed_number
from workshop.catalogue.models import RetiredTypeface, ShopTypeface, retired_typefaces, typeface_named
from workshop.catalogue.product_fields import typeface_names
from workshop.catalogue.typefaces_sent import lately_sent, send_typeface
from workshop.standards.models import Standard

_LONGEST_SPECIMEN = 24
#: Said for the scripts that the shipped typefaces have; others are shown by their code.
_SCRIPTS = {
    "Latn": "Latin",
    "Grek": "Greek",
    "Cyrl": "Cyrillic",
    "Arab": "Arabic",
    "Hebr": "Hebrew",
    "Hira": "Japanese",
    "Kana": "Japanese",
    "Hani": "Japanese",
}
#: What stands there while nobody says other words.
_USUAL = "Ottoline & Gregor 27"
_SPECIMENS = {"Arab": "سلمى ٢٠٢٧", "Hebr": "רחל ויעקב"}


#: Lettering of this height is tried where nobody says another.
_USUAL_MM, _LEAST_MM, _MOST_MM = 4.0, 0.5, 100.0
#: Room for a typeface's words, and the largest scale that is of use, px.
_ROOM_PX, _MOST_PX_PER_MM = 640.0, 14.0
#: Units of a specimen's drawing to a cap height.
_CAP = 10.0


@require_GET
def typefaces(request: HttpRequest) -> HttpResponse:
    """Every typeface with the same words at one scale, those that hold at a height first."""
    sent = lately_sent()
    looks = {"sent": sent, "is_looking": any(one.looked_at is None for one in sent)}
    if request.htmx and request.htmx.target == "typefaces-sent":  # type: ignore[attr-defined]
        return render(request, "catalogue/_typefaces_sent.html", {**looks, "asked": True})
    words = request.GET.get("words", "")[:_LONGEST_SPECIMEN].strip()
    processes = Standard.objects.now().processes
    process = processes.get(request.GET.get("process", ""), next(iter(processes.values())))
    sunk = request.GET.get("treatment", "") == "engraved"
    height, trouble = _height(request.GET.get("height", ""))
    gone = retired_typefaces()
    own = list(ShopTypeface.objects.all())
    named = [(t.code, t.name, "your own", t.notes) for t in own]
    named += [(code, t.name, t.role, ()) for code, t in shipped_typefaces().items()]
    facts = {**shipped_facts(), **{t.code: TypefaceFacts.from_table(t.facts) for t in own}}
    rows = [
        _row(code, name, role, facts[code], notes=notes, words=words, is_gone=code in gone,
             limits=process.limits, sunk=sunk, height=height)
        for code, name, role, notes in named
    ]  # fmt: skip
    rows.sort(key=lambda row: (row["is_gone"], bool(row["lacks"]), row["lowest_mm"]))
    widest = max((row["drawing"].view_box[2] for row in rows if not row["lacks"]), default=_CAP)
    # One scale for all: what is twice as wide in the drawing is twice as wide on the piece.
    px_per_mm = min(_MOST_PX_PER_MM, _ROOM_PX / (widest / _CAP * height))
    for row in rows:
        _, _, wide, high = row["drawing"].view_box
        row["width"], row["height"] = (round(side / _CAP * height * px_per_mm, 1) for side in (wide, high))
    context = {
        "place": "catalogue",
        "rows": rows,
        "words": words,
        "process": process,
        "processes": processes.values(),
        "sunk": sunk,
        "height_mm": height,
        "trouble": trouble,
        "px_per_mm": px_per_mm,
        "holding": sum(row["holds"] for row in rows),
        "in_use": sum(not row["is_gone"] for row in rows),
        "single": [shipped_single_stroke(code) for code in single_stroke_codes()],
        "longest": _LONGEST_SPECIMEN,
        "most_mb": LARGEST_TYPEFACE_BYTES // 1024 // 1024,
        **looks,
    }
    template = "catalogue/_typefaces.html" if request.htmx else "catalogue/typefaces.html"  # type: ignore[attr-defined]
    return render(request, template, context)


def _height(text: str) -> tuple[float, str]:
    """A height that was typed, or the usual one with what is wrong with it."""
    try:
        typed = typed_number(text, "mm", low=_LEAST_MM, high=_MOST_MM, label="Height")
    except AdjustmentError as error:
        return _USUAL_MM, f"{error} {_USUAL_MM:g} mm is shown."
    return (_USUAL_MM if typed is None else typed), ""


def _row(
    code: str,
    name: str,
    role: str,
    facts: TypefaceFacts,
    *,
    words: str,
    limits: Limits,
    sunk: bool,
    height: float,
    is_gone: bool,
    notes: Any,
) -> dict[str, Any]:
    first = facts.scripts[0] if facts.scripts else ""
    usual = _USUAL if "Latn" in facts.scripts else _SPECIMENS.get(first, _USUAL)
    typeface = typeface_named(code)
    held = words_hold(words or usual, typeface)
    lowest = held.lowest_height_mm(limits, engraved=sunk)
    return {
        "code": code,
        "name": name,
        "role": role,
        "facts": facts,
        "scripts": ", ".join(dict.fromkeys(_SCRIPTS.get(s, s) for s in facts.scripts[:5])),
        "lowest_mm": lowest,
        "all_mm": facts.lowest_height_mm(limits, engraved=sunk),
        "lacks": held.missing,
        "holds": not held.missing and not is_gone and lowest <= height,
        "stroke_mm": held.stroke * height,
        "stroke_short": bool(held.stroke) and held.stroke * height < limits.of("stroke-width", sunk=sunk),
        "stroke_in": held.stroke_in,
        "gap_mm": held.gap * height,
        "gap_short": bool(held.gap) and held.gap * height < limits.of("gap-width"),
        "gap_in": held.gap_in,
        "drawing": specimen_drawing(words or usual, typeface),
        "notes": notes,
        "is_gone": is_gone,
    }


@require_POST
def retire(request: HttpRequest, code: str) -> HttpResponse:
    """Offer a typeface no more, or again; what uses it keeps it."""
    if code not in typeface_names():
        raise Http404
    if "again" in request.POST:
        RetiredTypeface.objects.filter(code=code).delete()
    else:
        RetiredTypeface.objects.get_or_create(code=code, defaults={"who": request.user})
    return redirect("catalogue:typefaces")


@require_POST
def add(request: HttpRequest) -> HttpResponse:
    """Send a typeface of the shop's own, which is looked at in the background."""
    file = request.FILES.get("typeface")
    if not isinstance(file, UploadedFile):
        messages.error(request, "Choose a TTF, OTF, WOFF or WOFF2 file.")
        return redirect("catalogue:typefaces")
    try:
        if file.size is not None and file.size > LARGEST_TYPEFACE_BYTES:
            raise TypefaceError(f"A typeface may have {LARGEST_TYPEFACE_BYTES // 1024 // 1024} MB.")
        send_typeface(file.read(), file_name=file.name or "", user=request.user)  # type: ignore[arg-type]
    except TypefaceError as error:
        messages.error(request, f"{error} Nothing was added.")
    return redirect("catalogue:typefaces")

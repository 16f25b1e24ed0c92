"""The Catalogue's typefaces, those that ship and the shop's own."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.core.files.uploadedfile import UploadedFile
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from kizami.drawing.specimen import specimen_drawing
from kizami.errors import TypefaceError
from kizami.lettering.own_typeface import LARGEST_TYPEFACE_BYTES
from kizami.lettering.shipped import shipped_facts, shipped_typefaces
from kizami.lettering.single_stroke import shipped_single_stroke, single_stroke_codes
from kizami.lettering.typeface_facts import TypefaceFacts
from kizami.processes import Process
from workshop.catalogue.models import ShopTypeface, typeface_named
from workshop.catalogue.services import add_typeface
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
_SPECIMENS = {"Arab": "سلمى ٢٠٢٧", "Hebr": "רחל ויעקב"}


@require_GET
def typefaces(request: HttpRequest) -> HttpResponse:
    """Every typeface set in itself, with what was measured of it."""
    words = request.GET.get("words", "")[:_LONGEST_SPECIMEN].strip()
    processes = Standard.objects.now().processes
    process = processes.get(request.GET.get("process", ""), next(iter(processes.values())))
    own = list(ShopTypeface.objects.all())
    asked: dict[str, Any] = {"words": words, "process": process}
    rows = [
        _row(t.code, t.name, "your own", TypefaceFacts.from_table(t.facts), notes=t.notes, **asked)
        for t in own
    ] + [
        _row(code, t.name, t.role, shipped_facts()[code], **asked) for code, t in shipped_typefaces().items()
    ]
    context = {
        "place": "catalogue",
        "rows": rows,
        "words": words,
        "process": process,
        "processes": processes.values(),
        "single": [shipped_single_stroke(code) for code in single_stroke_codes()],
        "longest": _LONGEST_SPECIMEN,
        "most_mb": LARGEST_TYPEFACE_BYTES // 1024 // 1024,
    }
    template = "catalogue/_typefaces.html" if request.htmx else "catalogue/typefaces.html"  # type: ignore[attr-defined]
    return render(request, template, context)


def _row(
    code: str, name: str, role: str, facts: TypefaceFacts, *, words: str, process: Process, notes: Any = ()
) -> dict[str, Any]:
    first = facts.scripts[0] if facts.scripts else ""
    usual = (
        _SPECIMENS.get(first, "Ottoline & Gregor 27")
        if "Latn" not in facts.scripts
        else "Ottoline & Gregor 27"
    )
    return {
        "code": code,
        "name": name,
        "role": role,
        "facts": facts,
        "scripts": ", ".join(dict.fromkeys(_SCRIPTS.get(s, s) for s in facts.scripts[:5])),
        "raised_mm": facts.lowest_height_mm(process.limits, engraved=False),
        "engraved_mm": facts.lowest_height_mm(process.limits, engraved=True),
        "drawing": specimen_drawing(words or usual, typeface_named(code)),
        "notes": notes,
    }


@require_POST
def add(request: HttpRequest) -> HttpResponse:
    """Add a typeface of the shop's own."""
    file = request.FILES.get("typeface")
    if not isinstance(file, UploadedFile):
        messages.error(request, "Choose a TTF, OTF, WOFF or WOFF2 file.")
        return redirect("catalogue:typefaces")
    try:
        if file.size is not None and file.size > LARGEST_TYPEFACE_BYTES:
            raise TypefaceError(f"A typeface may have {LARGEST_TYPEFACE_BYTES // 1024 // 1024} MB.")
        added = add_typeface(file.read(), file_name=file.name or "", user=request.user)  # type: ignore[arg-type]
    except TypefaceError as error:
        messages.error(request, f"{error} Nothing was added.")
    else:
        messages.success(
            request, f"{added.name} is here; products name it “{added.code}”, lists may name it by its name."
        )
    return redirect("catalogue:typefaces")

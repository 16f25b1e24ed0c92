"""Files to take away: asked for, watched, fetched."""

from __future__ import annotations

import re

from django.contrib import messages
from django.core.files.storage import default_storage
from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from kizami.wording.order_list import LARGEST_LIST_ROWS
from workshop.book.book import BookView
from workshop.book.bundles import LARGEST_BUNDLE_PIECES, BundleError, ask_for_bundle
from workshop.book.models import KEPT_DAYS, Bundle
from workshop.book.ticked import ticked_lines

_SHOWN = 40


@require_POST
def ask(request: HttpRequest) -> HttpResponse:
    """Ask for the ready pieces of the ticked lines, or of the whole view when none is ticked."""
    view = BookView.of(request.POST)
    lines = list(ticked_lines(request.POST.getlist("line")))
    if lines:
        name = f"{len(lines)} chosen lines"
    else:
        rows = view.lines().order_by("order_list_id", "row", "pk")
        lines = list(rows.values_list("pk", flat=True)[: LARGEST_LIST_ROWS + 1])
        name = (
            ", ".join(filter(None, (view.words, view.stage, str(view.chosen) and "one list"))) or "all lines"
        )
    try:
        ask_for_bundle(lines, name=name, user=request.user)  # type: ignore[arg-type]
    except BundleError as error:
        messages.error(request, str(error))
        return redirect(f"{reverse('book:book')}?{view.query()}")
    return redirect("book:bundles")


@require_GET
def bundles(request: HttpRequest) -> HttpResponse:
    """Bundles that were asked for, the newest first."""
    rows = list(Bundle.objects.select_related("asked_by", "file").defer("lines")[:_SHOWN])
    context = {
        "bundles": rows,
        "asks_again": any(row.is_going_on for row in rows),
        "kept_days": KEPT_DAYS,
        "most_pieces": LARGEST_BUNDLE_PIECES,
        "place": "book",
    }
    part = request.headers.get("HX-Request") == "true"
    return render(request, "book/_bundles.html" if part else "book/bundles.html", context)


@require_GET
def fetch(request: HttpRequest, pk: int) -> HttpResponse:
    """A bundle that is whole."""
    bundle = get_object_or_404(Bundle.objects.select_related("file"), pk=pk)
    if bundle.file is None:
        raise Http404("It is not whole yet.")
    words = re.sub(r"[^\w-]+", "-", bundle.name).strip("-")
    return FileResponse(
        default_storage.open(bundle.file.path),
        as_attachment=True,
        filename=f"kizami {words} {bundle.asked_at:%Y-%m-%d}.zip",
        content_type="application/zip",
    )

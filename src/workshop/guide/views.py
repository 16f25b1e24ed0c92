"""The guide inside the application."""

from __future__ import annotations

from django.http import FileResponse, Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from workshop.guide.chapters import chapters, pictures, search

__all__ = ["chapter", "picture"]

_LONGEST_SEARCH = 60


@require_GET
def chapter(request: HttpRequest, slug: str = "") -> HttpResponse:
    """One chapter beside the list of all; or what a search found."""
    every = chapters()
    shown = every.get(slug or next(iter(every)))
    if shown is None:
        raise Http404("The guide has no such chapter.")
    words = request.GET.get("q", "")[:_LONGEST_SEARCH].strip()
    context = {"chapters": every.values(), "shown": shown, "words": words, "longest": _LONGEST_SEARCH}
    if words:
        context["found"] = search(words)
    return render(request, "guide/chapter.html", context)


@require_GET
def picture(request: HttpRequest, name: str) -> FileResponse:
    """One picture of the guide."""
    found = pictures().get(name)
    if found is None:
        raise Http404("The guide has no such picture.")
    response = FileResponse(found.open("rb"), content_type="image/png")
    response["Cache-Control"] = "private, max-age=3600"
    return response

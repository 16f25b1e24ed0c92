"""Where each place of the shop is found."""

from __future__ import annotations

from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse
from django.urls import include, path
from django.views.generic import RedirectView


@login_not_required
def alive(request: HttpRequest) -> HttpResponse:
    """Answers as soon as the web server does; used by the start command."""
    return HttpResponse("alive", content_type="text/plain")


handler400 = "workshop.people.errors.bad_request"
handler403 = "workshop.people.errors.forbidden"
handler404 = "workshop.people.errors.not_found"
handler500 = "workshop.people.errors.broken"

urlpatterns = [
    path("", RedirectView.as_view(pattern_name="book:book"), name="home"),
    path("alive/", alive, name="alive"),
    path("people/", include("workshop.people.urls")),
    path("orders/", include("workshop.book.urls")),
    path("orders/", include("workshop.intake.urls")),
    path("feeds/", include("workshop.feeds.urls")),
    path("catalogue/", include("workshop.catalogue.urls")),
    path("forget/", include("workshop.retention.urls")),
    path("runs/", include("workshop.runs.urls")),
    path("guide/", include("workshop.guide.urls")),
    path("stations/", include("workshop.stations.urls")),
    path("bench/together/", include("workshop.curing.urls")),
    path("bench/", include("workshop.bench.urls")),
]

"""The Order book."""

from __future__ import annotations

from django.urls import path

from workshop.book import bundle_views, lately, views

app_name = "book"

urlpatterns = [
    path("", views.book, name="book"),
    path("export.csv", views.export, {"kind": "csv"}, name="export-csv"),
    path("export.xlsx", views.export, {"kind": "xlsx"}, name="export-xlsx"),
    path("act/", views.act, name="act"),
    path("rail/", views.rail, name="rail"),
    path("lately/", lately.lately, name="lately"),
    path("rows/", views.rows, name="rows"),
    path("lists/<int:pk>/making/", views.making, name="making"),
    path("bundles/", bundle_views.bundles, name="bundles"),
    path("bundles/ask/", bundle_views.ask, name="ask-bundle"),
    path("bundles/<int:pk>.zip", bundle_views.fetch, name="fetch-bundle"),
]

"""The Order book."""

from __future__ import annotations

from django.urls import path

from workshop.book import views

app_name = "book"

urlpatterns = [
    path("", views.book, name="book"),
    path("export.csv", views.export, {"kind": "csv"}, name="export-csv"),
    path("export.xlsx", views.export, {"kind": "xlsx"}, name="export-xlsx"),
    path("act/", views.act, name="act"),
    path("rail/", views.rail, name="rail"),
    path("lists/<int:pk>/making/", views.making, name="making"),
    path("pieces.zip", views.pieces_zip, name="pieces-zip"),
]

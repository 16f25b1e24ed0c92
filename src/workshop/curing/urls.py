"""Held together."""

from __future__ import annotations

from django.urls import path

from workshop.curing import standards_views, version_views, views

app_name = "curing"

urlpatterns = [
    path("", views.together, name="together"),
    path("look/", views.look, name="look"),
    path("take/", views.take, name="take"),
    path("versions/<str:code>/", version_views.version, name="version"),
    path("versions/<str:code>/lines/", version_views.lines, name="version-lines"),
    path("versions/<str:code>/take/", version_views.take, name="take-version"),
    path("limits/<str:kind>/<str:code>/lines/", standards_views.lines, name="standard-lines"),
    path("limits/<str:kind>/<str:code>/keep/", standards_views.keep, name="keep-standard"),
    path("<int:pk>/back/", views.back, name="back"),
]

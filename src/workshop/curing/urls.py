"""Held together."""

from __future__ import annotations

from django.urls import path

from workshop.curing import views

app_name = "curing"

urlpatterns = [
    path("", views.together, name="together"),
    path("look/", views.look, name="look"),
    path("take/", views.take, name="take"),
    path("<int:pk>/back/", views.back, name="back"),
]

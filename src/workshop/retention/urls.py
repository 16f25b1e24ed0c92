"""Forgetting a customer."""

from __future__ import annotations

from django.urls import path

from workshop.retention import views

app_name = "retention"

urlpatterns = [
    path("", views.look, name="look"),
    path("do/", views.do, name="do"),
]

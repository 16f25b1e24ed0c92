"""The guide."""

from __future__ import annotations

from django.urls import path

from workshop.guide import views

app_name = "guide"

urlpatterns = [
    path("", views.chapter, name="guide"),
    path("pictures/<slug:name>.png", views.picture, name="picture"),
    path("<slug:slug>/", views.chapter, name="chapter"),
]

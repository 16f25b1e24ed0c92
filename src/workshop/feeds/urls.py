"""Shop feeds."""

from __future__ import annotations

from django.urls import path

from workshop.feeds import views

app_name = "feeds"

urlpatterns = [
    path("", views.feeds, name="feeds"),
    path("add/", views.add, name="add"),
    path("<int:pk>/", views.change, name="change"),
]

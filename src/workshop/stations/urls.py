"""Addresses of the Stations."""

from __future__ import annotations

from django.urls import path

from workshop.stations import views

app_name = "stations"
urlpatterns = [
    path("", views.stations, name="stations"),
    path("add/", views.add, name="add"),
    path("<str:code>/", views.station, name="station"),
    path("<str:code>/keep/", views.keep, name="keep"),
]

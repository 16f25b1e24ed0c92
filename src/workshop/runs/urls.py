"""Addresses of the Runs."""

from __future__ import annotations

from django.urls import path

from workshop.runs import change_views, station_views, views

app_name = "runs"
urlpatterns = [
    path("", views.runs, name="runs"),
    path("propose/", views.propose, name="propose"),
    path("stop/", views.stop, name="stop"),
    path("station/<str:code>/would/", station_views.would, name="station-would"),
    path("<str:code>/", views.run, name="run"),
    path("<str:code>/look/<int:edition>.stl", views.look, name="look"),
    path("<str:code>/files/", views.fetch, name="fetch"),
    path("<str:code>/files/<str:name>", views.fetch_one, name="fetch-one"),
    path("<str:code>/move/", change_views.move_pieces, name="move"),
    path("<str:code>/change/", change_views.change, name="change"),
    path("<str:code>/made/", change_views.made, name="made"),
]

"""The Order book."""

from __future__ import annotations

from django.urls import path

from workshop.orders import views

app_name = "orders"

urlpatterns = [
    path("", views.book, name="book"),
    path("rail/", views.rail, name="rail"),
    path("take/", views.take, name="take"),
    path("set-aside/", views.set_aside, name="set-aside"),
    path("lists/<int:pk>/making/", views.making, name="making"),
    path("lists/<int:pk>/set-aside.csv", views.set_aside_file, name="set-aside-file"),
    path("lists/<int:pk>/pieces.zip", views.pieces_zip, name="pieces-zip"),
]

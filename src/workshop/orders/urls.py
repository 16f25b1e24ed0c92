"""The Order book."""

from __future__ import annotations

from django.urls import path

from workshop.orders import desk_views, views, word_views

app_name = "orders"

urlpatterns = [
    path("", views.book, name="book"),
    path("export.csv", views.export, {"kind": "csv"}, name="export-csv"),
    path("export.xlsx", views.export, {"kind": "xlsx"}, name="export-xlsx"),
    path("act/", views.act, name="act"),
    path("rail/", views.rail, name="rail"),
    path("take/", views.take, name="take"),
    path("set-aside/", desk_views.set_aside, name="set-aside"),
    path("set-aside/<int:pk>/retry/", desk_views.retry, name="retry"),
    path("aliases/", desk_views.alias, name="alias"),
    path("aliases/<int:pk>/forget/", word_views.forget_alias, name="forget-alias"),
    path("words/", word_views.words, name="words"),
    path("words/placeholders/", word_views.set_placeholders, name="placeholders"),
    path("logos/", word_views.logos, name="logos"),
    path("logos/<int:pk>/threshold/", word_views.logo_threshold, name="logo-threshold"),
    path("questions/<int:pk>/", desk_views.answer, name="answer"),
    path("trial/<int:pk>/", desk_views.trial, name="trial"),
    path("trial/<int:pk>/reading/", desk_views.reading, name="reading"),
    path("trial/<int:pk>/take/", desk_views.take_in, name="take-in"),
    path("lists/<int:pk>/making/", views.making, name="making"),
    path("lists/<int:pk>/set-aside.csv", desk_views.set_aside_file, name="set-aside-file"),
    path("pieces.zip", views.pieces_zip, name="pieces-zip"),
]

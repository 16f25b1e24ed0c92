"""How lists come in: handed in, on trial, set aside; the words and logos that they name."""

from __future__ import annotations

from django.urls import path

from workshop.intake import take_views, views, word_views

app_name = "intake"

urlpatterns = [
    path("take/", take_views.take, name="take"),
    path("set-aside/", views.set_aside, name="set-aside"),
    path("set-aside/<int:pk>/retry/", views.retry, name="retry"),
    path("aliases/", views.alias, name="alias"),
    path("aliases/<int:pk>/forget/", word_views.forget_alias, name="forget-alias"),
    path("words/", word_views.words, name="words"),
    path("words/placeholders/", word_views.set_placeholders, name="placeholders"),
    path("logos/", word_views.logos, name="logos"),
    path("logos/<int:pk>/trial/", word_views.logo_trial, name="logo-trial"),
    path("logos/<int:pk>/threshold/", word_views.logo_threshold, name="logo-threshold"),
    path("logos/<int:pk>/use/", word_views.logo_use, name="logo-use"),
    path("questions/<int:pk>/", views.answer, name="answer"),
    path("trial/<int:pk>/", views.trial, name="trial"),
    path("trial/<int:pk>/reading/", views.reading, name="reading"),
    path("trial/<int:pk>/take/", views.take_in, name="take-in"),
    path("lists/<int:pk>/set-aside.csv", views.set_aside_file, name="set-aside-file"),
]

"""The Bench."""

from __future__ import annotations

from django.urls import path

from workshop.bench import views

app_name = "bench"

urlpatterns = [
    path("", views.first, name="first"),
    path("<int:pk>/", views.piece, name="piece"),
    path("<int:pk>/look/", views.look, name="look"),
    path("<int:pk>/beside/", views.beside, name="beside"),
    path("<int:pk>/hand/", views.hand, name="hand"),
    path("<int:pk>/here/", views.here, name="here"),
    path("<int:pk>/keep/", views.keep, name="keep"),
    path("<int:pk>/all-the-same/", views.all_the_same, name="all-the-same"),
    path("<int:pk>/back/", views.go, {"back": True}, name="back"),
    path("<int:pk>/forth/", views.go, {"back": False}, name="forth"),
    path("<int:pk>/solid-checks/", views.solid_checks, name="solid-checks"),
    path("<int:pk>/remedies/", views.remedies, name="remedies"),
    path("<int:pk>/picture.png", views.picture, name="picture"),
    path("<int:pk>/solid/", views.solid, name="solid"),
    path("<int:pk>/cut/", views.cut, name="cut"),
]

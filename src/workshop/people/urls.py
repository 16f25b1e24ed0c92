"""Sign-in, sign-out, one's own password; and for the owner, everybody."""

from __future__ import annotations

from django.contrib.auth import views as django_views
from django.contrib.auth.decorators import login_not_required
from django.urls import path

from workshop.people import views
from workshop.people.lockout import SignIn

app_name = "people"

urlpatterns = [
    path("sign-in/", login_not_required(SignIn.as_view()), name="sign-in"),
    path("sign-out/", django_views.LogoutView.as_view(), name="sign-out"),
    path("password/", views.password, name="password"),
    path("", views.everybody, name="people"),
    path("add/", views.add, name="add"),
    path("<int:pk>/", views.change, name="change"),
]

"""Sign-in and sign-out."""

from __future__ import annotations

from django.contrib.auth import views
from django.urls import path

app_name = "people"

urlpatterns = [
    path(
        "sign-in/",
        views.LoginView.as_view(template_name="people/sign_in.html", redirect_authenticated_user=True),
        name="sign-in",
    ),
    path("sign-out/", views.LogoutView.as_view(), name="sign-out"),
]

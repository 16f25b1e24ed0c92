"""What is known of people beside Django's own user."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class FirstPassword(models.Model):
    """Whose password was given by somebody else: another one must be chosen before anything else is done."""

    user = models.OneToOneField(
        settings.AUTH_USER_MODEL, primary_key=True, on_delete=models.CASCADE, related_name="first_password"
    )
    given_at = models.DateTimeField(auto_now=True)

    def __str__(self) -> str:
        return f"first password of {self.user}"


class PeopleEvent(models.Model):
    """Who did what with people, append-only."""

    at = models.DateTimeField(auto_now_add=True)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+")
    what = models.CharField(max_length=300)

    class Meta:
        ordering = ["-at", "-pk"]
        permissions = [
            ("manage_people", "May add, bar and rename people"),
            ("forget_customers", "May forget a customer"),
        ]

    def __str__(self) -> str:
        return self.what

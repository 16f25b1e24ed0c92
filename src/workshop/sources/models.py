"""Senders of lists, each with the way that theirs are read."""

from __future__ import annotations

from django.db import models


class Source(models.Model):
    """Whoever sends lists, with the way that theirs are read. Order numbers are unique in a source."""

    name = models.CharField(max_length=80, unique=True)
    columns = models.JSONField(default=dict)
    rule = models.JSONField(null=True)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name

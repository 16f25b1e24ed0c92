"""Files packed in the background, to be taken away when they are whole."""

from __future__ import annotations

import datetime as dt

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.utils import timezone

from workshop.files.models import StoredFile

__all__ = ["KEPT_DAYS", "Bundle"]

#: A bundle can be had for so long; what is in it can be packed again at any time.
KEPT_DAYS = 7


class BundleQuerySet(models.QuerySet["Bundle"]):
    """Table-level questions about bundles."""

    def going_on(self, pk: int) -> BundleQuerySet:
        """That bundle, while it is still to become whole."""
        return self.filter(pk=pk, state__in=(Bundle.State.WAITING, Bundle.State.PACKING))

    def past(self) -> BundleQuerySet:
        """Those whose time is over."""
        return self.filter(asked_at__lt=timezone.now() - dt.timedelta(days=KEPT_DAYS))


class Bundle(models.Model):
    """The ready pieces of a view, or of chosen lines, as one zip."""

    class State(models.TextChoices):
        """How far it is."""

        WAITING = "waiting", "waiting"
        PACKING = "packing", "being packed"
        WHOLE = "whole", "whole"
        FAILED = "failed", "not packed"

    asked_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    asked_at = models.DateTimeField(auto_now_add=True)
    name = models.CharField(max_length=120)
    #: Keys of the lines that it is of, in the order in which they are packed.
    lines = models.JSONField()
    total = models.PositiveIntegerField(default=0)
    state = models.CharField(max_length=8, choices=State, default=State.WAITING)
    done = models.PositiveIntegerField(default=0)
    pieces = models.PositiveIntegerField(default=0)
    attempts = models.PositiveSmallIntegerField(default=0)
    trouble = models.CharField(max_length=300, blank=True)
    file = models.ForeignKey(StoredFile, null=True, on_delete=models.PROTECT, related_name="+")

    objects = BundleQuerySet.as_manager()

    class Meta:
        ordering = ["-asked_at", "-pk"]
        constraints = [
            models.CheckConstraint(
                condition=Q(state="whole", file__isnull=False) | (~Q(state="whole") & Q(file=None)),
                name="bundle_whole_with_its_file",
            )
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def is_going_on(self) -> bool:
        """Whether it is still to become whole."""
        return self.state in (self.State.WAITING, self.State.PACKING)

    @property
    def kept_until(self) -> dt.datetime:
        """When it goes."""
        return self.asked_at + dt.timedelta(days=KEPT_DAYS)

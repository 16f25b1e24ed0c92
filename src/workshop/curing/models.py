"""What would cure a held line, and what was taken for many lines in one step."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.db.models import F, Q

from workshop.catalogue.models import Product
from workshop.making.models import STRIP_PX_PER_MM
from workshop.orders.models import OrderLine
from workshop.orders.stages import Stage

__all__ = ["Cure", "Taken", "Taking", "cures_to_look_for_longer", "lines_to_look_at"]


def lines_to_look_at() -> models.QuerySet[OrderLine]:
    """Held lines of which it is not known what would cure them as they are now."""
    known = Q(cure__edition=F("edition"), cure__revision=F("revision"))
    return OrderLine.objects.filter(stage=Stage.HELD, revision__isnull=False).exclude(known)


class Cure(models.Model):
    """The best remedy of a held line, as it was at an edition; without a setting where none was found."""

    line = models.OneToOneField(OrderLine, on_delete=models.CASCADE, related_name="cure", primary_key=True)
    edition = models.PositiveIntegerField()
    #: The revision that it would cure.
    revision = models.ForeignKey("making.Revision", on_delete=models.CASCADE, related_name="+")
    setting = models.JSONField(null=True)
    #: None was found in a short look, and a longer one may find one.
    may_go_on = models.BooleanField(default=False)
    said = models.CharField(max_length=300, blank=True)
    cost = models.FloatField(default=0.0)
    #: What of it only the customer can say, and what is beyond the product.
    asks = models.JSONField(default=list)
    outside = models.JSONField(default=list)
    height_mm = models.FloatField(default=0.0)
    strip = models.TextField(blank=True)
    strip_view_box = models.CharField(max_length=80, default="0 0 1 1")
    strip_width_mm = models.FloatField(default=1.0)
    strip_height_mm = models.FloatField(default=1.0)
    found_at = models.DateTimeField(auto_now=True)

    def __str__(self) -> str:
        return f"{self.line}: {self.said or 'no cure'}"

    @property
    def strip_width_px(self) -> float:
        """Width of the strip on a screen, at the scale that all strips share."""
        return round(self.strip_width_mm * STRIP_PX_PER_MM, 1)

    @property
    def strip_height_px(self) -> float:
        """Height of the strip on a screen, at the scale that all strips share."""
        return round(self.strip_height_mm * STRIP_PX_PER_MM, 1)


def cures_to_look_for_longer() -> models.QuerySet[Cure]:
    """Of held lines as they are now, those that a short look found nothing for."""
    as_now = Q(edition=F("line__edition"), revision=F("line__revision"), line__stage=Stage.HELD)
    return Cure.objects.filter(as_now, may_go_on=True)


class Taking(models.Model):
    """Cures taken for many lines in one step, which can be taken back in one step."""

    who = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    said = models.CharField(max_length=200)
    taken_back_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return self.said


class Taken(models.Model):
    """One line of a taking."""

    class State(models.TextChoices):
        """Where it stands."""

        WAITING = "waiting"
        TAKEN = "taken"
        LEFT = "left"
        GOING_BACK = "going back"
        BACK = "back"

    taking = models.ForeignKey(Taking, on_delete=models.CASCADE, related_name="lines")
    line = models.ForeignKey(OrderLine, on_delete=models.CASCADE, related_name="+")
    #: What is taken: a setting, or a version of the line's product.
    setting = models.JSONField(null=True)
    product = models.ForeignKey(Product, null=True, on_delete=models.PROTECT, related_name="+")
    #: The edition that it may be taken from, then the one that it may be taken back from.
    edition = models.PositiveIntegerField()
    state = models.CharField(max_length=10, choices=State, default=State.WAITING)
    why = models.CharField(max_length=300, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["taking", "line"], name="taken_once"),
            models.CheckConstraint(
                condition=Q(setting__isnull=False) ^ Q(product__isnull=False), name="taken_one_thing"
            ),
        ]
        indexes = [models.Index(fields=["taking", "state"], name="taken_by_state")]

    def __str__(self) -> str:
        return f"{self.line} {self.state}"

"""Words on lists that stand for one of the shop's own, and words that stand for nothing."""

from __future__ import annotations

from django.db import models
from django.db.models import Q


class Alias(models.Model):
    """A word on order lists that stands for one of the shop's own."""

    class Kind(models.TextChoices):
        """What the word stands for."""

        PRODUCT = "product", "product"
        TYPEFACE = "typeface", "typeface"
        MATERIAL = "material", "material"
        FINISH = "finish", "finish"

    kind = models.CharField(max_length=12, choices=Kind)
    word = models.CharField(max_length=200)
    target = models.CharField(max_length=40)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["kind", "word"], name="alias_once")]
        ordering = ["kind", "word"]

    def __str__(self) -> str:
        return f"{self.word} is {self.target}"


class Placeholders(models.Model):
    """The words that mean “nothing was written”, one row for the shop; without it the usual ones."""

    words = models.JSONField(default=list)
    changed_at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [models.CheckConstraint(condition=Q(pk=1), name="placeholders_one_row")]

    def __str__(self) -> str:
        return f"{len(self.words)} placeholder words"

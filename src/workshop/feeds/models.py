"""Shop feeds that Kizami listens to, and what it knows of their orders."""

from __future__ import annotations

from django.db import models

from workshop.sources.models import Source


class Feed(models.Model):
    """A shop that serves its orders; its orders belong to a source of their own."""

    source = models.OneToOneField(Source, on_delete=models.PROTECT, related_name="feed")
    address = models.URLField(max_length=300)
    is_on = models.BooleanField(default=True)
    cursor = models.CharField(max_length=200, blank=True)
    asked_at = models.DateTimeField(null=True)
    heard_at = models.DateTimeField(null=True)
    trouble = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return self.source.name


class FeedOrder(models.Model):
    """The newest version of an order that a feed has sent, and the status that it was last told."""

    feed = models.ForeignKey(Feed, on_delete=models.CASCADE, related_name="orders")
    order = models.CharField(max_length=100)
    version = models.PositiveBigIntegerField()
    told = models.CharField(max_length=20, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["feed", "order"], name="feed_order_once")]

    def __str__(self) -> str:
        return f"{self.order} v{self.version}"

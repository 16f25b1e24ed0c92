"""Logos on the shelf of their sender."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.db.models import Q

from kizami.artwork.shelf import Shelf, fold_file_name
from workshop.files.models import StoredFile
from workshop.files.sent import Sent, kept_until_looked_at
from workshop.sources.models import Source


class LogoQuerySet(models.QuerySet["Logo"]):
    """Table-level questions about logos."""

    def in_use(self) -> LogoQuerySet:
        """Those that lists may name."""
        return self.filter(retired_at=None)

    def named(self, source_pk: int, name: str) -> Logo | None:
        """The logo of a source that is called so."""
        return self.filter(source=source_pk, folded=fold_file_name(name)).select_related("file").first()


class Logo(models.Model):
    """A logo file of a source, found by its name."""

    source = models.ForeignKey(Source, on_delete=models.PROTECT, related_name="logos")
    name = models.CharField(max_length=200)
    folded = models.CharField(max_length=200)
    file = models.ForeignKey(StoredFile, on_delete=models.PROTECT, related_name="+")
    threshold = models.FloatField(null=True)
    notes = models.JSONField(default=list)
    #: As it was understood: its drawing, and how many pixels high a picture is (0 for drawn ones).
    facts = models.JSONField(default=dict)
    received_at = models.DateTimeField(auto_now=True)
    received_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    #: What has it keeps it; lines that come later and name it are held.
    retired_at = models.DateTimeField(null=True)
    retired_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+"
    )

    objects = LogoQuerySet.as_manager()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["source", "folded"], name="logo_once_in_source"),
            models.CheckConstraint(
                condition=Q(retired_at=None, retired_by=None)
                | Q(retired_at__isnull=False, retired_by__isnull=False),
                name="logo_out_of_use_by_somebody",
            ),
        ]
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name

    def content(self) -> tuple[bytes, str, float | None]:
        """What a shelf hands out."""
        return self.file.read(), self.name, self.threshold

    def shelf(self) -> Shelf:
        """A shelf with this logo alone."""
        return Shelf(files={self.folded: self.content})

    def no_shelf(self) -> Shelf:
        """What a line finds that may not have it any more."""
        return Shelf(out_of_use=frozenset({self.folded}))


class LogoParcel(Sent):
    """A file with logos as it was sent, a single one or a zip of them; kept until it is looked at."""

    source = models.ForeignKey(Source, on_delete=models.PROTECT, related_name="parcels")

    class Meta(Sent.Meta):
        constraints = [kept_until_looked_at("parcel_kept_until_looked_at")]

"""Revisions: what a line was made into, with all that it was made from, and what was measured."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.db.models import Q

from kizami.artwork.shelf import EMPTY_SHELF, Shelf, fold_file_name
from kizami.pieces.inputs import Inputs
from workshop.catalogue.models import Product
from workshop.files.models import StoredFile
from workshop.orders.models import OrderLine
from workshop.orders.stages import Stage
from workshop.orders.state import LineState

__all__ = ["STRIP_PX_PER_MM", "Finding", "Revision"]

#: The one scale of all strips in the order book.
STRIP_PX_PER_MM = 5.0


class RevisionQuerySet(models.QuerySet["Revision"]):
    """Table-level questions about revisions."""

    def with_inputs(self) -> RevisionQuerySet:
        """With all that they were made from."""
        return self.select_related("product", "logo_file")

    def newest_after(self, revision: Revision) -> Revision | None:
        """What was last made of a state by deciding otherwise: where “redo” leads."""
        same = self.filter(Q(pk=revision.root_pk) | Q(again=revision.root_pk))
        after = self.filter(line=revision.line_id, again=None, follows__in=same.values("pk"))
        return after.with_inputs().order_by("-number").first()


class Revision(models.Model):
    """What a line was made into, with all it was made from, who, when and why. Never changed, only followed.

    Making the same state again, say because the height of its set or the content of its logo has changed,
    gives a revision too; it names the first one of that state, and going back and forth steps over it.
    """

    line = models.ForeignKey(OrderLine, on_delete=models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    #: The revision that the line stood on before; going back leads there.
    follows = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="+")
    #: The first revision of the same state, where this one only makes it again.
    again = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="+")
    product = models.ForeignKey(Product, on_delete=models.PROTECT, related_name="+")
    size = models.CharField(max_length=500, blank=True)
    wording_received = models.CharField(max_length=500, blank=True)
    wording = models.CharField(max_length=500, blank=True)
    second = models.CharField(max_length=500, blank=True)
    typeface = models.CharField(max_length=500, blank=True)
    material = models.CharField(max_length=500, blank=True)
    finish = models.CharField(max_length=500, blank=True)
    logo = models.CharField(max_length=500, blank=True)
    open_question = models.TextField(blank=True)
    proposal = models.CharField(max_length=500, blank=True)
    changes = models.JSONField(default=list)
    candidates = models.JSONField(default=list)
    choices = models.JSONField(default=dict)
    set_height_mm = models.FloatField(null=True)
    logo_file = models.ForeignKey(StoredFile, null=True, on_delete=models.PROTECT, related_name="+")
    logo_threshold = models.FloatField(null=True)
    fingerprint = models.CharField(max_length=64, db_index=True)
    stage = models.CharField(max_length=8, choices=Stage)
    #: How far the worst finding is beyond its limit; 0 for what is ready.
    badness = models.FloatField(default=0.0)
    height_mm = models.FloatField()
    strip = models.TextField()
    strip_view_box = models.CharField(max_length=80)
    strip_width_mm = models.FloatField()
    strip_height_mm = models.FloatField()
    worst = models.JSONField(null=True)
    facts = models.JSONField()
    #: Why it is made although checks fail: reason, who, and the checks; null where every check passes.
    overridden = models.JSONField(null=True)
    why = models.CharField(max_length=200)
    made_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+"
    )
    made_at = models.DateTimeField(auto_now_add=True)

    objects = RevisionQuerySet.as_manager()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["line", "number"], name="revision_once_in_line")]
        ordering = ["line", "-number"]
        # How fast the lines of a list are made just now is asked again and again.
        indexes = [models.Index(fields=["made_at"], name="revision_by_time")]

    def __str__(self) -> str:
        return f"{self.line} r{self.number}"

    @property
    def root_pk(self) -> int:
        """The first revision of this state."""
        return self.again_id or self.pk

    @property
    def state(self) -> LineState:
        """The line as it was then."""
        return LineState.of(self)

    def to_inputs(self) -> Inputs:
        """All that it was made from: the same inputs, and so the same files, at any time."""
        logos = EMPTY_SHELF
        if self.logo_file is not None:
            content = self.logo_file.read(), self.logo, self.logo_threshold
            logos = Shelf(files={fold_file_name(self.logo): lambda: content})
        return self.state.to_inputs(logos=logos, height_cap_mm=self.set_height_mm)

    @property
    def strip_width_px(self) -> float:
        """Width of the strip on a screen, at the scale that all strips share."""
        return round(self.strip_width_mm * STRIP_PX_PER_MM, 1)

    @property
    def strip_height_px(self) -> float:
        """Height of the strip on a screen, at the scale that all strips share."""
        return round(self.strip_height_mm * STRIP_PX_PER_MM, 1)


class Finding(models.Model):
    """One measured verdict of a revision, as a row so that it can be counted and searched."""

    revision = models.ForeignKey(Revision, on_delete=models.CASCADE, related_name="findings")
    place = models.PositiveSmallIntegerField()
    code = models.CharField(max_length=40)
    title = models.CharField(max_length=80)
    level = models.CharField(max_length=8)
    measured = models.FloatField()
    limit = models.FloatField()
    unit = models.CharField(max_length=8, blank=True)
    message = models.TextField()
    hint = models.TextField(blank=True)
    #: The area that it is about, where a piece has several.
    area = models.CharField(max_length=40, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["revision", "place"], name="finding_place_in_revision")
        ]
        ordering = ["revision", "place"]
        indexes = [models.Index(fields=["code", "level"], name="finding_by_code_and_level")]

    def __str__(self) -> str:
        return f"{self.code} {self.level}"

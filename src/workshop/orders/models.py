"""Order lists, their lines and pieces, what was set aside, and every revision of a line."""

from __future__ import annotations

from typing import Any, Self

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.urls import reverse

from kizami.make import Inputs
from kizami.wording.order_list import LARGEST_QUANTITY
from kizami.wording.plan import WordingPlan, settle
from workshop.catalogue.models import Product

#: The one scale of all strips in the order book.
STRIP_PX_PER_MM = 5.0


class Stage(models.TextChoices):
    """Where a piece stands, in the words of the shop."""

    NEW = "new", "new"
    HELD = "held", "held"
    READY = "ready", "ready"
    IN_RUN = "in run", "in run"
    MADE = "made", "made"
    SENT = "sent", "sent"


#: Stages in which a line is still on paper: a corrected list may change it.
ON_PAPER = (Stage.NEW, Stage.HELD, Stage.READY)


class Source(models.Model):
    """Whoever sends lists, with the way that theirs are read. Order numbers are unique in a source."""

    name = models.CharField(max_length=80, unique=True)
    columns = models.JSONField(default=dict)
    rule = models.JSONField(null=True)

    class Meta:
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


class Intake(models.Model):
    """A list on trial: read and compared, but nothing of it is in the order book yet."""

    source = models.ForeignKey(Source, on_delete=models.PROTECT, related_name="intakes")
    name = models.CharField(max_length=200)
    data = models.BinaryField()
    encoding = models.CharField(max_length=20, blank=True)
    columns = models.JSONField(default=dict)
    rule = models.JSONField(null=True)
    received_at = models.DateTimeField(auto_now_add=True)
    received_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["-received_at", "-pk"]

    def __str__(self) -> str:
        return f"{self.name} on trial"

    def get_absolute_url(self) -> str:
        """The trial."""
        return reverse("orders:trial", args=[self.pk])


class Alias(models.Model):
    """A word on order lists that stands for one of the shop's own."""

    class Kind(models.TextChoices):
        """What the word stands for."""

        PRODUCT = "product", "product"

    kind = models.CharField(max_length=12, choices=Kind)
    word = models.CharField(max_length=200)
    target = models.CharField(max_length=40)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["kind", "word"], name="alias_once")]
        ordering = ["kind", "word"]

    def __str__(self) -> str:
        return f"{self.word} is {self.target}"


class OrderList(models.Model):
    """One file or paste of orders, as received, with the way it was read."""

    source = models.ForeignKey(Source, on_delete=models.PROTECT, related_name="lists")
    name = models.CharField(max_length=200)
    original = models.BinaryField()
    encoding = models.CharField(max_length=20, blank=True)
    header = models.JSONField(default=list)
    columns = models.JSONField(default=dict)
    rule = models.JSONField(null=True)
    received_at = models.DateTimeField(auto_now_add=True)
    received_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    started_at = models.DateTimeField(null=True)
    stopped_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-received_at", "-pk"]
        permissions = [
            ("take_list", "May take in an order list"),
            ("download_pieces", "May download finished pieces"),
        ]

    def __str__(self) -> str:
        return self.name


class LineQuerySet(models.QuerySet["OrderLine"]):
    """Table-level questions about lines."""

    def in_book_order(self, *groups: Any) -> Self:
        """Held first and the worst of them on top, then what is still to make, then the rest by date."""
        rank = models.Case(
            models.When(stage=Stage.HELD, then=0),
            models.When(stage=Stage.NEW, then=1),
            default=2,
            output_field=models.IntegerField(),
        )
        return self.order_by(*groups, rank, "-badness", "-rush", models.F("due").asc(nulls_last=True), "pk")

    def worst_held(self) -> Self:
        """Held lines, the one furthest beyond a limit first; among equals the one that is due first."""
        return self.filter(stage=Stage.HELD).order_by("-badness", models.F("due").asc(nulls_last=True), "pk")

    def matching(self, words: str) -> Self:
        """Lines in which every typed word stands somewhere: wording, order, product, customer."""
        lines = self
        for word in words.split()[:8]:
            lines = lines.filter(
                Q(wording__icontains=word)
                | Q(order__icontains=word)
                | Q(product__code__icontains=word)
                | Q(product__name__icontains=word)
                | Q(customer__icontains=word)
                | Q(due__icontains=word)
            )
        return lines

    def lock_with_fellows(self, pk: int) -> OrderLine | None:
        """A line locked together with the lines of its set, in one order so that nobody waits in a ring."""
        line = self.filter(pk=pk).first()
        if line is None:
            return None
        fellows = [fellow.pk for fellow in line.fellows()]
        rows = self.model.objects.select_for_update(of=("self",)).select_related("product")
        return next((row for row in rows.filter(pk__in=fellows).order_by("pk") if row.pk == pk), None)

    def for_book(self) -> Self:
        """With all that the order book shows, in a fixed number of queries."""
        return self.select_related("product", "revision", "order_list").defer(
            "order_list__original", "revision__facts"
        )


class OrderLine(models.Model):
    """One row of a list: product, size, wording, quantity, due date."""

    source = models.ForeignKey(Source, on_delete=models.PROTECT, related_name="lines")
    order_list = models.ForeignKey(OrderList, on_delete=models.CASCADE, related_name="lines")
    row = models.PositiveIntegerField()
    order = models.CharField(max_length=500)
    line = models.CharField(max_length=500)
    product = models.ForeignKey(Product, on_delete=models.PROTECT, related_name="lines")
    size = models.CharField(max_length=500, blank=True)
    wording_received = models.CharField(max_length=500, blank=True)
    wording = models.CharField(max_length=500, blank=True)
    changes = models.JSONField(default=list)
    second = models.CharField(max_length=500, blank=True)
    proposal = models.CharField(max_length=500, blank=True)
    open_question = models.CharField(max_length=300, blank=True)
    rush = models.BooleanField(default=False)
    note = models.CharField(max_length=1100, blank=True)
    set_name = models.CharField(max_length=500, blank=True)
    set_height_mm = models.FloatField(null=True)
    quantity = models.PositiveIntegerField(default=1)
    due = models.DateField(null=True)
    customer = models.CharField(max_length=500, blank=True)
    stage = models.CharField(max_length=8, choices=Stage, default=Stage.NEW)
    badness = models.FloatField(default=0.0)
    attempts = models.PositiveSmallIntegerField(default=0)
    revision = models.ForeignKey("Revision", null=True, on_delete=models.SET_NULL, related_name="+")

    objects = LineQuerySet.as_manager()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["source", "order", "line"], name="line_once_in_source"),
            models.CheckConstraint(
                condition=Q(quantity__gte=1, quantity__lte=LARGEST_QUANTITY), name="line_quantity_in_bounds"
            ),
            models.CheckConstraint(condition=Q(stage__in=Stage.values), name="line_stage_known"),
        ]
        indexes = [
            models.Index(fields=["order_list", "stage"], name="line_by_list_and_stage"),
            models.Index(fields=["stage", "-badness"], name="line_by_stage_and_badness"),
        ]
        permissions = [("change_wording", "May change the wording of a line")]

    def __str__(self) -> str:
        return f"{self.order}-{self.line}"

    @property
    def on_paper(self) -> bool:
        """Whether the line may still be changed freely."""
        return self.stage in ON_PAPER

    def get_absolute_url(self) -> str:
        """The line on the bench."""
        return reverse("bench:piece", args=[self.pk])

    def to_inputs(self, wording: str | None = None) -> Inputs:
        """The core's inputs: as the line is kept, or with a wording that somebody has just typed."""
        product = self.product.to_spec()
        if wording is None:
            text, question = self.wording, self.open_question
        else:
            settled = settle(wording, product.wording, typed=True)
            text, question = settled.wording.text, settled.open_question
        second = settle(self.second, WordingPlan()).wording.text if product.wording.second_after else ""
        return Inputs(
            product=product,
            wording=text,
            size=product.read_size(self.size),
            second=second,
            height_cap_mm=self.set_height_mm,
            open_question=question,
        )

    def fellows(self) -> list[OrderLine]:
        """The lines of the same set, this one among them; lines of one product share a height."""
        if not self.set_name:
            return [self]
        rows = OrderLine.objects.filter(
            source=self.source_id, order=self.order, set_name__iexact=self.set_name, product=self.product_id
        )
        return list(rows.select_related("product").order_by("pk"))


class Piece(models.Model):
    """One physical object to be made."""

    line = models.ForeignKey(OrderLine, on_delete=models.CASCADE, related_name="pieces")
    number = models.PositiveIntegerField()
    stage = models.CharField(max_length=8, choices=Stage, default=Stage.NEW)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["line", "number"], name="piece_once_in_line"),
            models.CheckConstraint(condition=Q(stage__in=Stage.values), name="piece_stage_known"),
        ]
        ordering = ["line", "number"]

    def __str__(self) -> str:
        return f"{self.line}-{self.number}"


class SetAsideRow(models.Model):
    """A row that could not be read, kept as it came with the reason."""

    order_list = models.ForeignKey(OrderList, on_delete=models.CASCADE, related_name="set_aside")
    row = models.PositiveIntegerField()
    reason = models.TextField()
    cells = models.JSONField()
    column = models.CharField(max_length=20, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["order_list", "row"], name="set_aside_row_once")]
        ordering = ["order_list", "row"]

    def __str__(self) -> str:
        return f"row {self.row}: {self.reason}"


class Revision(models.Model):
    """What a line was made into: inputs, result, who, when and why. Never changed, only followed."""

    line = models.ForeignKey(OrderLine, on_delete=models.CASCADE, related_name="revisions")
    number = models.PositiveIntegerField()
    wording = models.CharField(max_length=500, blank=True)
    fingerprint = models.CharField(max_length=64, db_index=True)
    stage = models.CharField(max_length=8, choices=Stage)
    height_mm = models.FloatField()
    strip = models.TextField()
    strip_view_box = models.CharField(max_length=80)
    strip_width_mm = models.FloatField()
    strip_height_mm = models.FloatField()
    worst = models.JSONField(null=True)
    facts = models.JSONField()
    why = models.CharField(max_length=200)
    made_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+"
    )
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["line", "number"], name="revision_once_in_line")]
        ordering = ["line", "-number"]

    def __str__(self) -> str:
        return f"{self.line} r{self.number}"

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

    class Meta:
        constraints = [models.UniqueConstraint(fields=["revision", "code"], name="finding_once_in_revision")]
        ordering = ["revision", "place"]
        indexes = [models.Index(fields=["code", "level"], name="finding_by_code_and_level")]

    def __str__(self) -> str:
        return f"{self.code} {self.level}"


class Question(models.Model):
    """A change that a list asks for on a line that can't simply be changed: a person decides."""

    line = models.ForeignKey(OrderLine, on_delete=models.CASCADE, related_name="questions")
    order_list = models.ForeignKey(OrderList, on_delete=models.CASCADE, related_name="questions")
    row = models.PositiveIntegerField()
    cells = models.JSONField()
    said = models.JSONField()
    why = models.CharField(max_length=200)
    decided_at = models.DateTimeField(null=True)
    decided_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+"
    )
    taken = models.BooleanField(null=True)

    class Meta:
        ordering = ["-pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["line"], condition=Q(decided_at=None), name="one_open_question_a_line"
            )
        ]

    def __str__(self) -> str:
        return f"{self.line}: {self.why}"


class Event(models.Model):
    """Who did what, append-only."""

    at = models.DateTimeField(auto_now_add=True)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+")
    what = models.CharField(max_length=300)
    order_list = models.ForeignKey(OrderList, null=True, on_delete=models.SET_NULL, related_name="events")
    line = models.ForeignKey(OrderLine, null=True, on_delete=models.SET_NULL, related_name="events")

    class Meta:
        ordering = ["-at", "-pk"]

    def __str__(self) -> str:
        return self.what

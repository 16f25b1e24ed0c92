"""Order lists, their lines and pieces, what was set aside, and every revision of a line."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from functools import partial
from typing import Any, Self

from django.conf import settings
from django.contrib.postgres.indexes import GinIndex
from django.db import models
from django.db.models import Q
from django.urls import reverse

from kizami.artwork.shelf import EMPTY_SHELF, Shelf, fold_file_name
from kizami.pieces.adjustments import adjusted
from kizami.pieces.comparing import Received, received_of
from kizami.pieces.inputs import Inputs
from kizami.pieces.lines import inputs_of
from kizami.products.product import Product as ProductSpec
from kizami.wording.cleaning import Wording
from kizami.wording.field_rules import take_apart
from kizami.wording.order_list import LARGEST_QUANTITY
from kizami.wording.plan import Settled
from kizami.wording.settling import settle
from workshop.catalogue.models import OWN, Product, typeface_named
from workshop.orders.folding import line_text
from workshop.orders.reading import rule_of

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


#: Readings of a line's words that the bench offers, each for one key.
MOST_CANDIDATES = 4
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


class LogoQuerySet(models.QuerySet["Logo"]):
    """Table-level questions about logos."""

    def shelf(self, source_pk: int, names: Iterable[str]) -> Shelf:
        """The logos of a source that are called so; the content of each is fetched when it is needed."""
        folded = {fold_file_name(name) for name in names if name}
        if not folded:
            return EMPTY_SHELF
        rows = self.filter(source=source_pk, folded__in=folded).values_list(
            "pk", "folded", "name", "threshold"
        )
        return Shelf(
            files={
                folded: partial(_logo_content, pk, name, threshold) for pk, folded, name, threshold in rows
            }
        )


def _logo_content(pk: int, name: str, threshold: float | None) -> tuple[bytes, str, float | None]:
    return bytes(Logo.objects.values_list("data", flat=True).get(pk=pk)), name, threshold


class Logo(models.Model):
    """A logo file of a source, found by its name."""

    source = models.ForeignKey(Source, on_delete=models.PROTECT, related_name="logos")
    name = models.CharField(max_length=200)
    folded = models.CharField(max_length=200)
    data = models.BinaryField()
    digest = models.CharField(max_length=64)
    threshold = models.FloatField(null=True)
    notes = models.JSONField(default=list)
    received_at = models.DateTimeField(auto_now=True)
    received_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")

    objects = LogoQuerySet.as_manager()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["source", "folded"], name="logo_once_in_source")]
        ordering = ["name"]

    def __str__(self) -> str:
        return self.name


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
            "order_list__original", "revision__facts", "folded"
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
    open_question = models.TextField(blank=True)
    #: What may be meant, where the question leaves a choice.
    candidates = models.JSONField(default=list)
    rush = models.BooleanField(default=False)
    note = models.CharField(max_length=1100, blank=True)
    set_name = models.CharField(max_length=500, blank=True)
    set_height_mm = models.FloatField(null=True)
    quantity = models.PositiveIntegerField(default=1)
    due = models.DateField(null=True)
    customer = models.CharField(max_length=500, blank=True)
    typeface = models.CharField(max_length=500, blank=True)
    material = models.CharField(max_length=500, blank=True)
    finish = models.CharField(max_length=500, blank=True)
    logo = models.CharField(max_length=500, blank=True)
    choices = models.JSONField(default=dict)
    stage = models.CharField(max_length=8, choices=Stage, default=Stage.NEW)
    badness = models.FloatField(default=0.0)
    attempts = models.PositiveSmallIntegerField(default=0)
    #: Counted on with every change by a person or a list: a form drawn from an older one changes nothing.
    edition = models.PositiveIntegerField(default=1)
    revision = models.ForeignKey("Revision", null=True, on_delete=models.SET_NULL, related_name="+")
    #: What is searched, see `workshop.orders.folding`.
    folded = models.GeneratedField(expression=line_text(), output_field=models.TextField(), db_persist=True)

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
            GinIndex(fields=["folded"], name="line_by_trigrams", opclasses=["gin_trgm_ops"]),
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

    def to_inputs(self, wording: str | None = None, choices: Mapping[str, Any] | None = None) -> Inputs:
        """The core's inputs: as the line is kept, or with what somebody has just typed and chosen."""
        choices = self.choices if choices is None else choices
        product = adjusted(self.product.to_spec(), choices)
        if wording is None:
            kept = Wording(text=self.wording, original=self.wording_received)
            settled = Settled(wording=kept, open_question=self.open_question)
        else:
            settled = settle(wording, product.wording, typed=True)
        return inputs_of(
            product,
            settled,
            second=str(choices.get("second", self.second)),
            logo=self.logo,
            logos=Logo.objects.shelf(self.source_id, [self.logo]) if self.logo else EMPTY_SHELF,
            size=product.read_size(self.size),
            typeface=typeface_named(product.typeface) if product.typeface.startswith(OWN) else None,
            height_cap_mm=self.set_height_mm,
        )

    @property
    def second_now(self) -> str:
        """The second wording as the bench has it, or as it was received."""
        return str(self.choices.get("second", self.second))

    def to_product(self) -> ProductSpec:
        """The product as this line is set."""
        return adjusted(self.product.to_spec(), self.choices)

    def to_received(self) -> Received:
        """What lists have said of this line, for comparing."""
        return received_of(self, product=self.product.code, wording=self.wording_received)

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
    #: Every field at fault; none when it is the row as a whole.
    columns = models.JSONField(default=list)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["order_list", "row"], name="set_aside_row_once")]
        ordering = ["order_list", "row"]

    def __str__(self) -> str:
        return f"row {self.row}: {self.reason}"

    def word(self, column: str) -> str:
        """What stands in a field: in its own column, or in free text that was taken apart."""
        order_list = self.order_list
        name = order_list.columns.get(column, "")
        place = order_list.header.index(name) if name in order_list.header else -1
        if 0 <= place < len(self.cells) and self.cells[place].strip():
            return str(self.cells[place])
        wording = order_list.columns.get("wording", "")
        place = order_list.header.index(wording) if wording in order_list.header else -1
        rule = rule_of(order_list.rule)
        if rule is None or not 0 <= place < len(self.cells):
            return ""
        return take_apart(self.cells[place], rule).get(column, "")


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

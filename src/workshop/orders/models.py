"""Order lists as received, their lines and pieces, and who did what."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any, Self

from django.conf import settings
from django.contrib.postgres.indexes import GinIndex
from django.db import models
from django.db.models import Q
from django.db.models.expressions import RawSQL
from django.db.models.functions import Abs
from django.urls import reverse
from django.utils import timezone

from kizami.artwork.shelf import EMPTY_SHELF, Shelf, fold_file_name
from kizami.pieces.comparing import Received, received_of
from kizami.pieces.inputs import Inputs
from kizami.products.product import Product as ProductSpec
from kizami.setting.setting import Setting
from kizami.wording.order_list import LARGEST_QUANTITY
from workshop.artwork.models import Logo
from workshop.catalogue.models import Product
from workshop.files.models import StoredFile
from workshop.orders.folding import line_text
from workshop.orders.stages import ON_PAPER, Stage
from workshop.orders.state import LineState
from workshop.sources.models import Source

__all__ = ["Event", "KnownWord", "LineChanged", "OrderLine", "OrderList", "Piece", "mark_of"]

#: Held first, then what is still to make, then the rest.
_RANK = models.Case(
    models.When(stage=Stage.HELD, then=0),
    models.When(stage=Stage.NEW, then=1),
    default=2,
    output_field=models.IntegerField(),
)
#: What is sent already comes last.
_IS_SENT = models.Case(models.When(stage=Stage.SENT, then=1), default=0, output_field=models.IntegerField())
_DUE = models.F("due").asc(nulls_last=True)
#: Each an index too: the first page of a hundred thousand lines is read, not sorted.
_BOOK_ORDER = (_RANK, models.F("badness").desc(), models.F("rush").desc(), _DUE, "id")
_DATE_ORDER = (_IS_SENT, _DUE, models.F("rush").desc(), models.F("badness").desc(), "id")


class OrderList(models.Model):
    """One file or paste of orders, as received, with the way it was read."""

    source = models.ForeignKey(Source, on_delete=models.PROTECT, related_name="lists")
    name = models.CharField(max_length=200)
    #: None for what came without a file, say from a feed.
    file = models.ForeignKey(StoredFile, on_delete=models.PROTECT, null=True, related_name="+")
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
            ("export_customers", "May save lines with their customers"),
        ]

    def __str__(self) -> str:
        return self.name


def mark_of(edition: int, revision: int | None, stage: str, under_way: int) -> str:
    """What somebody has of a line is still true while this is the same: it changes with all that shows."""
    return f"{edition}.{revision or 0}.{stage.replace(' ', '-')}.{under_way}"


#: Lines that are shown beside another one.
_MOST_BESIDE = 8


@dataclass(frozen=True, kw_only=True, slots=True)
class HeldPlace:
    """Where a line stands among the held ones.

    Attributes
    ----------
    count : of all that are held
    place : from 1; 0 for a line that is not held
    following, preceding : keys of the next one and of the one before, None when there is no other
    """

    count: int
    place: int
    following: int | None
    preceding: int | None


class LineQuerySet(models.QuerySet["OrderLine"]):
    """Table-level questions about lines."""

    def in_book_order(self, *groups: Any, by_date: bool = False) -> Self:
        """Held first and the worst of them on top, then what is still to make, then the rest by date.

        Parameters
        ----------
        by_date : what is due first on top, however it stands; what is sent already comes last
        """
        return self.order_by(*groups, *(_DATE_ORDER if by_date else _BOOK_ORDER))

    def named(self, source: Source, names: Iterable[tuple[str, str]]) -> Self:
        """The lines of a source with these orders and numbers, as many as there are."""
        orders, numbers = [], []
        for order, number in names:
            orders.append(order)
            numbers.append(number)
        found = RawSQL(
            "SELECT line.id FROM orders_orderline AS line "
            "JOIN unnest(%s::text[], %s::text[]) AS named (of_order, number) "
            'ON line."order" = named.of_order AND line.line = named.number WHERE line.source_id = %s',
            [orders, numbers, source.pk],
        )
        return self.filter(pk__in=found)

    def worst_held(self) -> Self:
        """Held lines, the one furthest beyond a limit first; among equals the one that is due first."""
        return self.filter(stage=Stage.HELD).order_by("-badness", models.F("due").asc(nulls_last=True), "pk")

    def place_among_held(self, line: OrderLine) -> HeldPlace:
        """Where a line stands among the held ones, and which comes next; after the last comes the first."""
        held = self.worst_held()
        as_bad = Q(badness=line.badness)
        if line.due is None:
            sooner = Q(due__isnull=False) | Q(pk__lt=line.pk)
            later = Q(due__isnull=True, pk__gt=line.pk)
        else:
            sooner = Q(due__lt=line.due) | Q(due=line.due, pk__lt=line.pk)
            later = Q(due__gt=line.due) | Q(due__isnull=True) | Q(due=line.due, pk__gt=line.pk)
        is_held = line.stage == Stage.HELD
        others = held.exclude(pk=line.pk).values_list("pk", flat=True)
        after = others.filter(Q(badness__lt=line.badness) | (as_bad & later)).first() if is_held else None
        before = Q(badness__gt=line.badness) | (as_bad & sooner)
        return HeldPlace(
            count=held.count(),
            place=held.filter(before).count() + 1 if is_held else 0,
            following=after or others.first(),
            preceding=(others.filter(before).last() if is_held else None) or others.last(),
        )

    def heights_of_set(self, line: OrderLine) -> list[float]:
        """Heights that the other lines of its set stand at."""
        others = self.of_set(line).exclude(pk=line.pk).filter(revision__height_mm__gt=0.0)
        return list(others.values_list("revision__height_mm", flat=True)[:_MOST_BESIDE])

    def of_set(self, line: OrderLine) -> Self:
        """The lines of the same set and product, it among them."""
        return self.filter(
            source=line.source_id, order=line.order, set_name__iexact=line.set_name, product=line.product_id
        )

    def beside(self, line: OrderLine) -> list[OrderLine]:
        """The others of its set, or else of its order, nearest first, with what they look like."""
        rows = self.filter(source=line.source_id, order=line.order).exclude(pk=line.pk)
        if line.set_name:
            rows = self.of_set(line).exclude(pk=line.pk)
        near = rows.select_related("revision", "product").annotate(away=Abs(models.F("pk") - line.pk))
        return list(near.defer("revision__facts").order_by("away")[:_MOST_BESIDE])

    def lock_with_fellows(self, pk: int) -> OrderLine | None:
        """A line locked together with the lines of its set, in one order so that nobody waits in a ring."""
        line = self.filter(pk=pk).first()
        if line is None:
            return None
        fellows = [fellow.pk for fellow in line.fellows()]
        # Nowhere is the key itself locked: whoever stores a row that names this one would wait for it.
        rows = self.model.objects.select_for_update(of=("self",), no_key=True).select_related("product")
        return next((row for row in rows.filter(pk__in=fellows).order_by("pk") if row.pk == pk), None)

    def for_book(self) -> Self:
        """With all that the order book shows, in a fixed number of queries."""
        return self.select_related("product", "revision", "order_list").defer("revision__facts", "folded")


class OrderLine(models.Model):
    """One row of a list: product, size, wording, quantity, due date."""

    # Both stand first in an index below: another of their own would only slow down taking a list.
    source = models.ForeignKey(Source, on_delete=models.PROTECT, related_name="lines", db_index=False)
    order_list = models.ForeignKey(OrderList, on_delete=models.CASCADE, related_name="lines", db_index=False)
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
    #: Both follow from the line's pieces and are written by the database alone.
    stage = models.CharField(max_length=8, choices=Stage, default=Stage.NEW, editable=False)
    under_way = models.PositiveIntegerField(default=0, editable=False)
    badness = models.FloatField(default=0.0)
    attempts = models.PositiveSmallIntegerField(default=0)
    #: Counted on with every change by a person or a list: a form drawn from an older one changes nothing.
    edition = models.PositiveIntegerField(default=1)
    revision = models.ForeignKey("making.Revision", null=True, on_delete=models.SET_NULL, related_name="+")
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
            # With all that is counted over lines: the counts are read from here alone.
            models.Index(
                fields=["order_list", "stage"], include=["quantity", "due"], name="line_by_list_and_stage"
            ),
            models.Index(*_BOOK_ORDER, name="line_in_book_order"),
            models.Index(*_DATE_ORDER, name="line_in_date_order"),
            models.Index(fields=["stage", "-badness"], name="line_by_stage_and_badness"),
            GinIndex(fields=["folded"], name="line_by_trigrams", opclasses=["gin_trgm_ops"]),
        ]
        permissions = [
            ("change_wording", "May change the wording of a line"),
            ("override_checks", "May have a piece made although a check fails"),
        ]

    def __str__(self) -> str:
        return f"{self.order}-{self.line}"

    @property
    def on_paper(self) -> bool:
        """Whether a list may change the line freely: no piece of it is on its way."""
        return not self.under_way

    @property
    def changeable(self) -> bool:
        """Whether other words could still be made: some piece of it is on paper."""
        return self.under_way < self.quantity

    def get_absolute_url(self) -> str:
        """The line on the bench."""
        return reverse("bench:piece", args=[self.pk])

    @property
    def state(self) -> LineState:
        """What the line is made from, as it is kept."""
        return LineState.of(self)

    def to_inputs(self, state: LineState | None = None) -> Inputs:
        """The core's inputs: as the line is kept, or as somebody would have it."""
        state = self.state if state is None else state
        _, logos = self.logo_of(state)
        return state.to_inputs(logos=logos, height_cap_mm=self.set_height_mm)

    def logo_of(self, state: LineState) -> tuple[Logo | None, Shelf]:
        """The logo that the line is made with, and the shelf on which it is found.

        One that is out of use stays with the lines that were made with it, and comes to no other.
        """
        logo = Logo.objects.named(self.source_id, state.logo) if state.logo else None
        if logo is None:
            return None, EMPTY_SHELF
        if logo.retired_at is None or self._has_had(logo):
            return logo, logo.shelf()
        return None, logo.no_shelf()

    def _has_had(self, logo: Logo) -> bool:
        made = self.revision
        if made is None:
            # Taken in before, and not made yet. A feed's list grows for a day and says nothing of when.
            return self.order_list.file_id is not None and self.order_list.received_at < logo.retired_at
        return made.logo_file_id is not None and fold_file_name(made.logo) == logo.folded

    @property
    def is_late(self) -> bool:
        """Whether its day is over and it is not sent."""
        return self.due is not None and self.stage != Stage.SENT and self.due < timezone.localdate()

    @property
    def mark(self) -> str:
        """Tells whether a row on somebody's screen is still true."""
        return mark_of(self.edition, self.revision_id, self.stage, self.under_way)

    @property
    def setting(self) -> Setting:
        """How it is set otherwise than its product."""
        return Setting.from_table(self.choices)

    @property
    def second_now(self) -> str:
        """The second wording as the bench has it, or as it was received."""
        return self.setting.second_of(self.second)

    @property
    def size_now(self) -> str:
        """The size as the bench has it, or as it was received."""
        return self.setting.size or self.size

    def to_product(self) -> ProductSpec:
        """The product as this line is set."""
        return self.setting.on(self.product.to_spec())

    def to_received(self) -> Received:
        """What lists have said of this line, for comparing."""
        return received_of(self, product=self.product.code, wording=self.wording_received)

    def fellows(self) -> list[OrderLine]:
        """The lines of the same set, this one among them; lines of one product share a height."""
        if not self.set_name:
            return [self]
        rows = OrderLine.objects.of_set(self)
        return list(rows.select_related("product").order_by("pk"))


class KnownWord(models.Model):
    """A folded word that stands in a line, see `workshop.orders.known_words`."""

    word = models.CharField(max_length=40)

    class Meta:
        indexes = [models.Index(fields=["word"], name="known_word")]

    def __str__(self) -> str:
        return self.word


class LineChanged(models.Model):
    """That lines were changed, see `workshop.orders.standing`."""

    def __str__(self) -> str:
        return f"change {self.pk}"


class PieceQuerySet(models.QuerySet["Piece"]):
    """Table-level questions about pieces."""

    def on_paper(self) -> Self:
        """Those that may still be changed; nothing may be done to the others because of other words."""
        return self.filter(stage__in=ON_PAPER)

    def to_be_made(self) -> int:
        """Let those that are still on paper be made again."""
        return self.on_paper().update(stage=Stage.NEW)


class Piece(models.Model):
    """One physical object to be made."""

    #: It stands first in `piece_once_in_line`.
    line = models.ForeignKey(OrderLine, on_delete=models.CASCADE, related_name="pieces", db_index=False)
    number = models.PositiveIntegerField()
    stage = models.CharField(max_length=8, choices=Stage, default=Stage.NEW)
    #: What it is, or is to be, made from.
    revision = models.ForeignKey(
        "making.Revision", null=True, on_delete=models.PROTECT, related_name="pieces"
    )

    objects = PieceQuerySet.as_manager()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["line", "number"], name="piece_once_in_line"),
            models.CheckConstraint(condition=Q(stage__in=Stage.values), name="piece_stage_known"),
            models.CheckConstraint(
                condition=Q(stage=Stage.NEW) | Q(revision__isnull=False), name="piece_stands_on_a_revision"
            ),
        ]
        ordering = ["line", "number"]

    def __str__(self) -> str:
        return f"{self.line}-{self.number}"


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

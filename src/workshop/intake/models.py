"""Lists on trial, rows that could not be read, and changes that a person decides on."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from django.db.models import Q
from django.urls import reverse

from kizami.wording.field_rules import take_apart
from workshop.files.models import StoredFile
from workshop.intake.reading import rule_of
from workshop.orders.models import OrderLine, OrderList
from workshop.sources.models import Source

__all__ = ["Intake", "Question", "SetAsideRow"]


class Intake(models.Model):
    """A list on trial: read and compared, but nothing of it is in the order book yet."""

    source = models.ForeignKey(Source, on_delete=models.PROTECT, related_name="intakes")
    name = models.CharField(max_length=200)
    file = models.ForeignKey(StoredFile, on_delete=models.PROTECT, related_name="+")
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
        return reverse("intake:trial", args=[self.pk])


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

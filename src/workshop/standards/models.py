"""Processes and materials as the shop has changed or added them; those that ship stand in no table."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db import models
from django.db.models import Q

from kizami.processes import Material, Process
from kizami.standards import Standards, material_from_table, process_from_table, shipped_standards

__all__ = ["LONGEST_WHY", "SHORTEST_WHY", "Standard", "standard_from"]

#: A reason is a sentence: more than a sign.
SHORTEST_WHY, LONGEST_WHY = 8, 200


class StandardQuerySet(models.QuerySet["Standard"]):
    """Table-level questions about standards."""

    def current(self) -> StandardQuerySet:
        """The newest edition of each that the shop has changed or added."""
        return self.filter(is_current=True)

    def now(self) -> Standards:
        """Everything by code: the shop's own in the places of those that ship, its new ones after them."""
        return self.now_and_out_of_use()[0]

    def now_and_out_of_use(self) -> tuple[Standards, frozenset[str]]:
        """Everything by code, and the codes of those that no new product may have, in one question."""
        rows = list(self.current().order_by("pk"))
        specs = [row.to_spec() for row in rows]
        standards = shipped_standards().changed(
            processes=[spec for spec in specs if isinstance(spec, Process)],
            materials=[spec for spec in specs if isinstance(spec, Material)],
        )
        return standards, frozenset(row.code for row in rows if row.retired)

    def out_of_use(self) -> frozenset[str]:
        """Codes of those that no new product may have."""
        return frozenset(self.current().filter(retired=True).values_list("code", flat=True))


class Standard(models.Model):
    """One edition of a process or a material. Editions are never changed: what is kept is a new one."""

    class Kind(models.TextChoices):
        """What it is."""

        PROCESS = "process", "process"
        MATERIAL = "material", "material"

    kind = models.CharField(max_length=8, choices=Kind)
    code = models.CharField(max_length=40)
    number = models.PositiveIntegerField()
    #: See `kizami.standards`.
    table = models.JSONField()
    #: Products that have it keep it; no other may take it.
    retired = models.BooleanField(default=False)
    why = models.CharField(max_length=LONGEST_WHY)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    is_current = models.BooleanField(default=True)

    objects = StandardQuerySet.as_manager()

    class Meta:
        ordering = ["kind", "code", "-number"]
        constraints = [
            models.UniqueConstraint(fields=["kind", "code", "number"], name="standard_edition_once"),
            models.UniqueConstraint(
                fields=["kind", "code"], condition=Q(is_current=True), name="standard_one_current"
            ),
            models.CheckConstraint(condition=~Q(why=""), name="standard_has_a_reason"),
        ]
        permissions = [("change_standards", "May change limits and materials")]

    def __str__(self) -> str:
        return f"{self.code}, edition {self.number}"

    @property
    def name(self) -> str:
        """As it is called in the shop."""
        return str(self.table["name"])

    def to_spec(self) -> Process | Material:
        """As the core takes it."""
        return standard_from(self.kind, self.code, self.table)


def standard_from(kind: str, code: str, table: dict[str, Any]) -> Process | Material:
    """A process or a material from its table.

    Raises
    ------
    kizami.errors.CatalogueError : it can't be
    """
    read = process_from_table if kind == Standard.Kind.PROCESS else material_from_table
    return read(code, table)

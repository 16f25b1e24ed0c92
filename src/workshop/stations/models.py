"""Stations: machines and benches that take runs, as the shop has set them."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from django.conf import settings
from django.db import models
from django.db.models import Q

from kizami.runs.machine import Machine, machine_from_table, shipped_machines
from kizami.standards import Standards
from workshop.standards.models import LONGEST_WHY, Standard

__all__ = ["Station", "StationChange", "table_of"]


class StationQuerySet(models.QuerySet["Station"]):
    """Table-level questions about stations."""

    def in_use(self) -> StationQuerySet:
        """Those that take runs, in the order in which they are asked."""
        return self.filter(retired=False)

    def add_shipped(self) -> None:
        """The stations that ship, in a shop that has none."""
        if self.exists():
            return
        self.bulk_create(
            self.model(code=code, place=place, table=table_of(machine))
            for place, (code, machine) in enumerate(shipped_machines().items(), start=1)
        )


class Station(models.Model):
    """A machine with its bed, what it takes and how it is set."""

    code = models.CharField(max_length=40, unique=True)
    #: The first that takes a piece gets it.
    place = models.PositiveIntegerField()
    #: As a stations file has it, see `kizami.runs.machine`.
    table = models.JSONField()
    #: The ones that ship only stand in for a machine.
    simulated = models.BooleanField(default=True)
    retired = models.BooleanField(default=False)
    #: The highest number of a run that somebody took and gave up: it is never given again, as papers with it
    #: may lie about.
    last_run = models.PositiveIntegerField(default=0)
    edition = models.PositiveIntegerField(default=1)

    objects = StationQuerySet.as_manager()

    class Meta:
        ordering = ["place", "pk"]
        constraints = [
            models.CheckConstraint(
                condition=Q(code__regex=r"^[A-Z0-9][A-Z0-9-]{0,39}$"), name="station_code_is_one"
            )
        ]
        permissions = [("set_station", "May set stations")]

    def __str__(self) -> str:
        return self.code

    @property
    def name(self) -> str:
        """As it is called in the shop."""
        return str(self.table["name"])

    @property
    def kind(self) -> str:
        """What its runs are called."""
        return str(self.table["kind"])

    def to_machine(self, standards: Standards | None = None) -> Machine:
        """As the core takes it.

        Parameters
        ----------
        standards : what the shop holds to, where it is known already
        """
        return machine_from_table(self.code, self.table, standards=standards or Standard.objects.now())


class StationChange(models.Model):
    """How a station was set otherwise: what stood before and after, who, when and why; never changed."""

    station = models.ForeignKey(Station, on_delete=models.PROTECT, related_name="changes")
    #: The edition that it led to.
    number = models.PositiveIntegerField()
    before = models.JSONField()
    after = models.JSONField()
    retired_before = models.BooleanField()
    retired = models.BooleanField()
    why = models.CharField(max_length=LONGEST_WHY)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["station", "-number"]
        constraints = [
            models.UniqueConstraint(fields=["station", "number"], name="station_change_once"),
            models.CheckConstraint(condition=~Q(why=""), name="station_change_has_a_reason"),
        ]

    def __str__(self) -> str:
        return f"{self.station.code}, edition {self.number}"


def table_of(machine: Machine) -> dict[str, Any]:
    """A machine as plain data; reads back as the same machine.

    >>> from kizami.runs.machine import machine_from_table, shipped_machines
    >>> laser = shipped_machines()["LASER-1"]
    >>> machine_from_table("LASER-1", table_of(laser)) == laser
    True
    """
    table = asdict(machine)
    del table["code"]
    del table["standards"]
    table["kind"] = machine.kind.value
    table["operations"] = [
        {**operation, "work": operation["work"].value} for operation in table["operations"]
    ]
    for key in ("processes", "materials", "bed_mm"):
        table[key] = list(table[key])
    return table

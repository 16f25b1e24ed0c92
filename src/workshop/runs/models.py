"""Runs: what goes to a station together, which piece lies where, and what came of it."""

from __future__ import annotations

from typing import Any

import shapely
from django.conf import settings
from django.db import models
from django.db.models import Q
from django.urls import reverse

from kizami.runs.laying import Ground, ground_of
from kizami.runs.machine import Machine, machine_from_table
from workshop.files.models import StoredFile
from workshop.making.models import Revision
from workshop.orders.models import OrderLine, Piece
from workshop.standards.models import Standard
from workshop.stations.models import Station

__all__ = ["Gathering", "LyingShape", "Placement", "Remnant", "Run", "RunStep", "Standing", "reasons"]


class Standing(models.TextChoices):
    """How far a run is."""

    PROPOSED = "proposed", "proposed"
    OPEN = "open", "being laid out"
    LOCKED = "locked", "locked"
    MADE = "made", "made"


class LyingShape(models.Model):
    """How a piece lies and what it covers, measured once for all pieces with the same file."""

    #: Of its file, the way its lettering looks, and its tab; see `kizami.runs.taking_up.lying_mark`.
    sha256 = models.CharField(max_length=64, primary_key=True)
    height_mm = models.FloatField()
    volume_mm3 = models.FloatField()
    #: (12,): a turn row by row and a shift that lay the piece down.
    lying = models.JSONField()
    #: Corners of the outline from x = y = 0, mm.
    outline = models.JSONField()
    #: Of a pattern for sand: parting_mm, undercut_mm2 and slope_deg.
    mould = models.JSONField(null=True)
    #: That carries the code, within the outline; see `kizami.runs.coding.Tab`.
    tab = models.JSONField(null=True)

    def __str__(self) -> str:
        return self.sha256[:12]


class RemnantQuerySet(models.QuerySet["Remnant"]):
    """Table-level questions about remnants."""

    def in_stock(self) -> RemnantQuerySet:
        """Those that are still there, the oldest first."""
        return self.filter(gone=False).order_by("pk")


class Remnant(models.Model):
    """What is left of a sheet, kept as stock for the next run."""

    station = models.ForeignKey(Station, on_delete=models.PROTECT, related_name="remnants")
    material = models.CharField(max_length=60)
    thickness_mm = models.FloatField()
    #: Rings of what is no longer there, mm from the sheet's lower left corner.
    taken = models.JSONField()
    free_share = models.FloatField()
    made_from = models.CharField(max_length=60)
    made_at = models.DateTimeField(auto_now_add=True)
    gone = models.BooleanField(default=False)

    objects = RemnantQuerySet.as_manager()

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"remnant {self.pk} of {self.made_from}"

    @property
    def shape(self) -> shapely.Geometry:
        """What is no longer there."""
        return shapely.union_all([shapely.Polygon(ring) for ring in self.taken])


class RunQuerySet(models.QuerySet["Run"]):
    """Table-level questions about runs."""

    def proposed(self) -> RunQuerySet:
        """Those that nobody has taken yet."""
        return self.filter(standing=Standing.PROPOSED)

    def changeable(self) -> RunQuerySet:
        """Those that can still be changed."""
        return self.filter(standing__in=(Standing.PROPOSED, Standing.OPEN))

    def next_code(self, station: Station) -> str:
        """The code of the next run of a station: its own code, and a number above that of every run that is
        there or was ever taken. Only proposals that nobody took give their numbers back."""
        last = self.filter(station=station).order_by("-number").values_list("number", flat=True).first()
        taken = Station.objects.values_list("last_run", flat=True).get(pk=station.pk)
        return f"{station.code}-{max(last or 0, taken) + 1:04d}"


class Run(models.Model):
    """Pieces that go to one station together: a plate, a sheet, a tree, a sand box."""

    class Files(models.TextChoices):
        """How far its files are."""

        NONE = "none", "none"
        WAITING = "waiting", "waiting"
        WRITING = "writing", "being written"
        RELEASED = "released", "released"
        REFUSED = "refused", "not released"

    code = models.CharField(max_length=60, unique=True)
    number = models.PositiveIntegerField()
    station = models.ForeignKey(Station, on_delete=models.PROTECT, related_name="runs")
    #: The station as it was set when the run was laid out.
    machine = models.JSONField()
    material = models.CharField(max_length=60)
    thickness_mm = models.FloatField(default=0.0)
    standing = models.CharField(max_length=8, choices=Standing, default=Standing.PROPOSED)
    why = models.TextField()
    seed = models.IntegerField(default=0)
    edition = models.PositiveIntegerField(default=1)
    #: Sums, and what is told of it in words; see `workshop.runs.laying_down`.
    facts = models.JSONField(default=dict)
    made_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+"
    )
    made_at = models.DateTimeField(auto_now_add=True)
    locked_at = models.DateTimeField(null=True)
    files_state = models.CharField(max_length=8, choices=Files, default=Files.NONE)
    #: The used sheet that it is cut from; None for a whole one.
    remnant = models.ForeignKey(Remnant, null=True, on_delete=models.PROTECT, related_name="runs")
    #: In words: what is being done, or why the files are not released.
    files_said = models.CharField(max_length=500, blank=True)
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    attempts = models.PositiveSmallIntegerField(default=0)
    #: All its files as one zip, and what is in it.
    file = models.ForeignKey(StoredFile, null=True, on_delete=models.PROTECT, related_name="+")
    contents = models.JSONField(default=list)

    objects = RunQuerySet.as_manager()

    class Meta:
        ordering = ["-made_at", "-pk"]
        constraints = [
            models.UniqueConstraint(fields=["station", "number"], name="run_number_once"),
            models.UniqueConstraint(
                fields=["remnant"], condition=~Q(standing="made"), name="remnant_in_one_live_run"
            ),
            models.CheckConstraint(condition=Q(standing__in=Standing.values), name="run_standing_known"),
            models.CheckConstraint(
                condition=Q(files_state="released", standing__in=("locked", "made"))
                | (~Q(files_state="released") & Q(file=None)),
                name="run_files_belong_to_what_is_locked",
            ),
        ]
        permissions = [("plan_runs", "May take, change and lock runs")]

    def __str__(self) -> str:
        return self.code

    def get_absolute_url(self) -> str:
        """The run, drawn."""
        return reverse("runs:run", args=[self.code])

    def to_machine(self) -> Machine:
        """The station as it was set."""
        return machine_from_table(self.station.code, self.machine, standards=Standard.objects.now())

    def to_ground(self) -> Ground:
        """Where its pieces may lie."""
        taken = self.remnant.shape if self.remnant is not None else None
        return ground_of(self.to_machine(), taken=taken)

    @property
    def kind(self) -> str:
        """Plate, sheet, tree or sand box."""
        return str(self.machine["kind"])

    @property
    def is_tree(self) -> bool:
        """Whether its pieces hang."""
        return self.kind == "tree"

    @property
    def can_be_changed(self) -> bool:
        """Whether it is not locked yet."""
        return self.standing in (Standing.PROPOSED, Standing.OPEN)

    @property
    def notches(self) -> str:
        """The stage of its pieces, as their tickets are notched."""
        return {"locked": "in run", "made": "made"}.get(self.standing, "ready")

    @property
    def is_writing(self) -> bool:
        """Whether its files are still to come."""
        return self.files_state in (self.Files.WAITING, self.Files.WRITING)


class PlacementQuerySet(models.QuerySet["Placement"]):
    """Table-level questions about placements."""

    def live(self) -> PlacementQuerySet:
        """Those of pieces that are in their run now."""
        return self.filter(live=True)

    def with_pieces(self) -> PlacementQuerySet:
        """With all that a drawn run shows; each shape is read once, however many pieces have it."""
        rows = self.select_related("piece__line__product").prefetch_related("shape")
        return rows.defer(
            "piece__line__folded",
            "piece__line__changes",
            "piece__line__choices",
            "piece__line__product__table",
        ).order_by("place", "pk")

    def runs_of(self, line: OrderLine) -> list[str]:
        """Codes of the runs that somebody has taken and that pieces of a line lie in now."""
        rows = self.live().filter(piece__line=line).exclude(run__standing=Standing.PROPOSED)
        return list(rows.order_by("run__code").values_list("run__code", flat=True).distinct())


class Placement(models.Model):
    """A piece in a run: where it lies, and what became of it."""

    class Outcome(models.TextChoices):
        """What became of it; empty while nothing did."""

        LEFT = "left", "left the run"
        MADE = "made", "made"
        FAILED = "failed", "failed"

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="placements")
    piece = models.ForeignKey(Piece, on_delete=models.CASCADE, related_name="placements")
    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, related_name="+")
    shape = models.ForeignKey(LyingShape, on_delete=models.PROTECT, related_name="+")
    #: Its ticket code in this run's files.
    key = models.CharField(max_length=160)
    place = models.PositiveIntegerField(default=0)
    x_mm = models.FloatField(default=0.0)
    y_mm = models.FloatField(default=0.0)
    z_mm = models.FloatField(default=0.0)
    turn_deg = models.FloatField(default=0.0)
    #: On a tree: turn and shift of the piece, its feed and its level.
    hanging = models.JSONField(null=True)
    #: False once it is no longer in the run; a piece is live in one run at most.
    live = models.BooleanField(default=True)
    outcome = models.CharField(max_length=8, choices=Outcome, blank=True)
    why = models.CharField(max_length=200, blank=True)

    objects = PlacementQuerySet.as_manager()

    class Meta:
        ordering = ["run", "place", "pk"]
        constraints = [
            models.UniqueConstraint(fields=["piece"], condition=Q(live=True), name="piece_in_one_live_run"),
            models.UniqueConstraint(
                fields=["run", "key"], condition=Q(live=True), name="ticket_once_in_a_run"
            ),
            models.CheckConstraint(
                condition=Q(live=True, outcome="") | Q(live=False), name="placement_ends_with_its_outcome"
            ),
        ]

    def __str__(self) -> str:
        return f"{self.key} in {self.run_id}"


class RunStep(models.Model):
    """How a run lay before it was changed, so that the change can be taken back."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="steps")
    number = models.PositiveIntegerField()
    said = models.CharField(max_length=200)
    #: Rows of piece, place in the list, x, y, z, turn and hanging.
    before = models.JSONField()
    who = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["run", "-number"]
        constraints = [models.UniqueConstraint(fields=["run", "number"], name="run_step_once")]

    def __str__(self) -> str:
        return self.said


class Gathering(models.Model):
    """One look over all that is ready, with the runs that it proposes."""

    class State(models.TextChoices):
        """How far it is."""

        WAITING = "waiting", "waiting"
        WORKING = "working", "at work"
        DONE = "done", "done"
        FAILED = "failed", "failed"
        STOPPED = "stopped", "stopped"

    asked_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.PROTECT, related_name="+"
    )
    asked_at = models.DateTimeField(auto_now_add=True)
    seconds = models.PositiveIntegerField(default=0)
    seed = models.IntegerField(default=0)
    state = models.CharField(max_length=8, choices=State, default=State.WAITING)
    done = models.PositiveIntegerField(default=0)
    total = models.PositiveIntegerField(default=0)
    said = models.CharField(max_length=300, blank=True)
    #: The best bed so far, while it goes on; see `workshop.runs.rows.best_table`.
    best = models.JSONField(null=True)
    attempts = models.PositiveSmallIntegerField(default=0)
    #: Pieces that go into no run, each with the reason.
    waits = models.JSONField(default=list)

    class Meta:
        ordering = ["-pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["state"], condition=Q(state__in=("waiting",)), name="one_gathering_waits"
            )
        ]

    def __str__(self) -> str:
        return f"gathering {self.pk}"

    @property
    def is_going_on(self) -> bool:
        """Whether it is still at work."""
        return self.state in (self.State.WAITING, self.State.WORKING)


def reasons(waits: list[dict[str, Any]]) -> list[tuple[str, int]]:
    """Reasons for which pieces wait, with how many, the commonest first.

    >>> reasons([{"piece": 1, "why": "a"}, {"piece": 2, "why": "b"}, {"piece": 3, "why": "b"}])
    [('b', 2), ('a', 1)]
    """
    counted: dict[str, int] = {}
    for row in waits:
        counted[row["why"]] = counted.get(row["why"], 0) + 1
    return sorted(counted.items(), key=lambda row: -row[1])

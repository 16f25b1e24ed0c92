"""Ready pieces, proposals and released runs of a small shop."""

from __future__ import annotations

import pytest

from tests.workshop.runs.acts import LIST, change
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.orders.models import Piece
from workshop.orders.stages import Stage
from workshop.runs.gathering import ask_for_runs, gather_runs
from workshop.runs.models import Run
from workshop.runs.releasing import release_run
from workshop.stations.models import Station


@pytest.fixture
def ready(owner) -> None:
    """Nine ready pieces for a printer, a laser and a flask."""
    Station.objects.add_shipped()
    made = take_list(LIST.encode(), name="runs.csv", user=owner)
    make_list(made.pk)
    assert Piece.objects.filter(stage=Stage.READY).count() == 9


@pytest.fixture
def proposed(ready: None, owner) -> dict[str, Run]:
    """A run for each of the three."""
    gather_runs(ask_for_runs(user=owner).pk)
    return {run.kind: run for run in Run.objects.all()}


@pytest.fixture
def released(proposed: dict[str, Run], owner_client) -> dict[str, Run]:
    """All three locked and released."""
    for run in proposed.values():
        change(owner_client, run, "lock")
        release_run(run.pk)
        run.refresh_from_db()
        assert run.files_state == Run.Files.RELEASED, run.files_said
    return proposed

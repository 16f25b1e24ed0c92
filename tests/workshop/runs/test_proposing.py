"""Runs as they are proposed: for all that is ready, told in words, replaced until somebody takes them."""

from __future__ import annotations

import pytest
from django.urls import reverse

from tests.workshop.lists import HEADER
from tests.workshop.runs.acts import LIST, change, lay
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.orders.models import Piece
from workshop.orders.stages import Stage
from workshop.runs import gathering
from workshop.runs.gathering import ask_for_runs, gather_runs
from workshop.runs.models import Gathering, LyingShape, Placement, Run, Standing
from workshop.stations.models import Station

pytestmark = pytest.mark.django_db


def test_runs_are_proposed_for_all_that_is_ready(proposed: dict[str, Run], owner_client) -> None:
    assert {kind: len(lay(run)) for kind, run in proposed.items()} == {"plate": 3, "sheet": 3, "tree": 3}
    assert Gathering.objects.get().state == "done" and Gathering.objects.get().waits == []
    page = owner_client.get(reverse("runs:runs")).content.decode()
    for run in proposed.values():
        assert f'data-run="{run.code}"' in page
    assert 'data-count="free">0<' in page
    # Proposed is not taken: the pieces are ready still.
    assert set(Piece.objects.values_list("stage", flat=True)) == {Stage.READY}


def test_shapes_are_measured_once_for_equal_pieces(proposed: dict[str, Run], owner) -> None:
    assert LyingShape.objects.count() == 5
    before = set(LyingShape.objects.values_list("pk", flat=True))
    gather_runs(ask_for_runs(user=owner).pk)
    assert set(LyingShape.objects.values_list("pk", flat=True)) == before


def test_proposing_again_puts_new_proposals_in_the_place_of_old_ones_and_leaves_taken_runs(
    proposed: dict[str, Run], owner, owner_client
) -> None:
    change(owner_client, proposed["plate"], "take")
    before = {row.pk for row in lay(proposed["plate"])}
    gather_runs(ask_for_runs(user=owner).pk)
    assert {row.pk for row in lay(proposed["plate"])} == before
    assert Run.objects.filter(standing=Standing.OPEN).get().code == proposed["plate"].code
    assert Run.objects.proposed().count() == 2
    assert Placement.objects.live().count() == 9


def test_what_waits_is_told_with_its_reason(ready: None, owner, owner_client) -> None:
    Station.objects.exclude(code="RESIN-1").update(retired=True)
    gather_runs(ask_for_runs(user=owner).pk)
    assert len(Gathering.objects.get().waits) == 6
    page = owner_client.get(reverse("runs:runs")).content.decode()
    assert "No station makes laser cutting" in page and "<strong>3</strong> pieces" in page


def test_asking_twice_waits_once(ready: None, owner) -> None:
    assert ask_for_runs(user=owner) == ask_for_runs(user=owner)
    assert Gathering.objects.count() == 1


def test_a_gathering_that_is_stopped_changes_nothing(
    proposed: dict[str, Run], owner, owner_client, monkeypatch: pytest.MonkeyPatch
) -> None:
    before = set(Run.objects.values_list("pk", flat=True))
    asked = ask_for_runs(user=owner)
    monkeypatch.setattr(gathering, "_TELL_EVERY_S", 0.0)
    real = gathering.gather

    def stopping(*args, **kwargs):
        owner_client.post(reverse("runs:stop"))
        return real(*args, **kwargs)

    monkeypatch.setattr(gathering, "gather", stopping)
    gather_runs(asked.pk)
    assert Gathering.objects.get(pk=asked.pk).state == "stopped"
    assert set(Run.objects.values_list("pk", flat=True)) == before


def test_a_gathering_that_breaks_is_told_and_one_that_was_killed_begins_again(
    ready: None, owner, monkeypatch: pytest.MonkeyPatch
) -> None:
    asked = ask_for_runs(user=owner)

    def broken(*_, **__):
        raise RuntimeError("unforeseen")

    with monkeypatch.context() as patch:
        patch.setattr(gathering, "gather", broken)
        with pytest.raises(RuntimeError):
            gather_runs(asked.pk)
    asked.refresh_from_db()
    assert asked.state == "failed" and "on record" in asked.said
    # As a worker leaves it that was killed in the middle.
    Gathering.objects.filter(pk=asked.pk).update(state="working", attempts=1)
    gather_runs(asked.pk)
    asked.refresh_from_db()
    assert asked.state == "done" and Run.objects.count() == 3


def test_two_sources_with_the_same_order_numbers_have_tickets_of_their_own(ready: None, owner) -> None:
    other = take_list(LIST.encode(), name="b.csv", user=owner, source="Shop B")
    make_list(other.pk)
    gather_runs(ask_for_runs(user=owner).pk)
    for run in Run.objects.all():
        keys = [row.key for row in lay(run)]
        assert len(keys) == len(set(keys))
    assert Placement.objects.live().count() == 18


def test_a_page_asks_as_often_for_many_pieces_as_for_few(
    proposed: dict[str, Run], owner_client, owner, django_assert_max_num_queries
) -> None:
    many = take_list((HEADER + "Q1,1,SORREL-LEAF,,Ida,30,2027-01-20,Quay\n").encode(), name="m", user=owner)
    make_list(many.pk)
    gather_runs(ask_for_runs(user=owner).pk)
    run = Run.objects.get(station__code="LASER-1")
    assert len(lay(run)) == 33
    with django_assert_max_num_queries(22):
        owner_client.get(run.get_absolute_url())
    with django_assert_max_num_queries(16):
        owner_client.get(reverse("runs:runs"))


def test_the_number_of_a_taken_run_is_not_given_again(proposed: dict[str, Run], owner, owner_client) -> None:
    plate, sheet = proposed["plate"], proposed["sheet"]
    change(owner_client, plate, "take")
    change(owner_client, plate, "give-up")
    gather_runs(ask_for_runs(user=owner).pk)
    codes = set(Run.objects.values_list("code", flat=True))
    assert plate.code not in codes and f"RESIN-1-{plate.number + 1:04d}" in codes
    # Nobody had taken this one.
    assert sheet.code in codes


def test_the_best_bed_so_far_is_shown_while_the_work_goes_on(
    ready: None, owner, owner_client, monkeypatch: pytest.MonkeyPatch
) -> None:
    seen: list[str] = []
    keep = gathering.best_table

    def watching(best):
        seen.append(owner_client.get(reverse("runs:runs")).content.decode())
        return keep(best)

    monkeypatch.setattr(gathering, "best_table", watching)
    gather_runs(ask_for_runs(user=owner).pk)
    assert "data-best" not in seen[0] and "data-best" in seen[1]
    assert Gathering.objects.get().best["said"].startswith("bed 1: ")
    assert "data-best" not in owner_client.get(reverse("runs:runs")).content.decode()

"""Runs changed by hand, locked and marked off; and what the database holds, whoever asks."""

from __future__ import annotations

import pytest
from django.db import DatabaseError, IntegrityError, transaction
from django.urls import reverse

from tests.workshop.runs.acts import change, lay, move, stages
from workshop.making.keeping import change_wording
from workshop.making.tasks import make_list
from workshop.orders.models import Event, OrderLine, Piece
from workshop.orders.stages import Stage
from workshop.runs import changing
from workshop.runs.gathering import ask_for_runs, gather_runs
from workshop.runs.held import RunChangeError, changed_run
from workshop.runs.models import Placement, Run, Standing

pytestmark = pytest.mark.django_db


def test_a_piece_is_in_one_live_run_at_most(proposed: dict[str, Run]) -> None:
    row = lay(proposed["plate"])[0]
    with pytest.raises(IntegrityError), transaction.atomic():
        Placement.objects.create(
            run=proposed["sheet"], piece=row.piece, revision=row.revision, shape=row.shape, key="twice"
        )


@pytest.mark.parametrize("standing", [Standing.PROPOSED, Standing.OPEN])
def test_a_piece_that_is_changed_leaves_its_run_with_a_word(
    proposed: dict[str, Run], owner, owner_client, standing: Standing
) -> None:
    run = proposed["plate"]
    if standing == Standing.OPEN:
        change(owner_client, run, "take")
    line = OrderLine.objects.get(order="P1", line="1")
    change_wording(line.pk, "OTTO", edition=line.edition, user=owner)
    make_list(line.order_list_id)
    assert [row.piece.line.line for row in lay(run)] == ["2"]
    left = run.placements.filter(outcome="left")
    assert left.count() == 2 and "changed" in left[0].why
    told = Event.objects.filter(line=line, what__contains=f"Left run {run.code}")
    assert told.count() == (2 if standing == Standing.OPEN else 0)
    page = owner_client.get(run.get_absolute_url()).content.decode()
    assert page.count("data-left") == 2
    # Made again they are ready for another run.
    assert Piece.objects.filter(line=line, stage=Stage.READY).count() == 2


def test_a_locked_run_can_t_be_changed_by_anybody(proposed: dict[str, Run], owner, owner_client) -> None:
    run = proposed["plate"]
    change(owner_client, run, "lock")
    assert stages(run) == {Stage.IN_RUN}
    row = lay(run)[0]
    for wrong in (
        lambda: Placement.objects.filter(pk=row.pk).update(x_mm=50.0),
        lambda: Placement.objects.filter(pk=row.pk).delete(),
        lambda: Placement.objects.create(run=run, piece=lay(proposed["tree"])[0].piece, revision=row.revision,
                                         shape=row.shape, key="new", live=False, outcome="left"),
    ):  # fmt: skip
        with pytest.raises(DatabaseError, match="stays as it is"), transaction.atomic():
            wrong()
    change(owner_client, run, "out", piece=row.pk)
    assert "is locked and stays as it is" in owner_client.get(run.get_absolute_url()).content.decode()
    assert len(lay(run)) == 3
    line = OrderLine.objects.get(order="P1", line="2")
    assert not line.changeable


def test_a_piece_is_moved_turned_and_taken_back(proposed: dict[str, Run], owner_client) -> None:
    run = proposed["sheet"]
    row = lay(run)[-1]
    assert b"data-trouble" not in move(owner_client, run, [row], right="40.5", up="30").content
    run.refresh_from_db()
    moved = lay(run)[-1]
    assert (moved.x_mm, moved.y_mm) == pytest.approx((row.x_mm + 40.5, row.y_mm + 30))
    assert run.standing == Standing.OPEN, "whoever changes a proposal has taken it"
    move(owner_client, run, [row], turn="180")
    turned = lay(run)[-1]
    box = [max(p[k] for p in row.shape.outline) + min(p[k] for p in row.shape.outline) for k in (0, 1)]
    # Turned about its middle it covers the same room.
    assert (turned.x_mm - box[0], turned.y_mm - box[1]) == pytest.approx((moved.x_mm, moved.y_mm), abs=1e-3)
    change(owner_client, run, "back")
    change(owner_client, run, "back")
    back = lay(run)[-1]
    assert (back.x_mm, back.y_mm, back.turn_deg) == (row.x_mm, row.y_mm, row.turn_deg)
    with pytest.raises(RunChangeError, match="nothing to take back"), transaction.atomic():
        run.refresh_from_db()
        changing.take_back(changed_run(run.code, run.edition), user=run.made_by)


@pytest.mark.parametrize(
    ("by", "said"),
    [
        ({"right": "-100"}, "into the margin"),
        ({"right": "nan"}, "Nothing was moved"),
        ({"right": "1e9"}, "Nothing was moved"),
        ({"piece": "junk", "right": "1"}, "Nothing was moved"),
    ],
    ids=lambda value: str(value)[:20],
)
def test_a_move_that_can_t_be_is_refused_and_nothing_is_kept(
    proposed: dict[str, Run], owner_client, by: dict[str, str], said: str
) -> None:
    run, before = proposed["plate"], [(r.x_mm, r.y_mm) for r in lay(proposed["plate"])]
    answer = move(owner_client, run, lay(run)[:1], **by)
    assert said in answer.content.decode()
    assert [(r.x_mm, r.y_mm) for r in lay(run)] == before
    run.refresh_from_db()
    assert run.standing == Standing.PROPOSED and run.edition == 1


def test_pieces_never_come_to_lie_over_each_other(proposed: dict[str, Run], owner_client) -> None:
    run = proposed["sheet"]
    one, other = lay(run)[:2]
    answer = move(
        owner_client, run, [one], right=str(other.x_mm - one.x_mm + 2), up=str(other.y_mm - one.y_mm)
    )
    assert "lie over each other" in answer.content.decode()


def test_who_has_an_older_run_on_the_screen_changes_nothing(proposed: dict[str, Run], owner_client) -> None:
    run = proposed["plate"]
    change(owner_client, run, "take")
    sent = {"do": "give-up", "edition": 1}
    owner_client.post(reverse("runs:change", args=[run.code]), sent)
    assert Run.objects.filter(pk=run.pk).exists()
    owner_client.post(reverse("runs:change", args=["NO-SUCH-RUN"]), {"do": "give-up", "edition": 1})


def test_pieces_are_taken_out_and_put_in_again(proposed: dict[str, Run], owner_client) -> None:
    for kind in ("plate", "tree"):
        run = proposed[kind]
        gone = lay(run)[0]
        change(owner_client, run, "out", piece=gone.pk)
        assert len(lay(run)) == 2
        page = owner_client.get(run.get_absolute_url()).content.decode()
        assert f'name="waiting" value="{gone.piece_id}"' in page
        change(owner_client, run, "put-in", waiting=gone.piece_id)
        assert {row.piece_id for row in lay(run)} >= {gone.piece_id} and len(lay(run)) == 3
        run.refresh_from_db()
        assert run.facts["weight_g"] > 0


def test_only_pieces_of_the_station_and_material_go_in(proposed: dict[str, Run], owner_client) -> None:
    plate, tree = proposed["plate"], proposed["tree"]
    wrong = lay(tree)[0].piece_id
    change(owner_client, tree, "out", piece=lay(tree)[0].pk)
    change(owner_client, plate, "put-in", waiting=wrong)
    assert len(lay(plate)) == 3


def test_a_run_is_split_and_merged(proposed: dict[str, Run], owner_client) -> None:
    run = proposed["sheet"]
    apart = lay(run)[0]
    change(owner_client, run, "split", piece=apart.pk)
    other = Run.objects.filter(station=run.station).exclude(pk=run.pk).get()
    assert [row.piece_id for row in lay(other)] == [apart.piece_id] and len(lay(run)) == 2
    assert "Split off" in other.why
    change(owner_client, run, "merge", **{"with": other.code})
    assert len(lay(run)) == 3 and not Run.objects.filter(pk=other.pk).exists()
    # Runs of different stations never go together.
    change(owner_client, run, "merge", **{"with": proposed["plate"].code})
    assert len(lay(run)) == 3


def test_a_run_that_is_given_up_frees_its_pieces(proposed: dict[str, Run], owner_client) -> None:
    run = proposed["plate"]
    change(owner_client, run, "give-up")
    assert not Run.objects.filter(pk=run.pk).exists()
    assert 'data-count="free">3<' in owner_client.get(reverse("runs:runs")).content.decode()


def test_what_was_made_goes_on_and_what_failed_is_ready_again(released: dict[str, Run], owner_client) -> None:
    run = released["plate"]
    bad, *good = lay(run)
    sent = {"edition": run.edition, "piece": bad.pk, "why": "warped"}
    owner_client.post(reverse("runs:made", args=[run.code]), sent)
    assert {row.piece.stage for row in run.placements.filter(pk__in=[g.pk for g in good])} == {Stage.MADE}
    bad.refresh_from_db()
    assert (bad.piece.stage, bad.outcome, bad.why, bad.live) == (Stage.READY, "failed", "warped", False)
    assert Event.objects.filter(line=bad.piece.line, what__contains="failed in run").exists()
    run.refresh_from_db()
    assert run.standing == Standing.MADE
    page = owner_client.get(run.get_absolute_url()).content.decode()
    assert "failed: warped" in page
    # It is proposed again, for another run.
    gather_runs(ask_for_runs(user=None).pk)
    assert bad.piece.placements.live().get().run.standing == Standing.PROPOSED


def test_the_bench_says_in_which_run_a_piece_lies(proposed: dict[str, Run], owner_client) -> None:
    line = OrderLine.objects.get(order="P3", line="2")
    at = line.get_absolute_url()
    assert "data-in-run" not in owner_client.get(at).content.decode(), "a proposal binds nobody"
    change(owner_client, proposed["tree"], "lock")
    page = owner_client.get(at).content.decode()
    assert f">{proposed['tree'].code}</a>" in page


def test_what_is_put_into_a_lower_layer_stays_under_the_next(proposed: dict[str, Run], owner_client) -> None:
    run = proposed["plate"]
    rows = lay(run)
    # As if the station built in layers and another lay just above: what is 3 mm high finds no room below.
    Run.objects.filter(pk=run.pk).update(machine={**run.machine, "layers_gap_mm": 1.0})
    Placement.objects.filter(pk=rows[1].pk).update(z_mm=3.5)
    gone = rows[2]
    change(owner_client, run, "out", piece=gone.pk)
    change(owner_client, run, "put-in", waiting=gone.piece_id)
    assert gone.piece_id not in {row.piece_id for row in lay(run)}
    Placement.objects.filter(pk=rows[1].pk).update(z_mm=4.5)
    change(owner_client, run, "put-in", waiting=gone.piece_id)
    assert gone.piece_id in {row.piece_id for row in lay(run)}

"""Runs in the shop: proposed, taken, changed by hand, locked, released, marked off; and what the database holds."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path

import pytest
import shapely
import trimesh
from django.db import DatabaseError, IntegrityError, transaction
from django.urls import reverse

from kizami.runs.reading_back import Difference
from kizami.runs.release import Released
from tests.workshop.lists import HEADER
from workshop.files.errors import LostFileError
from workshop.files.models import StoredFile
from workshop.intake.taking import take_list
from workshop.making.keeping import change_wording
from workshop.making.tasks import make_list
from workshop.orders.models import Event, OrderLine, Piece
from workshop.orders.stages import Stage
from workshop.retention.services import forget
from workshop.runs import changing, gathering, releasing, remnants
from workshop.runs.gathering import ask_for_runs, gather_runs
from workshop.runs.held import RunChangeError, changed_run
from workshop.runs.models import Gathering, LyingShape, Placement, Remnant, Run, Standing
from workshop.runs.releasing import release_run
from workshop.runs.remnants import free_remnants
from workshop.runs.rows import outline_on_map
from workshop.stations.models import Station

pytestmark = pytest.mark.django_db
LIST = HEADER + (
    "P1,1,BUOY-FRAME,,OWEN,2,2027-01-10,Pia\n"
    "P1,2,BUOY-FRAME,,TILLY,1,2027-01-10,Pia\n"
    "P2,1,SORREL-LEAF,,Rosa,3,2027-01-20,Quay\n"
    "P3,1,CREW-TAG,,Halloran,2,2027-02-01,Ferry\n"
    "P3,2,CREW-TAG,,Lind,1,,Ferry\n"
)


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


def change(client, run: Run, do: str, **sent: object):
    run.refresh_from_db()
    return client.post(reverse("runs:change", args=[run.code]), {"do": do, "edition": run.edition, **sent})


def lay(run: Run) -> list[Placement]:
    return list(run.placements.live().order_by("place"))


def stages(run: Run) -> set[str]:
    return set(Piece.objects.filter(placements__run=run).values_list("stage", flat=True))


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


def move(client, run: Run, rows: list[Placement], **by: object):
    run.refresh_from_db()
    sent = {"edition": run.edition, "piece": [row.pk for row in rows], **by}
    return client.post(reverse("runs:move", args=[run.code]), sent, headers={"HX-Request": "true"})


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


@pytest.fixture
def released(proposed: dict[str, Run], owner_client) -> dict[str, Run]:
    """All three locked and released."""
    for run in proposed.values():
        change(owner_client, run, "lock")
        release_run(run.pk)
        run.refresh_from_db()
        assert run.files_state == Run.Files.RELEASED, run.files_said
    return proposed


def test_files_are_released_and_taken_away(released: dict[str, Run], owner_client) -> None:
    endings = {"plate": {"3mf", "stl", "glb"}, "sheet": {"svg", "dxf"}, "tree": {"3mf", "stl", "glb"}}
    for kind, run in released.items():
        answer = owner_client.get(reverse("runs:fetch", args=[run.code]))
        package = zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content)))
        assert package.testzip() is None
        names = set(package.namelist())
        assert {f"{run.code}.{ending}" for ending in endings[kind]} <= names
        assert {f"{run.code}-manifest.json", f"{run.code}-map.pdf", f"{run.code}-pieces.csv"} <= names
        name = f"{run.code}-pieces.csv"
        one = owner_client.get(reverse("runs:fetch-one", args=[run.code, name]))
        assert b"".join(one.streaming_content) == package.read(name)
        assert "attachment" in one["Content-Disposition"]
        assert owner_client.get(reverse("runs:fetch-one", args=[run.code, "other.csv"])).status_code == 404
        page = owner_client.get(run.get_absolute_url()).content.decode()
        assert "data-released" in page and ("data-solid" in page) == (kind != "sheet")


def test_releasing_twice_does_no_harm(released: dict[str, Run]) -> None:
    run = released["plate"]
    file = run.file_id
    release_run(run.pk)
    run.refresh_from_db()
    assert run.file_id == file and run.attempts == 1


def test_a_file_that_differs_is_not_released(
    proposed: dict[str, Run], owner_client, monkeypatch: pytest.MonkeyPatch
) -> None:
    run = proposed["plate"]
    change(owner_client, run, "lock")
    wrong = Difference(file="x.3mf", key="P1-1-1", message="it is mirrored")
    monkeypatch.setattr(releasing, "release", lambda *_, **__: Released(files=(), differences=(wrong,)))
    release_run(run.pk)
    run.refresh_from_db()
    assert run.files_state == Run.Files.REFUSED and "P1-1-1: it is mirrored" in run.files_said
    page = owner_client.get(run.get_absolute_url()).content.decode()
    assert "data-refused" in page and "data-released" not in page
    assert owner_client.get(reverse("runs:fetch", args=[run.code])).status_code == 404
    # Nothing of it can be marked off; opened again it can be locked anew.
    sent = {"edition": run.edition}
    owner_client.post(reverse("runs:made", args=[run.code]), sent)
    assert stages(run) == {Stage.IN_RUN}
    change(owner_client, run, "unlock")
    assert stages(run) == {Stage.READY}


def test_a_full_disk_leaves_nothing_half_done(
    proposed: dict[str, Run], owner_client, monkeypatch: pytest.MonkeyPatch
) -> None:
    run = proposed["plate"]
    change(owner_client, run, "lock")

    def full(*_, **__):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(Path, "write_bytes", full)
    before = StoredFile.objects.count()
    release_run(run.pk)
    run.refresh_from_db()
    assert run.files_state == Run.Files.REFUSED and "No space left" in run.files_said
    assert StoredFile.objects.count() == before


def test_a_worker_that_is_killed_while_writing_leaves_a_run_that_is_written_again(
    proposed: dict[str, Run], owner_client
) -> None:
    run = proposed["sheet"]
    change(owner_client, run, "lock")
    Run.objects.filter(pk=run.pk).update(files_state="writing", attempts=1)
    release_run(run.pk)
    run.refresh_from_db()
    assert run.files_state == Run.Files.RELEASED
    Run.objects.filter(pk=run.pk).update(files_state="writing", file=None, attempts=3)
    release_run(run.pk)
    run.refresh_from_db()
    assert run.files_state == Run.Files.REFUSED and "three times" in run.files_said


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


def test_a_run_that_is_opened_again_offers_no_files(released: dict[str, Run], owner_client) -> None:
    run = released["tree"]
    change(owner_client, run, "unlock")
    run.refresh_from_db()
    assert (run.standing, run.files_state, run.file_id) == (Standing.OPEN, Run.Files.NONE, None)
    assert owner_client.get(reverse("runs:fetch", args=[run.code])).status_code == 404


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


def test_stations_are_set_and_what_is_wrong_is_said(ready: None, owner_client) -> None:
    station = Station.objects.get(code="LASER-1")
    page = owner_client.get(reverse("stations:station", args=["LASER-1"])).content.decode()
    assert 'name="kerf_mm"' in page and 'name="sprue_mm"' not in page and 'name="operation_colour"' in page
    table = station.table
    sent = {
        "edition": station.edition, "name": "Laser two", "bed_x": "300", "bed_y": "200,5", "bed_z": "9",
        "margin_mm": "5", "spacing_mm": "2", "processes": ["laser-ply"], "materials": ["birch-plywood"],
        "operation_work": ["cut", ""], "operation_name": ["Kontur", ""], "operation_colour": ["#00FF00", "#16201c"],
        "operation_material": ["", ""], "operation_power_percent": ["55", "50"], "operation_thickness_mm": ["3", ""],
        "operation_speed_mm_s": ["12", "20"], "operation_passes": ["2", "1"], "operation_focus_mm": ["-0.5", ""],
        "operation_spacing_mm": ["0.1", ""],
    }  # fmt: skip
    keep = reverse("stations:keep", args=["LASER-1"])
    assert owner_client.post(keep, {**sent, "margin_mm": "150"}).status_code == 422
    assert "is no number" in owner_client.post(keep, {**sent, "kerf_mm": "wide"}).content.decode()
    station.refresh_from_db()
    assert station.table == table
    owner_client.post(keep, sent)
    station.refresh_from_db()
    machine = station.to_machine()
    assert machine.bed_mm == (300.0, 200.5, 9.0) and machine.name == "Laser two"
    (cut,) = machine.operations
    assert (cut.name, cut.colour, cut.passes, cut.focus_mm) == ("Kontur", "#00ff00", 2, -0.5)
    assert "while you had it open" in owner_client.post(keep, sent).content.decode()


def test_a_station_is_added_once(ready: None, owner_client) -> None:
    add = reverse("stations:add")
    owner_client.post(add, {"code": "laser-9", "kind": "sheet", "name": "New"})
    assert Station.objects.get(code="LASER-9").kind == "sheet"
    count = Station.objects.count()
    for sent in (
        {"code": "LASER-9", "kind": "sheet"},
        {"code": "!", "kind": "sheet"},
        {"code": "X", "kind": "oven"},
    ):
        owner_client.post(add, sent)
    assert Station.objects.count() == count


def test_a_station_that_has_changed_leaves_runs_as_they_were_laid(proposed: dict[str, Run]) -> None:
    run = proposed["plate"]
    Station.objects.filter(pk=run.station_id).update(
        table={**run.station.table, "bed_mm": [50, 50, 50], "name": "smaller"}
    )
    assert Run.objects.get(pk=run.pk).to_machine().bed_mm == (140.0, 80.0, 160.0)


def test_files_of_runs_go_when_a_customer_is_forgotten(released: dict[str, Run], owner, owner_client) -> None:
    run = released["plate"]
    file = StoredFile.objects.get(pk=run.file_id)
    owner_client.post(reverse("runs:made", args=[run.code]), {"edition": run.edition})
    Piece.objects.filter(placements__run=run).update(stage=Stage.SENT)
    forget(OrderLine.objects.get(order="P1", line="1").source, "Pia", user=owner)
    run.refresh_from_db()
    assert (run.file_id, run.contents, run.standing) == (None, [], Standing.MADE)
    assert not StoredFile.objects.filter(pk=file.pk).exists()
    with pytest.raises(LostFileError):
        file.read()
    page = owner_client.get(run.get_absolute_url()).content.decode()
    assert "OWEN" not in page and "TILLY" not in page
    assert Run.objects.get(pk=released["tree"].pk).file_id is not None


def test_the_bench_says_in_which_run_a_piece_lies(proposed: dict[str, Run], owner_client) -> None:
    line = OrderLine.objects.get(order="P3", line="2")
    at = line.get_absolute_url()
    assert "data-in-run" not in owner_client.get(at).content.decode(), "a proposal binds nobody"
    change(owner_client, proposed["tree"], "lock")
    page = owner_client.get(at).content.decode()
    assert f">{proposed['tree'].code}</a>" in page


def test_what_is_left_of_a_sheet_is_laid_on_before_a_new_one(
    released: dict[str, Run], owner, owner_client
) -> None:
    first = released["sheet"]
    rows = lay(first)
    owner_client.post(reverse("runs:made", args=[first.code]), {"edition": first.edition})
    remnant = Remnant.objects.get()
    assert remnant.made_from == first.code and 0.85 < remnant.free_share < 1.0
    used = shapely.union_all([outline_on_map(first, row) for row in rows])
    assert remnant.shape.buffer(1e-6).covers(used)

    more = take_list((HEADER + "Q1,1,SORREL-LEAF,,Ida,5,2027-01-20,Quay\n").encode(), name="m", user=owner)
    make_list(more.pk)
    gather_runs(ask_for_runs(user=owner).pk)
    run = Run.objects.get(remnant=remnant)
    assert first.code in run.why and len(lay(run)) == 5
    gap = min(outline_on_map(run, row).distance(used) for row in lay(run))
    assert gap >= run.machine["spacing_mm"]
    assert "k-taken" in owner_client.get(run.get_absolute_url()).content.decode()

    # By hand nothing comes to lie where the sheet is used up.
    row = lay(run)[0]
    answer = move(
        owner_client, run, [row], right=str(rows[0].x_mm - row.x_mm), up=str(rows[0].y_mm - row.y_mm)
    )
    assert "used up" in answer.content.decode()

    # While somebody has it, it is nobody else's; made, it gives way to what is left then.
    change(owner_client, run, "lock")
    assert free_remnants(run.station, run.material, run.thickness_mm) == []
    release_run(run.pk)
    run.refresh_from_db()
    assert run.files_state == Run.Files.RELEASED, run.files_said
    owner_client.post(reverse("runs:made", args=[run.code]), {"edition": run.edition})
    remnant.refresh_from_db()
    (left,) = Remnant.objects.in_stock()
    assert remnant.gone and left.free_share < remnant.free_share
    assert left.shape.buffer(0.5).covers(remnant.shape)


def test_too_little_of_a_sheet_is_not_kept(
    released: dict[str, Run], owner_client, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(remnants, "LEAST_SHARE", 0.99)
    run = released["sheet"]
    owner_client.post(reverse("runs:made", args=[run.code]), {"edition": run.edition})
    assert not Remnant.objects.exists()


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


def streamed(client, run: Run, edition: int) -> bytes | None:
    answer = client.get(reverse("runs:look", args=[run.code, edition]))
    return None if answer.status_code == 404 else b"".join(answer.streaming_content)


def bodies(stl: bytes) -> list[trimesh.Trimesh]:
    """The count in its head is left open."""
    whole = stl[:80] + ((len(stl) - 84) // 50).to_bytes(4, "little") + stl[84:]
    mesh = trimesh.load_mesh(io.BytesIO(whole), file_type="stl")
    return list(mesh.split(only_watertight=True))


def test_a_run_is_looked_at_in_space_before_it_is_locked(proposed: dict[str, Run], owner_client) -> None:
    plate, tree, sheet = (proposed[kind] for kind in ("plate", "tree", "sheet"))
    stl = streamed(owner_client, plate, plate.edition)
    assert stl is not None
    found = bodies(stl)
    volumes = sorted(row.shape.volume_mm3 for row in lay(plate))
    assert sorted(body.volume for body in found) == pytest.approx(volumes, rel=1e-3)
    for row, body in zip(lay(plate), found, strict=True):
        low_x, low_y, high_x, high_y = outline_on_map(plate, row).bounds
        assert body.bounds[0] == pytest.approx([low_x, low_y, 0.0], abs=0.1)
        assert body.bounds[1][:2] == pytest.approx([high_x, high_y], abs=0.1)
    # Of a tree also the sprue with its button, and a feed for each piece.
    hung = streamed(owner_client, tree, tree.edition)
    assert hung is not None and len(bodies(hung)) == 2 * len(lay(tree)) + 1
    assert streamed(owner_client, sheet, sheet.edition) is None
    assert streamed(owner_client, plate, plate.edition + 1) is None


def test_the_view_in_space_stays_while_the_run_is_changed(proposed: dict[str, Run], owner_client) -> None:
    plate = proposed["plate"]
    address = plate.get_absolute_url()
    assert "data-solid" not in owner_client.get(address).content.decode()
    page = owner_client.get(address, {"look": "1"}).content.decode()
    assert f'data-solid="{reverse("runs:look", args=[plate.code, plate.edition])}"' in page
    changed = move(owner_client, plate, lay(plate)[:1], right="0.01", look="1").content.decode()
    assert f'data-solid="{reverse("runs:look", args=[plate.code, plate.edition + 1])}"' in changed


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


def test_pieces_carry_their_codes_where_their_product_asks(shop, owner, owner_client) -> None:
    Station.objects.add_shipped()
    orders = HEADER + (
        "C1,1,BERTH-SIGN,,Nadia,2,,Pia\nC1,2,GUEST-PLATE,,Harbour,1,,Pia\nC1,3,TALLY-BAND,54,Oda,1,,Pia\n"
    )
    make_list(take_list(orders.encode(), name="codes.csv", user=owner).pk)
    gather_runs(ask_for_runs(user=owner).pk)
    codes: dict[str, str] = {}
    for run in Run.objects.all():
        change(owner_client, run, "lock")
        release_run(run.pk)
        run.refresh_from_db()
        assert run.files_state == Run.Files.RELEASED, run.files_said
        with zipfile.ZipFile(io.BytesIO(run.file.read())) as package:
            table = package.read(f"{run.code}-pieces.csv").decode("utf-8-sig").splitlines()
        column = table[0].split(",").index("code on it")
        codes |= {row.split(",")[1]: row.split(",")[column] for row in table[1:]}
    ready = set(Placement.objects.values_list("key", flat=True))
    assert set(codes) == ready, codes
    by_line = {line: codes.get(f"C1-{line}-1", codes.get(f"C1-{line}")) for line in ("1", "2", "3")}
    # A tab bears the whole code, a plate's back too; a flag on a feed the place in the tree.
    assert by_line["1"] and by_line["1"].startswith("C1-1"), codes
    assert by_line["2"] and by_line["2"].startswith("C1-2")
    assert by_line["3"] and by_line["3"].isdigit()
    # Two of one line lie with tabs of their own.
    shapes = Placement.objects.filter(key__startswith="C1-1").values_list("shape__tab", flat=True)
    assert len(shapes) == 2 and all(shapes)

"""What is written of a run: released, refused, looked at, with codes, and gone when it must go."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path

import pytest
import trimesh
from django.urls import reverse

from kizami.runs.reading_back import Difference
from kizami.runs.release import Released
from tests.workshop.lists import HEADER
from tests.workshop.runs.acts import change, lay, move, stages
from workshop.files.errors import LostFileError
from workshop.files.models import StoredFile
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine, Piece
from workshop.orders.stages import Stage
from workshop.retention.services import forget
from workshop.runs import releasing
from workshop.runs.gathering import ask_for_runs, gather_runs
from workshop.runs.models import Placement, Run, Standing
from workshop.runs.releasing import release_run
from workshop.runs.rows import outline_on_map
from workshop.stations.models import Station

pytestmark = pytest.mark.django_db


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


def test_a_run_that_is_opened_again_offers_no_files(released: dict[str, Run], owner_client) -> None:
    run = released["tree"]
    change(owner_client, run, "unlock")
    run.refresh_from_db()
    assert (run.standing, run.files_state, run.file_id) == (Standing.OPEN, Run.Files.NONE, None)
    assert owner_client.get(reverse("runs:fetch", args=[run.code])).status_code == 404


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

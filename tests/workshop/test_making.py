"""Making in the background: idempotent, shared between workers, safe against kills."""

from __future__ import annotations

import signal
from pathlib import Path

import pytest
from django.core.files.storage import default_storage
from django.db import transaction

from tests.workshop.lists import HEADER, MIXED
from tests.workshop.workers import started_worker, wait_until, worker
from workshop.book.book import Progress
from workshop.files.models import StoredFile
from workshop.intake.taking import take_list
from workshop.making.keeping import change_wording
from workshop.making.made_files import file_of
from workshop.making.many import stop_list
from workshop.making.models import Finding, Revision
from workshop.making.tasks import make_list, take_up_again
from workshop.orders.models import OrderLine, OrderList, Piece
from workshop.orders.stages import Stage


@pytest.fixture
def mixed(owner) -> OrderList:
    return take_list(MIXED.encode(), name="mixed.csv", user=owner)


def stages(order_list: OrderList) -> dict[str, str]:
    return {str(line): line.stage for line in order_list.lines.all()}


@pytest.mark.django_db
def test_a_job_makes_every_line_once(mixed: OrderList) -> None:
    assert make_list(mixed.pk) == 4
    assert stages(mixed) == {"A1-1": "ready", "A1-2": "held", "A2-1": "ready", "A2-2": "held"}
    assert make_list(mixed.pk) == 0
    assert Revision.objects.count() == 4
    assert Piece.objects.filter(stage=Stage.READY).count() == 4


@pytest.mark.django_db
def test_findings_are_stored_as_measured(mixed: OrderList) -> None:
    make_list(mixed.pk)
    found = Finding.objects.get(revision__line__line="2", revision__line__order="A1", code="lowest-height")
    assert (found.level, found.limit, found.unit) == ("fails", 3.6, "mm")
    assert found.measured < 3.6
    line = OrderLine.objects.get(order="A1", line="2")
    assert line.badness > 0
    assert line.revision.worst["level"] == "fails"


@pytest.mark.django_db
def test_a_stopped_list_stays_as_it_is_until_it_goes_on(mixed: OrderList, owner) -> None:
    stop_list(mixed, user=owner, stop=True)
    assert make_list(mixed.pk) == 0
    assert take_up_again(0) == 0
    stop_list(mixed, user=owner, stop=False)
    assert make_list(mixed.pk) == 4


@pytest.mark.django_db
def test_lists_without_a_job_are_taken_up_again(mixed: OrderList) -> None:
    from django.db import connection
    from procrastinate.contrib.django.models import ProcrastinateJob

    # A database restored from a copy, say: lines but no jobs.
    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM procrastinate_jobs")
    assert take_up_again(0) == 1
    assert ProcrastinateJob.objects.filter(task_name="make_list", status="todo").exists()
    make_list(mixed.pk)
    assert take_up_again(1) == 0


@pytest.mark.django_db
def test_a_line_that_ends_its_worker_again_and_again_is_held(mixed: OrderList, monkeypatch) -> None:
    def fatal(*_: object, **__: object) -> None:
        raise KeyboardInterrupt

    monkeypatch.setattr("workshop.making.tasks.make_line", fatal)
    for _ in range(12):
        with pytest.raises(KeyboardInterrupt):
            make_list(mixed.pk)
    assert make_list(mixed.pk) == 4
    assert set(stages(mixed).values()) == {"held"}
    assert OrderLine.objects.first().revision.worst["code"] == "made"


@pytest.mark.django_db
def test_progress_tells_done_of_total(mixed: OrderList) -> None:
    (before,) = Progress.running()
    assert (before.done, before.total, before.percent) == (0, 4, 0)
    make_list(mixed.pk)
    assert Progress.running() == []


@pytest.mark.django_db
def test_changing_the_wording_makes_the_line_again_and_keeps_history(mixed: OrderList, owner) -> None:
    make_list(mixed.pk)
    line = OrderLine.objects.get(order="A1", line="2")
    change_wording(line.pk, "  Max ", user=owner)
    line.refresh_from_db()
    assert (line.wording, line.stage, line.badness) == ("Max", "ready", 0.0)
    assert line.wording_received == "Maximilian-Alexander Theodor"
    assert [r.wording for r in line.revisions.all()] == ["Max", "Maximilian-Alexander Theodor"]
    assert line.revisions.first().made_by == owner
    assert set(line.pieces.values_list("stage", flat=True)) == {"ready"}


@pytest.mark.django_db
@pytest.mark.parametrize("damage", ["missing", "cut short", "overwritten"])
def test_a_damaged_file_is_made_again_with_the_same_bytes(mixed: OrderList, damage: str) -> None:
    make_list(mixed.pk)
    line = OrderLine.objects.get(order="A1", line="1")
    revision = line.revision
    wanted = revision.facts["files"]
    whole = file_of(revision.to_inputs(), "stl", wanted)
    path = default_storage.path(StoredFile.objects.get(sha256=wanted["stl"]["sha256"]).path)
    if damage == "missing":
        default_storage.delete(path)
    else:
        with open(path, "r+b") as file:
            file.truncate(1000) if damage == "cut short" else file.write(b"rubbish")
    assert file_of(revision.to_inputs(), "stl", wanted) == whole
    assert Path(path).stat().st_size == len(whole)
    assert len(whole) == wanted["stl"]["size"]


@pytest.mark.django_db
def test_asking_twice_does_not_queue_twice_nor_break_the_transaction(mixed: OrderList) -> None:
    from procrastinate.contrib.django.models import ProcrastinateJob

    from workshop.jobs.queue import defer_making

    before = ProcrastinateJob.objects.count()
    with transaction.atomic():
        defer_making(mixed.pk)
        assert OrderLine.objects.count() == 4
    assert ProcrastinateJob.objects.count() == before


def test_background_work_comes_round_every_few_seconds() -> None:
    """The seconds of a schedule stand last; in the first place they would be minutes."""
    from procrastinate.contrib.django import app

    pauses = {}
    for task in app.periodic_registry.periodic_tasks.values():
        first = task.croniter.get_next(start_time=1_800_000_000.0)
        pauses[task.task.name] = task.croniter.get_next(start_time=first) - first
    assert pauses == {
        "take_up_again": 10.0,
        "hear_feeds": 15.0,
        "clear_stalled": 20.0,
        "forget_bundles": 3600.0,
        "take_up_parcels": 30.0,
        "take_up_typefaces": 30.0,
    }


@pytest.mark.django_db(transaction=True)
def test_a_killed_worker_loses_nothing_and_repeats_nothing(shop, owner, worker_environment) -> None:
    from procrastinate.contrib.django.models import ProcrastinateJob

    text = HEADER + "".join(f"K,{i},CREW-TAG,,Name {i},1,,\n" for i in range(60))
    order_list = take_list(text.encode(), name="kill.csv", user=owner)
    done = order_list.lines.exclude(stage=Stage.NEW)
    first = started_worker(worker_environment)
    try:
        wait_until(lambda: done.count() >= 5)
    finally:
        first.send_signal(signal.SIGKILL)
        first.wait()
    killed_at = done.count()
    assert killed_at < 60
    with worker(worker_environment):
        wait_until(lambda: done.count() == 60)
        # The killed worker's job does not stay behind as running for ever.
        running = ProcrastinateJob.objects.filter(status="doing", task_name="make_list")
        wait_until(lambda: not running.exists(), seconds=75)
    assert Revision.objects.filter(line__order_list=order_list).count() == 60
    assert set(order_list.lines.values_list("stage", flat=True)) == {"ready"}


@pytest.mark.django_db
def test_a_long_list_gives_others_their_turn_and_goes_on_behind_them(mixed: OrderList) -> None:
    from django.db import connection
    from procrastinate.contrib.django.models import ProcrastinateJob

    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM procrastinate_jobs")
    assert make_list(mixed.pk, turn_s=0.0) == 1
    jobs = list(ProcrastinateJob.objects.filter(task_name="make_list", status="todo"))
    assert jobs and all(job.args["order_list_pk"] == mixed.pk and job.args["turn_s"] > 0 for job in jobs)
    while make_list(mixed.pk, turn_s=0.0):
        pass
    assert Piece.objects.exclude(stage=Stage.NEW).count() == 6

"""Files to take away: packed in the background, whole or not there, bounded, kept for a while."""

from __future__ import annotations

import datetime as dt
import io
import zipfile

import pytest
from django.core.files.storage import default_storage
from django.urls import reverse
from django.utils import timezone

from tests.workshop.drawn import send_on, ticked
from tests.workshop.lists import HEADER, MIXED
from workshop.book import bundles
from workshop.book.bundles import BundleError, ask_for_bundle, forget_past_bundles, pack
from workshop.book.models import KEPT_DAYS, Bundle
from workshop.files.models import Kind, StoredFile
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine, OrderList
from workshop.orders.stages import Stage

pytestmark = pytest.mark.django_db
ASK, SHOWN = reverse("book:ask-bundle"), reverse("book:bundles")


@pytest.fixture
def mixed(owner) -> OrderList:
    made = take_list(MIXED.encode(), name="mixed.csv", user=owner)
    make_list(made.pk)
    return made


def fetched(client, bundle: Bundle) -> zipfile.ZipFile:
    answer = client.get(reverse("book:fetch-bundle", args=[bundle.pk]))
    return zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content)))


def asked(client, **sent: object) -> Bundle:
    answer = client.post(ASK, sent)
    assert answer.url == SHOWN
    return Bundle.objects.first()


def test_a_bundle_is_asked_for_packed_and_taken_away(owner_client, mixed: OrderList) -> None:
    bundle = asked(owner_client)
    page = owner_client.get(SHOWN).content.decode()
    assert 'data-bundle="waiting"' in page and "every 1s" in page and "data-fetch" not in page
    assert owner_client.get(reverse("book:fetch-bundle", args=[bundle.pk])).status_code == 404
    pack(bundle.pk)
    page = owner_client.get(SHOWN).content.decode()
    assert 'data-bundle="whole"' in page and "every 1s" not in page and "4 pieces" in page
    found = fetched(owner_client, bundle)
    assert found.testzip() is None
    assert {name for name in found.namelist() if name.endswith(".stl")} == {
        "pieces/A1-1 Ottoline 1.stl", "pieces/A2-1 Halloran 1.stl", "pieces/A2-1 Halloran 2.stl",
        "pieces/A2-1 Halloran 3.stl",
    }  # fmt: skip
    table = found.read("pieces.csv").decode("utf-8-sig")
    assert table.count("\r\n") == 5 and "Halloran 3.stl" in table
    line = OrderLine.objects.get(order="A1", line="1")
    known = line.revision.facts["files"]["stl"]["sha256"]
    assert found.read("pieces/A1-1 Ottoline 1.stl") == StoredFile.objects.get(sha256=known).read()


def test_it_follows_the_view_or_the_lines_that_are_ticked(owner_client, mixed: OrderList) -> None:
    bundle = asked(owner_client, q="halloran")
    pack(bundle.pk)
    assert {n.split("-")[0] for n in fetched(owner_client, bundle).namelist() if "/" in n} == {"pieces/A2"}
    chosen = OrderLine.objects.get(order="A1", line="1")
    bundle = asked(owner_client, q="halloran", line=[ticked(chosen), "junk"])
    pack(bundle.pk)
    assert {n.split("-")[0] for n in fetched(owner_client, bundle).namelist() if "/" in n} == {"pieces/A1"}


def test_shops_with_the_same_order_numbers_and_words_do_not_overwrite_each_other(
    owner_client, owner, mixed: OrderList
) -> None:
    other = take_list(MIXED.encode(), name="b", user=owner, source="Shop B")
    make_list(other.pk)
    bundle = asked(owner_client)
    pack(bundle.pk)
    names = fetched(owner_client, bundle).namelist()
    assert len(names) == len(set(names))
    assert sum(name.endswith("A1-1 Ottoline 1.stl") for name in names) == 2


def test_words_that_are_no_file_name_become_one(owner_client, owner, shop) -> None:
    text = HEADER + 'A/1,1,CREW-TAG,,"../é: Bo?",1,,\n'
    made = take_list(text.encode(), name="x", user=owner)
    make_list(made.pk)
    OrderLine.objects.filter(stage=Stage.READY).get()
    bundle = asked(owner_client)
    pack(bundle.pk)
    (name,) = (n for n in fetched(owner_client, bundle).namelist() if n.endswith(".stl"))
    assert ".." not in name and name.count("/") == 1 and "Bo" in name


def test_packing_twice_gives_the_same_bytes_and_one_file(mixed: OrderList, owner) -> None:
    lines = list(OrderLine.objects.values_list("pk", flat=True))
    first, second = (ask_for_bundle(lines, name="x", user=owner) for _ in range(2))
    pack(first.pk)
    pack(second.pk)
    pack(second.pk)
    assert StoredFile.objects.filter(kind=Kind.BUNDLE).count() == 1
    assert len({row.file_id for row in Bundle.objects.all()}) == 1


def test_a_packing_that_breaks_off_is_tried_again_and_given_up_in_the_end(
    mixed: OrderList, owner, monkeypatch
) -> None:
    bundle = ask_for_bundle([line.pk for line in mixed.lines.all()], name="x", user=owner)

    def killed(*_: object) -> int:
        raise KeyboardInterrupt

    with monkeypatch.context() as patch:
        patch.setattr(bundles, "_write", killed)
        for _ in range(3):
            with pytest.raises(KeyboardInterrupt):
                pack(bundle.pk)
    assert not StoredFile.objects.filter(kind=Kind.BUNDLE).exists()
    pack(bundle.pk)
    bundle.refresh_from_db()
    assert (bundle.state, bundle.file) == ("failed", None) and "broke off 3 times" in bundle.trouble


def test_a_job_that_runs_twice_at_once_spoils_nothing(mixed: OrderList, owner, monkeypatch) -> None:
    bundle = ask_for_bundle([line.pk for line in mixed.lines.all()], name="x", user=owner)
    write = bundles._write

    def while_the_other_is_quicker(*given):
        with monkeypatch.context() as patch:
            patch.setattr(bundles, "_write", write)
            pack(bundle.pk)
        return write(*given)

    monkeypatch.setattr(bundles, "_write", while_the_other_is_quicker)
    pack(bundle.pk)
    bundle.refresh_from_db()
    assert bundle.state == "whole" and bundle.file.read()
    pack(bundle.pk)
    assert Bundle.objects.get().state == "whole"


@pytest.mark.parametrize(
    ("bound", "value", "said"),
    [("LARGEST_BUNDLE_PIECES", 3, "at most 3"), ("LARGEST_LIST_ROWS", 1, "More than 1 lines")],
)
def test_more_than_may_be_is_refused_with_the_limit(
    owner_client, mixed: OrderList, monkeypatch, bound: str, value: int, said: str
) -> None:
    monkeypatch.setattr(bundles, bound, value)
    page = owner_client.post(ASK, follow=True).content.decode()
    assert said in page and "Choose a list or type a filter" in page and not Bundle.objects.exists()


def test_too_many_bytes_end_it_with_a_sentence(mixed: OrderList, owner, monkeypatch) -> None:
    monkeypatch.setattr(bundles, "LARGEST_BUNDLE_BYTES", 10_000)
    bundle = ask_for_bundle([line.pk for line in mixed.lines.all()], name="x", user=owner)
    pack(bundle.pk)
    bundle.refresh_from_db()
    assert bundle.state == "failed" and "GB" in bundle.trouble and bundle.file is None


def test_nothing_ready_is_said(owner, mixed: OrderList) -> None:
    send_on(OrderLine.objects.filter(stage=Stage.READY), Stage.IN_RUN)
    with pytest.raises(BundleError, match="Nothing of it is ready"):
        ask_for_bundle([line.pk for line in mixed.lines.all()], name="x", user=owner)


def test_past_bundles_go_with_their_files_and_no_others(mixed: OrderList, owner) -> None:
    lines = list(mixed.lines.filter(stage=Stage.READY).order_by("pk").values_list("pk", flat=True))
    old, shared, young = (ask_for_bundle(lines[:n], name="x", user=owner) for n in (1, 3, 3))
    for bundle in (old, shared, young):
        pack(bundle.pk)
        bundle.refresh_from_db()
    gone = old.file.path
    past = timezone.now() - dt.timedelta(days=KEPT_DAYS, hours=1)
    Bundle.objects.filter(pk__in=[old.pk, shared.pk]).update(asked_at=past)
    assert forget_past_bundles() == 2
    assert list(Bundle.objects.all()) == [young]
    assert not default_storage.exists(gone)
    assert young.file.read() and StoredFile.objects.filter(kind=Kind.BUNDLE).count() == 1
    assert StoredFile.objects.filter(kind=Kind.MADE).exists()


def test_memory_and_queries_do_not_grow_with_the_lines(
    owner, shop, django_assert_max_num_queries, monkeypatch
) -> None:
    text = HEADER + "".join(f"K,{i},CREW-TAG,,Bo,1,,\n" for i in range(30))
    made = take_list(text.encode(), name="x", user=owner)
    make_list(made.pk)
    monkeypatch.setattr(bundles, "_TELL_EVERY", 1000)
    bundle = ask_for_bundle([line.pk for line in made.lines.all()], name="x", user=owner)
    with django_assert_max_num_queries(12):
        pack(bundle.pk)

"""A piece made although a check fails: a right, for a reason, printed on everything that leaves."""

from __future__ import annotations

import csv
import io
import zipfile

import pytest
from django.urls import reverse

from tests.conftest import make_user
from tests.workshop.drawn import as_drawn
from tests.workshop.lists import HEADER
from workshop.book.bundles import ask_for_bundle, pack
from workshop.intake.taking import take_list
from workshop.making.keeping import KeepingError, change_wording, make_all_the_same, step
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine
from workshop.orders.stages import Stage

pytestmark = pytest.mark.django_db
REASON = "the customer has seen a print and wants it"


@pytest.fixture
def held(shop, owner) -> OrderLine:
    orders = HEADER + "A1,1,GUEST-PLATE,,Oystercatcher,1,,Pia\nA1,2,GUEST-PLATE,,,1,,Pia\n"
    make_list(take_list(orders.encode(), name="held.csv", user=owner).pk)
    line = OrderLine.objects.get(order="A1", line="1")
    assert line.stage == Stage.HELD
    return line


def test_it_is_ready_then_says_so_everywhere_and_can_be_taken_back(held, owner, owner_client) -> None:
    before = held.revision_id
    address = reverse("bench:all-the-same", args=[held.pk])
    owner_client.post(address, as_drawn(held, {"reason": REASON}))
    held.refresh_from_db()
    assert held.stage == Stage.READY and held.revision.overridden["reason"] == REASON
    assert held.revision.overridden["checks"] == ["Lettering height"]
    assert held.pieces.get().stage == Stage.READY and held.revision.facts["lettering_mm2"] is not None
    for page in (held.get_absolute_url(), reverse("book:book")):
        assert REASON in owner_client.get(page).content.decode()
    step(held.pk, back=True, user=owner)
    held.refresh_from_db()
    assert held.stage == Stage.HELD and held.revision_id == before
    step(held.pk, back=False, user=owner)
    held.refresh_from_db()
    assert held.stage == Stage.READY and held.revision.overridden


def test_the_reason_goes_with_the_files(held, owner) -> None:
    make_all_the_same(held.pk, reason=REASON, user=owner)
    bundle = ask_for_bundle([held.pk], name="b", user=owner)
    pack(bundle.pk)
    bundle.refresh_from_db()
    with zipfile.ZipFile(io.BytesIO(bundle.file.read())) as packed:
        table = next(name for name in packed.namelist() if name.endswith(".csv"))
        rows = list(csv.DictReader(io.StringIO(packed.read(table).decode("utf-8-sig"))))
    assert REASON in rows[0]["made all the same"]


def test_whatever_is_changed_ends_it(held, owner) -> None:
    make_all_the_same(held.pk, reason=REASON, user=owner)
    change_wording(held.pk, "Oystercatchers", user=owner)
    held.refresh_from_db()
    assert held.stage == Stage.HELD and held.revision.overridden is None


@pytest.mark.parametrize("reason", ["", "ok", " . ", "x" * 161], ids=["none", "short", "signs", "long"])
def test_without_a_reason_nothing_is_changed(held, owner, reason: str) -> None:
    with pytest.raises(KeepingError, match="Nothing was changed"):
        make_all_the_same(held.pk, reason=reason, user=owner)
    held.refresh_from_db()
    assert held.stage == Stage.HELD and held.revisions.count() == 1


def test_what_cannot_be_made_is_not_made_for_any_reason(held, owner) -> None:
    nothing = OrderLine.objects.get(order="A1", line="2")
    with pytest.raises(KeepingError, match="can't be made at all"):
        make_all_the_same(nothing.pk, reason=REASON, user=owner)


def test_what_is_ready_needs_no_reason(held, owner) -> None:
    change_wording(held.pk, "Egret", user=owner)
    with pytest.raises(KeepingError, match="is not held"):
        make_all_the_same(held.pk, reason=REASON, user=owner)


@pytest.mark.parametrize(("place", "status"), [("Bench", 302), ("Desk", 403), ("Production", 403)])
def test_it_is_a_right_of_the_bench(client, held, place: str, status: int) -> None:
    client.force_login(make_user(place))
    address = reverse("bench:all-the-same", args=[held.pk])
    assert client.post(address, as_drawn(held, {"reason": REASON})).status_code == status
    held.refresh_from_db()
    assert (held.stage == Stage.READY) == (status == 302)


def test_an_older_screen_makes_nothing(held, owner, owner_client) -> None:
    sent = as_drawn(held, {"reason": REASON})
    change_wording(held.pk, "Oystercatchers", user=owner)
    answer = owner_client.post(reverse("bench:all-the-same", args=[held.pk]), sent)
    assert answer.status_code == 409
    held.refresh_from_db()
    assert held.revision.overridden is None

"""Taking back and putting back at the bench: steps along the revisions, without end, in words."""

from __future__ import annotations

import hashlib
import re

import pytest
from django.contrib.auth.models import User
from django.urls import reverse

from kizami.pieces.batch import piece_files
from kizami.pieces.inputs import fingerprint
from kizami.pieces.make import make_piece
from tests.conftest import make_user
from tests.workshop.drawn import as_drawn
from tests.workshop.lists import HEADER
from workshop.catalogue.models import Product
from workshop.intake.logos import take_logos
from workshop.intake.taking import take_list
from workshop.making.keeping import NothingToChangeError, StaleEditionError, change_wording, step, step_of
from workshop.making.models import Revision
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine

pytestmark = pytest.mark.django_db
ONE = HEADER + "A1,1,CHOIR-RING,54,Ottoline,2,,Choir\n"
SET = (
    "order,line,product,wording,set\nC1,1,CREW-TAG,Halloran,crew\nC1,2,CREW-TAG,Bo,crew\nC2,1,CREW-TAG,Ann,\n"
)


@pytest.fixture
def line(owner) -> OrderLine:
    make_list(take_list(ONE.encode(), name="x", user=owner).pk)
    return OrderLine.objects.get()


def go(line: OrderLine, owner: User, *, back: bool) -> tuple[str, Revision]:
    found = step(line.pk, back=back, user=owner)
    line.refresh_from_db()
    assert line.revision == found
    assert {piece.revision_id for piece in line.pieces.all()} == {found.pk}
    return line.wording, found


def said(line: OrderLine, *, back: bool) -> str | None:
    found = step_of(OrderLine.objects.get(pk=line.pk), back=back)
    return found.said if found else None


def test_steps_go_back_to_the_first_and_forth_to_the_last(line: OrderLine, owner) -> None:
    made = [line.revision]
    for words in ("Ida", "Bo", "Maximilian", "Ann"):
        made.append(change_wording(line.pk, words, user=owner))
    count = line.revisions.count()
    for wanted in reversed(made[:-1]):
        assert go(line, owner, back=True) == (wanted.wording, wanted)
    with pytest.raises(NothingToChangeError, match="nothing before"):
        step(line.pk, back=True, user=owner)
    for wanted in made[1:]:
        assert go(line, owner, back=False) == (wanted.wording, wanted)
    with pytest.raises(NothingToChangeError, match="nothing after"):
        step(line.pk, back=False, user=owner)
    # Nothing was made for it: what was made then is stood on again.
    assert line.revisions.count() == count


def test_deciding_otherwise_after_a_step_back_begins_another_way_and_loses_nothing(
    line: OrderLine, owner
) -> None:
    change_wording(line.pk, "Ida", user=owner)
    go(line, owner, back=True)
    change_wording(line.pk, "Bo", user=owner)
    assert go(line, owner, back=True)[0] == "Ottoline"
    assert go(line, owner, back=False)[0] == "Bo"
    assert line.revisions.filter(wording="Ida").exists()


def test_a_step_is_told_before_it_is_gone(line: OrderLine, owner) -> None:
    assert (said(line, back=True), said(line, back=False)) == (None, None)
    change_wording(line.pk, "Ida", user=owner, choices={"height_mm": 2.0, "tracking": 0.1})
    told = said(line, back=True)
    assert "“Ida” becomes “Ottoline”" in told
    assert "height: the product’s own" in told and "spacing: the product’s own" in told
    go(line, owner, back=True)
    assert "“Ottoline” becomes “Ida”; at most 2.00 mm" in said(line, back=False)
    assert line.events.first().what.startswith("Took back: “Ida” becomes “Ottoline”")


def test_all_that_was_decided_comes_back_with_the_words(owner, shop) -> None:
    text = HEADER + "B1,1,CREW-TAG,,jOHN,1,,x\n"
    make_list(take_list(text.encode(), name="x", user=owner).pk)
    line = OrderLine.objects.get()
    before = line.state
    assert before.proposal and before.open_question
    change_wording(line.pk, "Jon", user=owner)
    line.refresh_from_db()
    assert not line.proposal and not line.open_question
    step(line.pk, back=True, user=owner)
    line.refresh_from_db()
    assert line.state == before and line.stage == "held"


def test_a_corrected_list_is_a_step_too_even_before_it_is_made(line: OrderLine, owner) -> None:
    text = ONE.replace("54,Ottoline", "58,Odile")
    take_list(text.encode(), name="y", user=owner)
    line.refresh_from_db()
    assert (line.wording, line.stage) == ("Odile", "new")
    assert "size: 54" in said(line, back=True)
    assert go(line, owner, back=True)[0] == "Ottoline" and line.size == "54"
    assert go(line, owner, back=False)[0] == "Odile" and line.size == "58"


def test_another_version_of_the_product_comes_and_goes_with_its_step(line: OrderLine, owner) -> None:
    first = line.product
    table = {**first.table, "name": "Choir ring, second cut"}
    second = Product.objects.put(table)
    take_list(ONE.replace("Ottoline", "Odile").encode(), name="y", user=owner)
    make_list(OrderLine.objects.get().order_list_id)
    line.refresh_from_db()
    assert line.product == second and line.revision.product == second
    go(line, owner, back=True)
    assert line.product == first


def test_making_the_same_again_is_no_step(line: OrderLine, owner) -> None:
    change_wording(line.pk, "Ida", user=owner)
    for _ in range(2):
        again = change_wording(line.pk, "Ida", user=owner)
    assert again.again.wording == "Ida" and again.again.again is None
    assert go(line, owner, back=True)[0] == "Ottoline"
    assert go(line, owner, back=False)[0] == "Ida"


def test_every_earlier_state_can_be_made_again_byte_for_byte(owner, shop) -> None:
    svg = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><rect width="%d" height="10"/></svg>'
    text = "order,line,product,wording,logo\nL1,1,BADGE-TAG,Ada,heron.svg\n" + "".join(
        f"C1,{n},CREW-TAG,{name},\n" for n, name in enumerate(("Bo", "Ann"), 1)
    )
    taken = take_list(text.encode(), name="x", user=owner)
    products = {line.product.code for line in taken.lines.all()}
    take_logos(taken.source, [("heron.svg", svg % 6)], user=owner)
    make_list(taken.pk)
    take_logos(taken.source, [("heron.svg", svg % 9)], user=owner)
    make_list(taken.pk)
    for line in taken.lines.all():
        change_wording(line.pk, "Ivy", user=owner, choices={"height_mm": 2.0})
        Product.objects.put({**line.product.table, "name": f"Later {line.product.code}"})
    assert products and Revision.objects.count() >= 6
    for revision in Revision.objects.with_inputs():
        inputs = revision.to_inputs()
        assert fingerprint(inputs) == revision.fingerprint
        files = piece_files(make_piece(inputs), title=inputs.wording)
        kept = revision.facts["files"]
        assert set(files) == set(kept)
        for extension, data in files.items():
            assert hashlib.sha256(data).hexdigest() == kept[extension]["sha256"], extension


def test_where_it_would_be_made_otherwise_now_it_is_made_again(owner, shop) -> None:
    make_list(take_list(SET.encode(), name="x", user=owner).pk)
    bo = OrderLine.objects.get(line="2")
    alone = OrderLine.objects.get(order="C2")
    assert bo.set_height_mm is not None and alone.set_height_mm is None
    change_wording(bo.pk, "Ida", user=owner)
    change_wording(
        OrderLine.objects.get(order="C1", line="1").pk, "Wilhelmina-Odell Featherstone", user=owner
    )
    make_list(bo.order_list_id)
    bo.refresh_from_db()
    lower = bo.set_height_mm
    made = bo.revisions.count()
    step(bo.pk, back=True, user=owner)
    bo.refresh_from_db()
    assert (bo.wording, bo.set_height_mm) == ("Bo", lower)
    assert bo.revisions.count() == made + 1 and bo.revision.again.wording == "Bo"
    assert bo.revision.height_mm <= lower + 1e-6
    # The way forth and back goes on from there.
    step(bo.pk, back=False, user=owner)
    bo.refresh_from_db()
    assert bo.wording == "Ida"


def test_two_at_once_do_not_step_over_each_other(line: OrderLine, owner) -> None:
    change_wording(line.pk, "Ida", user=owner)
    seen = OrderLine.objects.get().edition
    step(line.pk, back=True, user=owner, edition=seen)
    with pytest.raises(StaleEditionError):
        step(line.pk, back=True, user=owner, edition=seen)


def test_the_bench_offers_both_ways_and_survives_a_sign_out(owner_client, client, line, owner) -> None:
    change_wording(line.pk, "Ida", user=owner)
    owner_client.logout()
    client.force_login(owner)
    page = client.get(line.get_absolute_url()).content.decode()
    assert re.search(r"data-back>“Ida” becomes “Ottoline”", page) and "data-forth" not in page
    back = client.post(reverse("bench:back", args=[line.pk]), as_drawn(line, {}), follow=True)
    page = back.content.decode()
    assert "data-back" not in page and "data-forth>“Ottoline” becomes “Ida”" in page
    client.post(reverse("bench:forth", args=[line.pk]), as_drawn(line, {}))
    assert OrderLine.objects.get().wording == "Ida"
    old = client.post(reverse("bench:back", args=[line.pk]), {"edition": 1})
    assert old.status_code == 409 and "data-stale" in old.content.decode()
    assert (
        client.post(reverse("bench:forth", args=[line.pk]), as_drawn(line, {}), follow=True).status_code
        == 200
    )


def test_only_who_may_change_words_may_step(client, line: OrderLine) -> None:
    client.force_login(make_user("Production"))
    for name in ("bench:back", "bench:forth"):
        assert client.post(reverse(name, args=[line.pk]), as_drawn(line, {})).status_code == 403
    assert "data-steps" not in client.get(line.get_absolute_url()).content.decode()

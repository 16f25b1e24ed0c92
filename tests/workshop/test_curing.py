"""Held lines cured together: looked at in the background, taken in one step, taken back in one step."""

from __future__ import annotations

import threading
from typing import Any

import pytest
from django.db import connection
from django.urls import reverse

from kizami.pieces.inputs import Inputs
from kizami.pieces.make import Made, make_until_held
from kizami.remedies.search import Offered, search_remedies
from tests.conftest import make_user
from tests.workshop.lists import HEADER
from workshop.curing.models import Cure, Taken, Taking, cures_to_look_for_longer, lines_to_look_at
from workshop.curing.services import look_at_next, take_back, take_for, take_next
from workshop.curing.tasks import look_for_cures, take_cures
from workshop.curing.together import gathered_by_cause
from workshop.intake.taking import take_list
from workshop.making.keeping import change_wording
from workshop.making.models import Revision
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine
from workshop.orders.stages import Stage

pytestmark = pytest.mark.django_db
WORDS = ("Oystercatcher", "Kingfishertown", "Harbour", "Featherstonehaugh-Oystercatcherson")
PAGE = reverse("curing:together")


@pytest.fixture
def held(shop, owner) -> list[OrderLine]:
    """Two that can be cured, one that is ready, one that nothing cures."""
    rows = "".join(f"T1,{n},GUEST-PLATE,,{words},1,,Pia\n" for n, words in enumerate(WORDS, start=1))
    make_list(take_list((HEADER + rows).encode(), name="held.csv", user=owner).pk)
    lines = list(OrderLine.objects.filter(order="T1").order_by("pk"))
    assert [line.stage for line in lines] == [Stage.HELD, Stage.HELD, Stage.READY, Stage.HELD]
    return lines


def fresh(lines: list[OrderLine]) -> list[OrderLine]:
    return list(OrderLine.objects.filter(pk__in=[line.pk for line in lines]).order_by("pk"))


def gathered() -> list:
    rows = OrderLine.objects.worst_held().select_related("revision", "product", "cure")
    return gathered_by_cause(rows)


def test_each_held_line_is_looked_at_once_and_again_when_it_was_changed(held, owner) -> None:
    assert lines_to_look_at().count() == 3
    # Each once, and once more for longer at most.
    assert 3 <= look_for_cures() <= 6 and look_for_cures() == 0
    found = {cure.line.wording: cure for cure in Cure.objects.select_related("line")}
    assert found["Oystercatcher"].setting and found["Oystercatcher"].strip
    assert found[WORDS[3]].setting is None, "that nothing cures it is known as well"
    change_wording(held[0].pk, "Oystercatchers", user=owner)
    assert [line.pk for line in lines_to_look_at()] == [held[0].pk]


def test_what_a_short_look_does_not_cure_is_looked_at_longer_after_all_others(
    held, owner_client, monkeypatch
) -> None:
    looks: list[tuple[str, float]] = []

    def looked(inputs: Inputs, made: Made, *, seconds: float, **named: Any) -> Offered:
        looks.append((inputs.wording, seconds))
        if len(looks) <= 3:
            return Offered(cures=(), nearest=None, tried=1, is_over=inputs.wording == WORDS[3])
        return search_remedies(inputs, made, seconds=seconds, **named)

    monkeypatch.setattr("workshop.curing.services.search_remedies", looked)
    for _ in range(3):
        look_at_next()
    assert not lines_to_look_at().exists()
    assert cures_to_look_for_longer().count() == 2, "nothing more is to be found for the third"
    assert "looked at longer" in owner_client.get(PAGE).content.decode()
    assert look_for_cures() == 2 and not cures_to_look_for_longer().exists()
    assert {words for words, _ in looks[3:]} == set(WORDS[:2])
    assert min(longer for _, longer in looks[3:]) > max(short for _, short in looks[:3])
    cures = dict(Cure.objects.values_list("line__wording", "setting"))
    assert cures[WORDS[0]] and cures[WORDS[1]] and cures[WORDS[3]] is None
    assert "looked at longer" not in owner_client.get(PAGE).content.decode()


def test_a_line_is_not_made_again_to_be_cured_but_for_one_that_would_be_made_otherwise(
    held, monkeypatch
) -> None:
    made: list[str] = []

    def making(inputs: Inputs) -> Made:
        made.append(inputs.wording)
        return make_until_held(inputs)

    monkeypatch.setattr("workshop.curing.services.make_until_held", making)
    # As if limits or letters had been others when it was made.
    Revision.objects.filter(pk=held[1].revision_id).update(fingerprint="0" * 64)
    look_for_cures()
    assert set(made) == {WORDS[1]}
    assert all(Cure.objects.get(line=line).setting for line in held[:2])


def test_a_line_that_was_changed_during_a_longer_look_is_looked_at_anew(held, owner) -> None:
    look_for_cures()
    Cure.objects.filter(line=held[0]).update(may_go_on=True, setting=None)
    change_wording(held[0].pk, "Oystercatchers", user=owner)
    assert not cures_to_look_for_longer().exists()
    assert [line.pk for line in lines_to_look_at()] == [held[0].pk]


@pytest.mark.parametrize("code", ["GUEST-PLATE", "CREW-TAG"])
def test_a_worker_stays_with_the_product_that_it_has_at_hand(code: str, shop, owner) -> None:
    rows = "".join(
        f"T1,{n},{one},,{WORDS[3]},1,,Pia\n" for n, one in enumerate(("GUEST-PLATE", "CREW-TAG"), 1)
    )
    make_list(take_list((HEADER + rows).encode(), name="held.csv", user=owner).pk)
    assert lines_to_look_at().count() == 2
    assert look_at_next(code) == code


def test_taken_for_all_that_are_ticked_and_taken_back_in_one_step(held, owner, owner_client) -> None:
    look_for_cures()
    before = [line.revision.fingerprint for line in held]
    page = owner_client.get(PAGE).content.decode()
    ticked = [f"{line.pk}.{line.edition}" for line in held[:2]]
    assert all(f'value="{name}" checked' in page for name in ticked)
    assert f'value="{held[3].pk}.' not in page, "what nothing cures can't be ticked"
    owner_client.post(reverse("curing:take"), {"line": ticked, "title": "Lettering height"})
    taking = Taking.objects.get()
    assert taking.lines.filter(state=Taken.State.WAITING).count() == 2
    assert take_cures(taking.pk) == 2
    assert [line.stage for line in fresh(held)] == [Stage.READY, Stage.READY, Stage.READY, Stage.HELD]
    assert all(line.choices for line in fresh(held)[:2])
    owner_client.post(reverse("curing:back", args=[taking.pk]))
    assert take_cures(taking.pk) == 2
    assert [line.revision.fingerprint for line in fresh(held)] == before
    assert set(taking.lines.values_list("state", flat=True)) == {Taken.State.BACK}
    # A step that was taken back is not taken back again.
    assert owner_client.post(reverse("curing:back", args=[taking.pk])).status_code == 404


def test_what_was_changed_meanwhile_is_left_as_somebody_left_it(held, owner) -> None:
    look_for_cures()
    taking = take_for([(line.pk, line.edition) for line in held[:2]], user=owner, said="x")
    assert taking is not None
    change_wording(held[0].pk, "Egret", user=owner)
    take_cures(taking.pk)
    states = dict(taking.lines.values_list("line_id", "state"))
    assert states == {held[0].pk: Taken.State.LEFT, held[1].pk: Taken.State.TAKEN}
    assert OrderLine.objects.get(pk=held[0].pk).wording == "Egret"
    change_wording(held[1].pk, "Heron", user=owner)
    take_back(taking)
    take_cures(taking.pk)
    row = taking.lines.get(line=held[1])
    assert row.state == Taken.State.LEFT and "changed by somebody else" in row.why
    assert OrderLine.objects.get(pk=held[1].pk).wording == "Heron"


@pytest.mark.parametrize(
    "asked", [[], [(1, 99)], [(10**8, 1)]], ids=["none", "an old edition", "no such line"]
)
def test_nothing_is_taken_where_nothing_can_be(held, owner, asked) -> None:
    look_for_cures()
    mine = [(held[place - 1].pk if place < 9 else place, edition) for place, edition in asked]
    assert take_for(mine, user=owner, said="x") is None and not Taking.objects.exists()


def test_lines_are_gathered_by_what_holds_them_most(held) -> None:
    before = gathered()
    assert sum(cause.count for cause in before) == 3 and all(not cause.curable for cause in before)
    look_for_cures()
    causes = gathered()
    assert sum(cause.curable for cause in causes) == 2 and all(not cause.unknown for cause in causes)
    assert [cause.curable for cause in causes] == sorted((c.curable for c in causes), reverse=True)


def test_names_of_lines_that_are_none_are_passed_over(held, owner_client) -> None:
    for line in ("x.y", "1", "1.2.3", "9" * 40 + ".1", "-1.0"):
        assert owner_client.post(reverse("curing:take"), {"line": line}).status_code == 302
    assert not Taking.objects.exists()


def test_only_who_may_change_words_takes_cures(client, held) -> None:
    client.force_login(make_user("Production"))
    assert client.get(PAGE).status_code == 200
    assert client.post(reverse("curing:take"), {"line": f"{held[0].pk}.1"}).status_code == 403


def test_questions_do_not_grow_with_lines(held, owner_client, django_assert_max_num_queries) -> None:
    look_for_cures()
    with django_assert_max_num_queries(16):
        owner_client.get(PAGE)


@pytest.mark.django_db(transaction=True)
def test_two_workers_share_the_lines_and_none_is_done_twice(shop, owner) -> None:
    rows = "".join(f"T1,{n},GUEST-PLATE,,{words},1,,Pia\n" for n, words in enumerate(WORDS[:2], start=1))
    make_list(take_list((HEADER + rows).encode(), name="held.csv", user=owner).pk)
    look_for_cures()
    lines = OrderLine.objects.filter(order="T1")
    taking = take_for([(line.pk, line.edition) for line in lines], user=owner, said="x")
    assert taking is not None
    done: list[int] = []

    def work() -> None:
        try:
            done.append(take_cures(taking.pk))
        finally:
            connection.close()

    workers = [threading.Thread(target=work) for _ in range(2)]
    for worker in workers:
        worker.start()
    for worker in workers:
        worker.join()
    assert sum(done) == 2 and not take_next(taking.pk) and not look_at_next()
    assert {line.revisions.count() for line in lines} == {2}


@pytest.mark.parametrize(
    ("cost", "asks", "is_ticked"), [(1.4, [], True), (1.6, [], False), (0.2, ["May we?"], False)]
)
def test_what_departs_far_or_is_for_the_customer_to_say_is_not_ticked(
    held, owner_client, cost: float, asks: list[str], is_ticked: bool
) -> None:
    look_for_cures()
    Cure.objects.filter(line=held[0]).update(cost=cost, asks=asks)
    one = next(one for cause in gathered() for one in cause.lines if one.line.pk == held[0].pk)
    assert one.is_ticked == is_ticked and one.is_curable
    page = owner_client.get(PAGE).content.decode()
    value = f'value="{held[0].pk}.{held[0].edition}"'
    assert value in page and (f"{value} checked" in page) == is_ticked

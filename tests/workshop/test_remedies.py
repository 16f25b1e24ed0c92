"""Remedies at the Bench: offered for what is held, taken in one step and taken back in one."""

from __future__ import annotations

import re
from dataclasses import replace

import pytest
from django.urls import reverse

from kizami.remedies.search import Offered
from tests.workshop.lists import HEADER
from workshop.bench import offered
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine
from workshop.orders.stages import Stage

pytestmark = pytest.mark.django_db


@pytest.fixture(autouse=True)
def without_haste(monkeypatch) -> None:
    """What is offered does not depend on how busy the machine is."""
    monkeypatch.setattr(offered, "_SECONDS", 20.0)


def test_what_cures_a_held_piece_is_offered_taken_and_taken_back(shop, owner, owner_client) -> None:
    orders = HEADER + "R1,1,GUEST-PLATE,,Oystercatcher,1,,Pia\n"
    make_list(take_list(orders.encode(), name="held.csv", user=owner).pk)
    line = OrderLine.objects.get(order="R1")
    assert line.stage == Stage.HELD
    before = line.revision.fingerprint
    page = owner_client.get(line.get_absolute_url()).content.decode()
    assert reverse("bench:remedies", args=[line.pk]) in page
    shown = owner_client.get(
        reverse("bench:remedies", args=[line.pk]), {"wording": line.wording, "chosen": "1"}
    ).content.decode()
    assert 'data-remedy="1"' in shown and "Take it" in shown
    fields = dict(
        re.findall(r'<input type="hidden" name="(\w+)" value="([^"]*)"', shown.split('data-remedy="2"')[0])
    )
    owner_client.post(reverse("bench:keep", args=[line.pk]), fields)
    line.refresh_from_db()
    assert line.stage == Stage.READY and line.choices
    owner_client.post(reverse("bench:back", args=[line.pk]), {"edition": line.edition})
    line.refresh_from_db()
    assert line.stage == Stage.HELD and line.revision.fingerprint == before and not line.choices


def test_a_piece_that_is_ready_asks_for_no_cure(shop, owner, owner_client) -> None:
    orders = HEADER + "R2,1,GUEST-PLATE,,Harbour,1,,Pia\n"
    make_list(take_list(orders.encode(), name="ready.csv", user=owner).pk)
    line = OrderLine.objects.get(order="R2")
    assert line.stage == Stage.READY
    assert (
        reverse("bench:remedies", args=[line.pk])
        not in owner_client.get(line.get_absolute_url()).content.decode()
    )


def test_what_time_ended_is_not_called_incurable(shop, owner, owner_client, monkeypatch) -> None:
    orders = HEADER + "R3,1,GUEST-PLATE,,Oystercatcher,1,,Pia\n"
    make_list(take_list(orders.encode(), name="held.csv", user=owner).pk)
    line = OrderLine.objects.get(order="R3")
    address = reverse("bench:remedies", args=[line.pk])
    asked = {"wording": line.wording, "chosen": "1"}
    with monkeypatch.context() as hurried:
        ended = Offered(cures=(), nearest=None, tried=9, is_over=False)
        hurried.setattr(offered, "search_remedies", lambda *_, **__: ended)
        page = owner_client.get(address, asked).content.decode()
        assert "No cure found yet" in page and "looks=longer" in page and "customer" not in page
        at_last = owner_client.get(address, {**asked, "looks": "longer"}).content.decode()
        assert "looks=longer" not in at_last, "it goes on once, not for ever"
        over = replace(ended, is_over=True)
        hurried.setattr(offered, "search_remedies", lambda *_, **__: over)
        page = owner_client.get(address, asked).content.decode()
        assert "looks=longer" not in page and "customer" in page
    longer = owner_client.get(address, {**asked, "looks": "longer"}).content.decode()
    assert "Take it" in longer


def test_the_first_cure_is_shown_at_once_and_asks_for_the_others(shop, owner, owner_client) -> None:
    orders = HEADER + "R4,1,HIVE-PLATE,,Davidson,1,,Pia\n"
    make_list(take_list(orders.encode(), name="held.csv", user=owner).pk)
    line = OrderLine.objects.get(order="R4")
    address = reverse("bench:remedies", args=[line.pk])
    asked = {"wording": line.wording, "chosen": "1"}
    first = owner_client.get(address, asked).content.decode()
    assert first.count("data-remedy=") == 1 and "looks=all" in first
    every = owner_client.get(address, {**asked, "looks": "all"}).content.decode()
    assert every.count("data-remedy=") > 1 and "looks=all" not in every
    # Whatever is asked for that is not known is the first.
    assert owner_client.get(address, {**asked, "looks": "x" * 90}).content.decode().count("data-remedy=") == 1

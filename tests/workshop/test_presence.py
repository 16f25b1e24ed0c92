"""Two people at one piece see that the other is there, and what each has kept."""

from __future__ import annotations

from datetime import timedelta

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from tests.conftest import make_user
from tests.workshop.lists import HEADER
from workshop.bench.models import HERE, Presence
from workshop.intake.taking import take_list
from workshop.making.keeping import change_wording
from workshop.making.tasks import make_list
from workshop.orders.models import OrderLine

pytestmark = pytest.mark.django_db


@pytest.fixture
def line(shop, owner) -> OrderLine:
    orders = HEADER + "P1,1,GUEST-PLATE,,Egret,1,,Pia\n"
    make_list(take_list(orders.encode(), name="p.csv", user=owner).pk)
    return OrderLine.objects.get(order="P1")


def asks(client, line: OrderLine, edition: int) -> str:
    return client.get(reverse("bench:here", args=[line.pk]), {"edition": edition}).content.decode()


def test_each_sees_the_other_and_what_was_kept(owner_client, owner, line: OrderLine) -> None:
    client, other = Client(), make_user("Bench")
    client.force_login(other)
    edition = line.edition
    assert "data-here" not in asks(owner_client, line, edition)
    assert owner.get_username() in asks(client, line, edition)
    assert other.get_username() in asks(owner_client, line, edition)
    change_wording(line.pk, "Heron", user=owner)
    told = asks(client, line, edition)
    assert "data-kept-since" in told and "“Egret” becomes “Heron”" in told
    line.refresh_from_db()
    assert "data-kept-since" not in asks(client, line, line.edition)


def test_who_was_not_heard_of_has_gone(owner_client, line: OrderLine) -> None:
    client = Client()
    client.force_login(make_user("Bench"))
    asks(client, line, line.edition)
    Presence.objects.update(seen_at=timezone.now() - HERE - timedelta(seconds=1))
    assert "data-here" not in asks(owner_client, line, line.edition)
    assert Presence.objects.count() == 2
    Presence.objects.update(seen_at=timezone.now() - timedelta(hours=2))
    asks(owner_client, line, line.edition)
    assert Presence.objects.count() == 1, "old rows are dropped"


@pytest.mark.parametrize("edition", ["", "x", "9" * 30])
def test_whatever_edition_is_sent_is_answered(owner_client, line: OrderLine, edition: str) -> None:
    assert owner_client.get(reverse("bench:here", args=[line.pk]), {"edition": edition}).status_code == 200

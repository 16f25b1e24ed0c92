"""Sign-in: asked for everywhere, and guessing is slowed for one name without keeping others out."""

from __future__ import annotations

from datetime import timedelta

import pytest
from axes.models import AccessAttempt
from django.conf import settings
from django.contrib.auth import get_user_model
from django.test import Client
from django.urls import reverse
from django.utils import timezone

pytestmark = pytest.mark.django_db
PASSWORD = "a long enough one"


@pytest.fixture
def people(db):
    user = get_user_model()
    return [user.objects.create_user(name, password=PASSWORD) for name in ("ilse", "piet")]


def sign_in(client: Client, name: str, password: str):
    return client.post(reverse("people:sign-in"), {"username": name, "password": password})


def is_in(client: Client) -> bool:
    return client.get(reverse("book:book")).status_code == 200


def test_the_right_password_lets_in(people) -> None:
    client = Client()
    assert not is_in(client)
    assert sign_in(client, "ilse", PASSWORD).status_code == 302
    assert is_in(client)


def test_after_too_many_wrong_ones_even_the_right_one_has_to_wait(people) -> None:
    client = Client()
    for _ in range(settings.AXES_FAILURE_LIMIT - 1):
        assert sign_in(client, "ilse", "wrong").status_code == 200
    assert sign_in(client, "ilse", "wrong").status_code == 429
    locked = sign_in(client, "ilse", PASSWORD)
    assert locked.status_code == 429
    assert "10 minutes" in locked.content.decode()
    assert not is_in(client)
    # Somebody else at the same bench is not kept out.
    assert sign_in(client, "piet", PASSWORD).status_code == 302


def test_it_is_over_after_the_stated_time(people) -> None:
    client = Client()
    for _ in range(settings.AXES_FAILURE_LIMIT):
        sign_in(client, "ilse", "wrong")
    AccessAttempt.objects.update(attempt_time=timezone.now() - timedelta(minutes=10, seconds=5))
    assert sign_in(client, "ilse", PASSWORD).status_code == 302


def test_a_few_slips_are_forgotten_once_it_is_right(people) -> None:
    client = Client()
    for _ in range(3):
        for _ in range(settings.AXES_FAILURE_LIMIT - 2):
            sign_in(client, "ilse", "wrong")
        assert sign_in(client, "ilse", PASSWORD).status_code == 302
        client.logout()

"""Setting the shop up: with the demo, empty, with one's own products, and again."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest
from django.contrib.auth.models import User
from django.core.management import CommandError, call_command

from launch.state import REPOSITORY, open_state
from workshop.catalogue.models import Product
from workshop.orders.models import OrderLine, OrderList
from workshop.people.models import FirstPassword

pytestmark = pytest.mark.django_db
DEMO = REPOSITORY / "demo" / "products.toml"


@pytest.fixture(autouse=True)
def only_the_database(monkeypatch: pytest.MonkeyPatch, settings, tmp_path: Path) -> None:
    """Migrations have run for the tests and static files are not looked at."""
    settings.STATIC_ROOT = tmp_path
    command = "workshop.opening.management.commands.open_shop.call_command"
    monkeypatch.setattr(command, lambda *_, **__: None)


def test_the_demo_is_set_up_once() -> None:
    for _ in range(2):
        call_command("open_shop")
    assert OrderList.objects.count() == 1
    assert OrderLine.objects.count() >= 60
    people = list(User.objects.all())
    assert {user.groups.get().name for user in people} == {"Owner", "Desk", "Bench", "Production"}
    # Each has a password of their own, and the demo's are tried out without another ado.
    passwords = open_state().people
    assert len(set(passwords.values())) == 4
    for user in people:
        assert [name for name, word in passwords.items() if user.check_password(word)] == [user.username]
    assert not FirstPassword.objects.exists()


def test_an_empty_shop_has_an_owner_who_chooses_a_password_first() -> None:
    call_command("open_shop", "--empty")
    assert (Product.objects.count(), OrderList.objects.count()) == (0, 0)
    owner = User.objects.get()
    assert owner.groups.get().name == "Owner" and FirstPassword.objects.get().user == owner


def test_who_was_renamed_or_barred_does_not_come_back_with_the_next_start() -> None:
    call_command("open_shop", "--empty")
    User.objects.update(username="Ilse", is_active=False)
    call_command("open_shop", "--empty")
    assert User.objects.get().username == "Ilse"


def test_own_products_are_taken_in_and_a_changed_one_becomes_a_version(tmp_path: Path) -> None:
    file = tmp_path / "products.toml"
    shutil.copytree(DEMO.parent / "shapes", tmp_path / "shapes")
    file.write_text(DEMO.read_text("utf-8"), "utf-8")
    call_command("open_shop", "--empty", "--products", str(file))
    count = Product.objects.count()
    file.write_text(DEMO.read_text("utf-8").replace("depth_mm = 0.45", "depth_mm = 0.5"), "utf-8")
    call_command("open_shop", "--empty", "--products", str(file))
    assert Product.objects.count() == count + 1
    assert Product.objects.get(code="CHOIR-RING", is_current=True).version == 2


@pytest.mark.parametrize("text", ["[[product]]\ncode = 'X'", "not toml ["])
def test_a_products_file_that_cannot_be_used_changes_nothing(tmp_path: Path, text: str) -> None:
    file = tmp_path / "products.toml"
    file.write_text(text)
    with pytest.raises(CommandError, match=r"products\.toml"):
        call_command("open_shop", "--empty", "--products", str(file))
    assert not Product.objects.exists() and not User.objects.exists()

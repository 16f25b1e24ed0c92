"""A database cluster of its own for the tests, and people with the rights of each place."""

from __future__ import annotations

import os
import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import settings

from launch.cluster import Cluster
from launch.state import Role, State, open_state

# Integration must give the same verdict on the same commit; looking for new cases is for the desk:
# HYPOTHESIS_PROFILE=deep ./check -k test_names
settings.register_profile("same", derandomize=True, deadline=None)
settings.register_profile("deep", max_examples=2000, deadline=None)
settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE") or "same")


@pytest.fixture(scope="session")
def state() -> Iterator[State]:
    """A state folder that PostgreSQL's own user can reach, which pytest's folders are not."""
    folder = Path(tempfile.mkdtemp(prefix="kizami-test-"))
    folder.chmod(0o755)
    yield open_state(folder / "state")
    shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture(scope="session")
def cluster(state: State) -> Iterator[Cluster]:
    """A running cluster, thrown away afterwards."""
    running = Cluster.of(state, durable=False)
    running.start()
    yield running
    running.stop()


@pytest.fixture(scope="session")
def django_db_modify_db_settings(cluster: Cluster, state: State) -> Iterator[None]:
    """Point Django at the test cluster and at files of its own."""
    from django.db import connections
    from django.test import override_settings

    environment = cluster.environment(Role.CLUSTER)
    changes = {
        "HOST": environment["KIZAMI_DB_HOST"],
        "PORT": environment["KIZAMI_DB_PORT"],
        "USER": environment["KIZAMI_DB_USER"],
        "PASSWORD": environment["KIZAMI_DB_PASSWORD"],
    }
    connections["default"].settings_dict.update(changes)
    connections.settings["default"].update(changes)
    storages = {
        "default": {
            "BACKEND": "django.core.files.storage.FileSystemStorage",
            "OPTIONS": {"location": str(state.files), "allow_overwrite": True},
        },
        "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
    }
    # A slow password hash is right for people and only costs time in tests.
    hashers = ["django.contrib.auth.hashers.MD5PasswordHasher"]
    with override_settings(STORAGES=storages, PASSWORD_HASHERS=hashers):
        yield


@pytest.fixture(scope="session")
def django_db_setup(django_db_setup: None, django_db_blocker: object) -> Iterator[None]:
    """The application's role gets its rights, as a start gives them; workers in tests have no others.

    Whoever still holds a session when all is done, say a thread that served a page, is sent away.

    The database can't be dropped before.
    """
    from django.db import connection

    from workshop.opening.grants import give_rights

    with django_db_blocker.unblock():  # type: ignore[attr-defined]
        give_rights()
    yield
    with django_db_blocker.unblock(), connection.cursor() as cursor:  # type: ignore[attr-defined]
        cursor.execute(
            "SELECT pg_terminate_backend(pid) FROM pg_stat_activity"
            " WHERE datname = current_database() AND pid <> pg_backend_pid()"
        )


@pytest.fixture
def shop(db: None) -> None:
    """Places, their rights and the demo's products, without orders."""
    _set_up()


def _set_up() -> None:
    from launch.state import REPOSITORY
    from workshop.catalogue.services import take_products
    from workshop.people.places import set_up_places

    set_up_places()
    take_products(REPOSITORY / "demo" / "products.toml")


def make_user(place: str):
    """A person of a place; the password is their name twice."""
    from django.contrib.auth.models import Group, User

    name = place.lower()
    user = User.objects.create_user(name, password=name * 2)
    user.groups.set([Group.objects.get(name=place)])
    return user


@pytest.fixture
def owner(shop: None):
    """Who may do everything."""
    return make_user("Owner")


@pytest.fixture
def owner_client(client, owner):
    """A browserless client signed in as the owner."""
    client.force_login(owner)
    return client


@pytest.fixture
def worker_environment(cluster: Cluster, state: State, transactional_db: None) -> dict[str, str]:
    """Variables for a separate worker process on the test database."""
    from django.db import connection

    return {
        **os.environ,
        **cluster.environment(),
        "KIZAMI_DB_NAME": connection.settings_dict["NAME"],
        "KIZAMI_STATE_DIR": str(state.folder),
        "DJANGO_SETTINGS_MODULE": "workshop.settings",
        "PYTHONPATH": str(Path(__file__).resolve().parents[1] / "src"),
    }

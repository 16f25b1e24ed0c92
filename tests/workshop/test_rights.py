"""Who may reach what: every address with every place of the shop, and what the database itself refuses."""

from __future__ import annotations

from collections.abc import Iterator

import psycopg
import pytest
from django.db import connection
from django.test import override_settings
from django.urls import URLPattern, URLResolver, get_resolver, reverse
from django.urls.converters import IntConverter

from launch.cluster import Cluster
from launch.state import Role
from tests.conftest import make_user
from tests.workshop.drawn import as_drawn
from tests.workshop.lists import MIXED
from workshop.catalogue.models import Product
from workshop.intake.taking import take_list
from workshop.making.keeping import change_wording, step
from workshop.making.models import Finding, Revision
from workshop.making.tasks import make_list
from workshop.orders.models import Event, OrderLine
from workshop.people.places import RIGHTS
from workshop.people.rights import ANYBODY, RIGHTS_OF, SIGNED_IN

ROLES = [*RIGHTS, None]


def addresses(patterns=None, prefix: str = "") -> Iterator[tuple[str, dict[str, object]]]:
    """Every named address, with something for each of its places."""
    for one in patterns if patterns is not None else get_resolver().url_patterns:
        if isinstance(one, URLResolver):
            inner = f"{prefix}{one.namespace}:" if one.namespace else prefix
            yield from addresses(one.url_patterns, inner)
        elif isinstance(one, URLPattern):
            assert one.name, one
            wanted = {
                name: 1 if isinstance(converter, IntConverter) else "CREW-TAG"
                for name, converter in one.pattern.converters.items()
            }
            yield f"{prefix}{one.name}", wanted


def test_every_address_stands_in_the_table_and_the_table_has_no_other() -> None:
    assert {name for name, _ in addresses()} == set(RIGHTS_OF)


def test_every_right_of_the_table_is_somebody_s() -> None:
    asked = {right.rpartition(".")[2] for right in RIGHTS_OF.values()} - {ANYBODY, SIGNED_IN}
    assert asked == set(RIGHTS["Owner"])
    for place, rights in RIGHTS.items():
        assert set(rights) <= set(RIGHTS["Owner"]), place


@pytest.mark.django_db
@pytest.mark.parametrize("role", ROLES, ids=str)
def test_every_address_with_every_place(client, shop, role: str | None) -> None:
    client.raise_request_exception = False
    if role is not None:
        client.force_login(make_user(role))
    wrong = []
    for name, wanted in addresses():
        if name in ("people:sign-out", "catalogue:share"):
            continue  # one ends the visit, the other makes a hundred pieces
        address, right = reverse(name, kwargs=wanted), RIGHTS_OF[name]
        for ask in (client.get, client.post):
            answer = ask(address)
            sent_away = answer.status_code == 302 and answer["Location"].startswith(reverse("people:sign-in"))
            if right == ANYBODY:
                fine = answer.status_code != 403 and not sent_away
            elif role is None:
                fine = sent_away
            elif right == SIGNED_IN or right.rpartition(".")[2] in RIGHTS[role]:
                fine = answer.status_code != 403 and not sent_away
            else:
                fine = answer.status_code == 403
            # The address that is refused a second time by its method is not reached either.
            if answer.streaming:
                list(answer.streaming_content)
            if not fine and answer.status_code != 405:
                wrong.append((name, ask.__name__, answer.status_code))
    assert wrong == []


@pytest.mark.django_db
def test_an_address_that_stands_in_no_table_is_closed_even_to_the_owner(owner_client, monkeypatch) -> None:
    monkeypatch.delitem(RIGHTS_OF, "book:book")
    assert owner_client.get(reverse("book:book")).status_code == 403


@pytest.mark.django_db
@pytest.mark.parametrize(
    ("role", "sees"),
    [("Owner", True), ("Desk", True), ("Bench", False), ("Production", False)],
)
def test_customers_leave_the_shop_only_by_those_who_may(client, shop, owner, role: str, sees: bool) -> None:
    take_list(MIXED.encode(), name="x", user=owner)
    client.force_login(owner if role == "Owner" else make_user(role))
    page = client.get(reverse("book:book")).content.decode()
    assert (reverse("book:export-csv") in page) is sees
    assert (client.get(reverse("book:export-csv")).status_code == 200) is sees
    aside = client.get(reverse("intake:set-aside")).content.decode()
    assert ("Download with reasons" in aside) is sees


@pytest.mark.django_db
def test_pages_of_the_signed_in_are_kept_by_no_cache(client, owner_client) -> None:
    assert owner_client.get(reverse("book:book"))["Cache-Control"] == "no-store"


@pytest.mark.parametrize(("tls", "secure"), [("1", True), ("", False)])
def test_behind_tls_cookies_and_headers_are_strict(monkeypatch, tls: str, secure: bool) -> None:
    import importlib

    from workshop import settings

    monkeypatch.setenv("KIZAMI_TLS", tls)
    monkeypatch.setenv("KIZAMI_HOSTS", "shop.example")
    found = importlib.reload(settings)
    try:
        assert ((secure,) * 3) == (
            found.SESSION_COOKIE_SECURE,
            found.CSRF_COOKIE_SECURE,
            found.SECURE_SSL_REDIRECT,
        )
        assert (found.SECURE_HSTS_SECONDS > 0) is secure
        if secure:
            assert found.SECURE_PROXY_SSL_HEADER == ("HTTP_X_FORWARDED_PROTO", "https")
            assert found.CSRF_TRUSTED_ORIGINS == ["https://shop.example"]
    finally:
        monkeypatch.undo()
        importlib.reload(settings)


@pytest.fixture
def as_application(cluster: Cluster, transactional_db) -> Iterator[psycopg.Connection]:
    """A session of the application's role on the test database."""
    environment = cluster.environment(Role.APPLICATION)
    with psycopg.connect(
        host="127.0.0.1", port=environment["KIZAMI_DB_PORT"], user=environment["KIZAMI_DB_USER"],
        password=environment["KIZAMI_DB_PASSWORD"], dbname=connection.settings_dict["NAME"], autocommit=True,
    ) as session:  # fmt: skip
        yield session


class TestDatabase:
    """The application's role in the database."""

    @pytest.mark.parametrize(
        "statement",
        [
            "UPDATE orders_event SET what = 'nothing'",
            "DELETE FROM orders_event",
            "TRUNCATE orders_event CASCADE",
            "UPDATE making_revision SET wording = ''",
            "DELETE FROM making_revision",
            "UPDATE making_finding SET level = 'passes'",
            "DELETE FROM people_peopleevent",
            "DELETE FROM django_migrations",
            "CREATE TABLE mine (x int)",
            "CREATE SCHEMA mine",
            "CREATE TEMP TABLE mine (x int)",
            "CREATE DATABASE mine",
            "CREATE ROLE mine",
            "ALTER TABLE orders_event ADD COLUMN x int",
            "ALTER TABLE orders_piece DISABLE TRIGGER ALL",
            "DROP TABLE orders_event",
            "COPY orders_event TO PROGRAM 'cat'",
            "COPY orders_event TO '/tmp/kizami-copied'",
            "SELECT pg_read_file('/etc/passwd')",
            "SELECT lo_import('/etc/passwd')",
            "CREATE EXTENSION dblink",
            "SET ROLE kizami_owner",
            "SET session_replication_role = replica",
        ],
    )
    def test_it_may_not(self, as_application: psycopg.Connection, statement: str) -> None:
        with pytest.raises(psycopg.errors.InsufficientPrivilege):
            as_application.execute(statement)

    def test_it_is_nobody_of_rank(self, as_application: psycopg.Connection) -> None:
        row = as_application.execute(
            "SELECT rolsuper, rolcreatedb, rolcreaterole, rolreplication, rolbypassrls FROM pg_roles"
            " WHERE rolname = current_user"
        ).fetchone()
        assert row == (False,) * 5

    def test_the_work_of_a_day_needs_no_more(self, shop, client, cluster: Cluster, transactional_db) -> None:
        owner = make_user("Owner")
        was = dict(connection.settings_dict)
        environment = cluster.environment(Role.APPLICATION)
        connection.close()
        connection.settings_dict.update(
            USER=environment["KIZAMI_DB_USER"], PASSWORD=environment["KIZAMI_DB_PASSWORD"]
        )
        try:
            with connection.cursor() as cursor:
                cursor.execute("SELECT current_user")
                assert cursor.fetchone() == ("kizami",)
            sign_in = {"username": "owner", "password": "ownerowner"}
            assert client.post(reverse("people:sign-in"), sign_in).status_code == 302
            taken = take_list(MIXED.encode(), name="x", user=owner)
            make_list(taken.pk)
            line = OrderLine.objects.filter(stage="ready").first()
            change_wording(line.pk, "Ida", user=owner)
            step(line.pk, back=True, user=owner)
            sent = as_drawn(line, {"wording": "Bo"})
            assert client.post(reverse("bench:keep", args=[line.pk]), sent).status_code == 302
            Product.objects.put({**line.product.table, "name": "Another"})
            take_list(MIXED.replace("Halloran", "Odile").encode(), name="y", user=owner)
            for name in ("book:book", "intake:set-aside", "catalogue:products", "people:people"):
                assert client.get(reverse(name)).status_code == 200, name
            assert Event.objects.exists() and Revision.objects.exists() and Finding.objects.exists()
        finally:
            connection.close()
            connection.settings_dict.update(was)
            with connection.cursor() as cursor:
                cursor.execute("DELETE FROM procrastinate_jobs")


@pytest.mark.django_db
def test_guessing_is_slowed_over_many_names_and_over_many_addresses(client, shop) -> None:
    make_user("Desk")
    address = reverse("people:sign-in")
    with override_settings(KIZAMI_TRIES_OF_AN_ADDRESS=5, KIZAMI_TRIES_OF_A_NAME=1000):
        for n in range(5):
            client.post(address, {"username": f"name {n}", "password": "x"})
        answer = client.post(address, {"username": "desk", "password": "deskdesk"})
        assert answer.status_code == 429 and b"from your address" in answer.content
        other = client.post(address, {"username": "desk", "password": "deskdesk"}, REMOTE_ADDR="10.9.9.9")
        assert other.status_code == 302
    client.logout()
    with override_settings(KIZAMI_TRIES_OF_AN_ADDRESS=1000, KIZAMI_TRIES_OF_A_NAME=5):
        for n in range(5):
            client.post(address, {"username": "desk", "password": "x"}, REMOTE_ADDR=f"10.0.0.{n}")
        answer = client.post(address, {"username": "desk", "password": "deskdesk"}, REMOTE_ADDR="10.0.1.1")
        assert answer.status_code == 429 and b"several addresses" in answer.content


@pytest.mark.django_db
def test_nul_in_any_field_breaks_no_page(client, owner_client, shop) -> None:
    """A database takes none in a text; where it may come from is every field of every form."""
    fields = (
        "username", "password", "name", "place", "do", "q", "list", "stage", "check", "customer", "typed",
        "source", "line", "row", "edition", "wording", "second", "words", "word", "kind", "code", "pasted", "text",
    )  # fmt: skip
    rubbish = dict.fromkeys(fields, "a\x00b")
    client.post(reverse("people:sign-in"), rubbish)
    for name, wanted in addresses():
        if name in ("people:sign-out", "catalogue:share"):
            continue
        for ask in (owner_client.get, owner_client.post):
            assert ask(reverse(name, kwargs=wanted), rubbish).status_code < 500, name
    assert owner_client.get("/catalogue/CREW%00TAG/").status_code == 400

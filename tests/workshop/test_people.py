"""People: added, renamed, moved, barred; everybody with a password of their own."""

from __future__ import annotations

import re

import pytest
from django.contrib.auth.models import User
from django.test import Client
from django.urls import reverse

from tests.conftest import make_user
from workshop.people.models import FirstPassword, PeopleEvent
from workshop.people.services import PeopleError, add_person, bar, move

pytestmark = pytest.mark.django_db
PEOPLE, SIGN_IN, PASSWORD = reverse("people:people"), reverse("people:sign-in"), reverse("people:password")
BOOK = reverse("book:book")


def sign_in(name: str, password: str) -> Client | None:
    client = Client()
    answer = client.post(SIGN_IN, {"username": name, "password": password})
    return client if answer.status_code == 302 else None


def act(client: Client, user: User, **sent: str):
    return client.post(reverse("people:change", args=[user.pk]), sent, follow=True)


def first_password(page: str) -> str:
    return re.search(r'select-all">([^<]+)<', page)[1]


def choose(client: Client, old: str, new: str, again: str = ""):
    sent = {"old_password": old, "new_password1": new, "new_password2": again or new}
    return client.post(PASSWORD, sent)


def test_a_new_person_gets_a_password_that_is_shown_once_and_must_be_changed(owner_client) -> None:
    page = owner_client.post(reverse("people:add"), {"name": " Ilse  B ", "place": "Desk"}).content.decode()
    given = first_password(page)
    assert given not in owner_client.get(PEOPLE).content.decode()
    ilse = sign_in("Ilse B", given)
    assert ilse is not None
    # Nothing can be done before, by page or by part of a page.
    assert ilse.get(BOOK).url == PASSWORD
    assert ilse.post(reverse("book:act"), {"do": "rush"}).url == PASSWORD
    assert "given to you by somebody else" in ilse.get(PASSWORD).content.decode()
    assert choose(ilse, given, "short").status_code == 422
    assert choose(ilse, given, "long enough now", "and another one").status_code == 422
    assert choose(ilse, "not it at all", "long enough now").status_code == 422
    assert choose(ilse, given, "long enough now").status_code == 302
    assert ilse.get(BOOK).status_code == 200
    assert sign_in("Ilse B", given) is None and sign_in("Ilse B", "long enough now") is not None


def test_anybody_can_change_their_own_and_other_browsers_have_to_sign_in_again(shop) -> None:
    make_user("Bench")
    here, there = sign_in("bench", "benchbench"), sign_in("bench", "benchbench")
    assert choose(here, "benchbench", "quite another one").status_code == 302
    assert here.get(BOOK).status_code == 200
    assert there.get(BOOK).status_code == 302


def test_who_is_barred_is_out_at_once_and_what_they_did_stays_theirs(owner_client, owner) -> None:
    desk = make_user("Desk")
    client = sign_in("desk", "deskdesk")
    page = act(owner_client, desk, do="bar").content.decode()
    assert "barred" in page
    assert client.get(BOOK).status_code == 302 and sign_in("desk", "deskdesk") is None
    act(owner_client, desk, do="let in")
    assert sign_in("desk", "deskdesk") is not None


def test_another_place_is_another_set_of_rights_at_once(owner_client, shop) -> None:
    desk = make_user("Desk")
    client = sign_in("desk", "deskdesk")
    assert client.get(reverse("intake:take")).status_code == 200
    act(owner_client, desk, do="place", place="Production")
    assert client.get(reverse("intake:take")).status_code == 403
    assert client.get(PEOPLE).status_code == 403


def test_a_name_is_changed_and_is_nobody_else_s(owner_client, owner) -> None:
    desk = make_user("Desk")
    assert "somebody called Owner already" in act(owner_client, desk, do="name", name="OWNER ").content.decode().replace("OWNER", "Owner")  # fmt: skip
    for bad in ("", " ", "x" * 61):
        assert "1 to 60 characters" in act(owner_client, desk, do="name", name=bad).content.decode()
    act(owner_client, desk, do="name", name="Piet")
    assert sign_in("Piet", "deskdesk") is not None


def test_a_forgotten_password_is_replaced(owner_client, shop) -> None:
    desk = make_user("Desk")
    page = act(owner_client, desk, do="password").content.decode()
    assert sign_in("desk", "deskdesk") is None
    assert sign_in("desk", first_password(page)).get(BOOK).url == PASSWORD
    assert FirstPassword.objects.get().user == desk


def test_a_shop_is_never_without_an_owner(owner) -> None:
    other, _ = add_person("Second", "Owner", by=owner)
    with pytest.raises(PeopleError, match="yourself"):
        bar(owner, barred=True, by=owner)
    bar(other, barred=True, by=owner)
    for act_on in (lambda: move(owner, "Desk", by=owner), lambda: bar(owner, barred=True, by=other)):
        with pytest.raises(PeopleError, match="needs an owner"):
            act_on()
    assert User.objects.filter(groups__name="Owner", is_active=True).get() == owner


def test_what_was_done_with_people_is_on_record(owner_client, shop) -> None:
    desk = make_user("Desk")
    act(owner_client, desk, do="name", name="Piet")
    act(owner_client, desk, do="bar")
    assert [event.what for event in PeopleEvent.objects.all()] == ["Barred: Piet", "Renamed desk to Piet"]
    assert "Barred: Piet" in owner_client.get(PEOPLE).content.decode()


def test_programs_of_the_shop_are_nobody_that_can_be_given_a_place(owner_client, shop) -> None:
    feed = User.objects.create(username="shop feed", is_active=False)
    assert "shop feed" not in owner_client.get(PEOPLE).content.decode()
    assert act(owner_client, feed, do="let in").status_code == 404

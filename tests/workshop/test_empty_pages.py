"""Pages of a shop that has nothing yet: each says what to do, with a way to do it."""

from __future__ import annotations

import re

import pytest
from django.urls import reverse

from tests.conftest import make_user
from workshop.feeds.models import Feed
from workshop.sources.models import Source

pytestmark = pytest.mark.django_db

PAGES = [
    "book:book", "book:bundles", "bench:first", "runs:runs", "stations:stations", "catalogue:products",
    "catalogue:shapes", "catalogue:typefaces", "catalogue:standards", "curing:together", "intake:set-aside",
    "intake:words", "intake:logos", "intake:take", "feeds:feeds", "people:people",
]  # fmt: skip


def main_of(page: str) -> str:
    return page.partition("<main")[2].partition("</main>")[0]


@pytest.mark.parametrize("name", PAGES)
def test_an_empty_page_says_what_it_is_for_and_leads_on(owner_client, name: str) -> None:
    answer = owner_client.get(reverse(name))
    assert answer.status_code == 200
    main = main_of(answer.content.decode())
    words = re.sub(r"<[^>]+>", " ", main).split()
    # A heading, a sentence, and something to press or to follow that is no way back alone.
    assert "<h1" in main and len(words) > 12
    ways = re.findall(r'<(?:a|button)[^>]*class="[^"]*\bact\b', main) + re.findall(r"<form", main)
    assert ways, name


@pytest.mark.parametrize("name", ["bench:first", "curing:together", "intake:set-aside", "feeds:feeds"])
@pytest.mark.parametrize("place", ["Desk", "Bench", "Production"])
def test_nobody_is_led_where_their_place_may_not_go(client, owner, name: str, place: str) -> None:
    client.force_login(make_user(place))
    main = main_of(client.get(reverse(name)).content.decode())
    for address in set(re.findall(r'href="(/[^"#?]*)', main)):
        assert client.get(address).status_code == 200, address


def test_a_shop_feed_is_added_and_what_is_wrong_is_said(owner_client) -> None:
    add = reverse("feeds:add")
    Source.objects.create(name="our own lists")
    for sent, said in (
        ({"name": "", "address": "https://shop.example/k"}, "Give the shop a name"),
        ({"name": "Quay", "address": "shop"}, "not an address"),
        ({"name": "Quay", "address": "ftp://shop.example"}, "not an address"),
        ({"name": "our own lists", "address": "https://shop.example/k"}, "already"),
        ({"name": "x" * 81, "address": "https://shop.example/k"}, "Give the shop a name"),
    ):
        answer = owner_client.post(add, sent)
        page = answer.content.decode()
        assert answer.status_code == 422 and said in page and "Nothing was added" in page
    # What was typed stays.
    assert 'value="https://shop.example/k"' in page
    assert not Feed.objects.exists() and Source.objects.count() == 1
    owner_client.post(add, {"name": "  Quay   shop ", "address": "https://shop.example/k"})
    feed = Feed.objects.get()
    assert (feed.source.name, feed.address, feed.is_on) == ("Quay shop", "https://shop.example/k", True)


def test_who_may_not_change_feeds_adds_none(client, owner) -> None:
    client.force_login(make_user("Production"))
    answer = client.post(reverse("feeds:add"), {"name": "Quay", "address": "https://shop.example"})
    assert answer.status_code == 403 and not Feed.objects.exists()

"""The guide inside the application: every chapter, a way to it from every place, and a search."""

from __future__ import annotations

import re

import pytest
from django.conf import settings
from django.test import Client
from django.urls import reverse

from workshop.guide.chapters import PLACES, chapters, search

pytestmark = pytest.mark.django_db


def test_every_chapter_of_the_documents_is_there_whole(owner_client) -> None:
    text = (settings.DOCS_DIR / "guide.md").read_text("utf-8")
    titles = re.findall(r"^## (.+)$", text, flags=re.MULTILINE)
    assert titles and [c.title for c in chapters().values()][: len(titles)] == titles
    assert len(set(chapters())) == len(titles) + 3
    # As many words as were written stand on the pages, but for the signs that mark them up.
    written = set(re.findall(r"[A-Za-z]{4,}", re.sub(r"\]\([^)]*\)", "]", text)))
    shown = set(
        re.findall(r"[A-Za-z]{4,}", " ".join(p for c in chapters().values() for p in (c.title, *c.passages)))
    )
    assert written - shown <= {"Using", "Kizami"}
    for slug in chapters():
        answer = owner_client.get(reverse("guide:chapter", args=[slug]))
        assert answer.status_code == 200 and len(answer.content) < 100_000


@pytest.mark.parametrize(
    ("place", "name"),
    [("book", "book:book"), ("runs", "runs:runs"), ("catalogue", "catalogue:products"),
     ("stations", "stations:stations"), ("bench", "bench:first")],
)  # fmt: skip
def test_every_place_leads_to_its_chapter(owner_client, place: str, name: str) -> None:
    page = owner_client.get(reverse(name)).content.decode()
    chapter = reverse("guide:chapter", args=[PLACES[place]])
    assert f'href="{chapter}"' in page
    assert owner_client.get(chapter).status_code == 200


def test_every_link_of_the_guide_leads_somewhere(owner_client) -> None:
    for chapter in chapters().values():
        for address in re.findall(r'href="([^"]+)"', chapter.html):
            assert owner_client.get(address).status_code == 200, (chapter.slug, address)


def test_every_picture_of_the_guide_is_there_and_nothing_else_is(owner_client, client) -> None:
    shown = [a for c in chapters().values() for a in re.findall(r'<img src="([^"]+)" alt="[^"]', c.html)]
    assert len(shown) >= 6
    for address in shown:
        answer = owner_client.get(address)
        assert answer.status_code == 200 and answer["Content-Type"] == "image/png"
        assert b"".join(answer.streaming_content).startswith(b"\x89PNG")
    assert owner_client.get("/guide/pictures/guide.png").status_code == 404
    client.logout()
    assert client.get(shown[0]).status_code == 302


def test_words_are_found_wherever_they_stand_and_shown_as_words(owner_client) -> None:
    found = search("CUT open")
    assert found and all(
        "cut" in one.passage.casefold() and "open" in one.passage.casefold() for one in found
    )
    page = owner_client.get(reverse("guide:guide"), {"q": "<script> ring"}).content.decode()
    assert "<script> ring" not in page and "Nothing in the guide" in page
    assert "Look for words" in page
    assert search("  ") == []
    # However much there is, a page stays a page.
    assert len(search("e")) <= 40


def test_a_chapter_that_there_is_not(owner_client) -> None:
    assert owner_client.get("/guide/no-such/").status_code == 404
    # And nobody reads it who is not signed in.
    assert Client().get(reverse("guide:guide")).status_code == 302

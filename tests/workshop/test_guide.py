"""The guide inside the application: every chapter, a way to it from every place, and a search."""

from __future__ import annotations

import re
import tomllib

import pytest
from django.conf import settings
from django.test import Client
from django.urls import reverse

from kizami.checks.limits_told import limit_told, value_told
from kizami.processes import LIMITS_KNOWN
from kizami.standards import shipped_standards
from workshop.guide.chapters import CHAPTER_OF, chapters, pictures, search

pytestmark = pytest.mark.django_db


def test_every_page_of_the_documents_is_a_chapter_whole_and_light(owner_client) -> None:
    pages = sorted((settings.DOCS_DIR / "guide").glob("[0-9]*.md"))
    texts = [page.read_text("utf-8") for page in pages]
    titles = [text.partition("\n")[0].removeprefix("# ") for text in texts]
    assert len(titles) >= 12 and [c.title for c in chapters().values()][: len(titles)] == titles
    # As many words as were written stand on the pages, but for the signs that mark them up.
    written = set(re.findall(r"[A-Za-z]{4,}", re.sub(r"\]\([^)]*\)", "]", "\n".join(texts))))
    shown = set(
        re.findall(r"[A-Za-z]{4,}", " ".join(p for c in chapters().values() for p in (c.title, *c.passages)))
    )
    assert written <= shown
    for slug in chapters():
        answer = owner_client.get(reverse("guide:chapter", args=[slug]))
        assert answer.status_code == 200 and len(answer.content) < 100_000
    # The index of the folder names each of them, in their order.
    index = (settings.DOCS_DIR / "guide" / "README.md").read_text("utf-8")
    assert re.findall(r"\(([0-9][^)]+)\)", index) == [page.name for page in pages]


def test_rules_of_thumb_are_those_that_the_program_has() -> None:
    """Every limit and density of the page, against the tables that ship."""
    rules = (settings.DOCS_DIR / "guide" / "11-rules-of-thumb.md").read_text("utf-8")
    ships = shipped_standards()
    rows = {row[0]: row[1:] for row in (line.split(" | ") for line in rules.splitlines() if " | " in line)}
    for code in LIMITS_KNOWN:
        told = limit_told(code)
        said = rows[f"| {told.title}, {told.word}"]
        limits = [process.limits.get_of(code) for process in ships.processes.values()]
        expected = ["–" if value is None else value_told(code, value) for value in limits]
        assert [cell.removesuffix(" |") for cell in said] == expected, code
    for material in ships.materials.values():
        assert rows[f"| {material.name}"][0] == f"{material.density_g_cm3:g} g/cm³"


def test_links_between_documents_lead_to_files_that_are_there() -> None:
    for path in [settings.DOCS_DIR.parent / "README.md", *settings.DOCS_DIR.rglob("*.md")]:
        for target in re.findall(r"\]\(([^)#]+)\)", path.read_text("utf-8")):
            if not target.startswith("http"):
                assert (path.parent / target).exists(), (path.name, target)


def test_every_picture_of_the_documents_can_be_taken_again_by_the_command() -> None:
    taken = tomllib.loads((settings.DOCS_DIR / "pictures.toml").read_text("utf-8"))["picture"]
    assert {picture["name"] for picture in taken} == set(pictures()) and len(pictures()) < 20


@pytest.mark.parametrize(
    ("name", "slug"),
    [("book:book", "the-order-book"), ("intake:take", "take-in-a-list"), ("intake:set-aside", "take-in-a-list"),
     ("intake:logos", "typefaces-and-logos"), ("feeds:feeds", "shop-feeds"), ("bench:first", "the-bench"),
     ("curing:together", "remedies"), ("runs:runs", "runs"), ("stations:stations", "stations"),
     ("catalogue:products", "products"), ("catalogue:new", "products"),
     ("catalogue:typefaces", "typefaces-and-logos"), ("catalogue:standards", "limits-and-materials"),
     ("people:people", "people-and-places"), ("people:password", "people-and-places"),
     ("retention:look", "running-it")],
)  # fmt: skip
def test_every_page_leads_to_its_chapter(owner_client, name: str, slug: str) -> None:
    page = owner_client.get(reverse(name)).content.decode()
    chapter = reverse("guide:chapter", args=[slug])
    assert f'href="{chapter}">Guide' in page
    assert owner_client.get(chapter).status_code == 200


def test_every_chapter_that_pages_lead_to_is_there() -> None:
    assert set(CHAPTER_OF.values()) <= set(chapters())


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
